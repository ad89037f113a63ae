"""The place of a tool: what it asks, how it is solved, and what it says in one sentence."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ConfigDict, ValidationError

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.document.upgrade import FORMAT
from rapzel.core.evaluate import evaluate
from rapzel.core.possible import read_possible_scene
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.part import Part
from rapzel.core.shared.refusals import refused

Lists = Sequence[tuple[str, Sequence[str]]]  # (title, sentences)


class ToolAnswer(BaseModel):
    """What a tool gives: plain numbers in SI, None where a thing is not known."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False)


@dataclass(frozen=True)
class Tool:
    """One tool. `asks` names its inputs with their labels, `solve` answers them, `says` puts it into a sentence.

    from_scene: the inputs that a scene and its evaluation give; the others keep what they begin with.
    table: the rows of its export as (header, rows of numbers).
    lists: what to do or to bring, as titled lists of sentences.
    lacks: what a scene lacks for this tool, in words; empty where it lacks nothing.
    to_scene: the values by path that make what was asked and answered the scene's own; None where nothing does.
    """

    slug: str
    title: str
    purpose: str
    asks: type[Part]
    answers: type[ToolAnswer]
    beginning: Mapping[str, Any]
    solve: Callable[[Any], Any]
    says: Callable[[Any, Any], str]
    from_scene: Callable[[Scene, Evaluation], dict[str, Any]]
    table: Callable[[Any], tuple[list[str], list[list[float]]]]
    lists: Callable[[Any, Any], Lists] = lambda asked, answer: ()
    lacks: Callable[[Scene], str] = lambda scene: ""
    to_scene: Callable[[Scene, Any], dict[str, Any]] | None = None

    @property
    def is_of_scenes(self) -> bool:
        """Whether a scene can take over what it says."""
        return self.to_scene is not None

    def read(self, document: Any) -> Part:
        """The inputs that a document gives, or that a scene document says.

        Raises DocumentError with the path and reason of all that is wrong.
        """
        if not isinstance(document, Mapping):
            raise DocumentError([Problem("", "what a tool is asked is a JSON object")])
        # A scene may be asked like any other question: what the tool needs stands in it.
        if document.get("format") == FORMAT:
            document = self._said_by(document)
        try:
            return self.asks.model_validate(dict(document))
        except ValidationError as error:
            raise refused(error) from None

    def _said_by(self, document: Mapping[str, Any]) -> dict[str, Any]:
        scene = read_possible_scene(document)
        lacking = self.lacks(scene)
        if lacking:
            raise DocumentError([Problem("", lacking)])
        # What no scene says keeps what the tool begins with.
        return {**self.beginning, **self.from_scene(scene, evaluate(scene))}

    def schema(self) -> dict[str, Any]:
        """The published JSON Schema of inputs and answer (draft 2020-12)."""
        parts = {
            "in": self.asks.model_json_schema(),
            "out": self.answers.model_json_schema(mode="serialization"),
        }
        parts["out"]["properties"]["says"] = {
            "type": "string",
            "description": "the answer in words, and why a figure is null",
        }
        shared = {
            name: body
            for part in parts.values()
            for name, body in part.pop("$defs", {}).items()
        }
        return {
            "$schema": "https://json-schema.org/draft/2020-12/schema",
            "title": f"Rapzel tool: {self.title}",
            "type": "object",
            "properties": parts,
            "$defs": shared,
        }


def ask(tool: Tool, document: Any) -> dict[str, Any]:
    """The answer of a tool to a document of inputs, as a document. Raises DocumentError."""
    return answered(tool, tool.read(document))


def answered(tool: Tool, asked: Part) -> dict[str, Any]:
    """The answer as a document, with what it says in words: there is told why a figure is null."""
    answer: ToolAnswer = tool.solve(asked)
    return {**answer.model_dump(mode="json"), "says": tool.says(asked, answer)}
