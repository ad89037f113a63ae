"""What a kind of margin is: all that the rest of Rapzel asks about one, in one row of a table (`verdict.margins`)."""

from collections.abc import Callable
from dataclasses import dataclass

from rapzel.core.document.evaluation import Margin
from rapzel.core.document.scene import Scene
from rapzel.core.methods import Method
from rapzel.core.physics import Physics
from rapzel.core.verdict.change import Remedy

Judge = Callable[[Physics], Margin]
Words = Callable[[Physics, Margin], str]


def always_there(physics: Physics) -> bool:
    """For margins that every scene has."""
    return True


def never(margin: Margin) -> bool:
    """For margins that only must not fail: that they hold is not worth a word."""
    return False


@dataclass(frozen=True, slots=True)
class MarginKind:
    """One margin of the strip.

    judge: the margin of a scene; remedies: what may close it.
    says: its part of the sentence. told: whether it is worth a word where it holds; where it probably does, it is
    worth one if it ever is. question: what is not known where it is not known.
    falls_short: 'smeared by', before stops, of what a search nearly found (method, scene, whether it is over).
    doubted: whether it is worth a word of its own where it is unsure, since its share is no guess that probably holds.
    applies: whether a scene has it at all: a tile that says nothing only takes room.
    brief: its name within a sentence; to_spare: what is left, `{}` for stops, empty where it is not counted in stops.
    """

    name: str
    title: str
    judge: Judge
    remedies: Remedy
    says: Words
    question: str
    brief: str
    falls_short: Callable[[Method, Scene, bool], str]
    told: Callable[[Margin], bool] = never
    to_spare: str = ""
    doubted: bool = False
    applies: Callable[[Physics], bool] = always_there

    @property
    def guessed(self) -> bool:
        """Whether that it probably holds is worth a word."""
        return self.told is not never
