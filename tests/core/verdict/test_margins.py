"""The table of margins: every row is whole, and a new one is a file and a line."""

import pytest

from rapzel.core.advice import advise
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.evaluate import evaluate, evaluation_schema
from rapzel.core.methods import METHODS
from rapzel.core.verdict import margins
from rapzel.core.verdict.change import Change
from rapzel.core.verdict.kind import MarginKind
from rapzel.core.verdict.margin import margin, state_of
from rapzel.core.verdict.margins import MARGINS
from rapzel.ui.margins import MarginView
from tests.plans import LUNGE


@pytest.mark.parametrize("kind", MARGINS.values(), ids=lambda kind: kind.name)
def test_every_margin_has_its_words(kind: MarginKind) -> None:
    scene = read_scene(LUNGE)
    assert kind.title == kind.title.capitalize()
    assert kind.question.startswith(("whether", "how"))
    for method in METHODS.values():
        for over in (False, True):
            assert kind.falls_short(method, scene, over).endswith(" by")
    assert kind.to_spare.count("{}") == bool(kind.to_spare)


def _lens_rent(physics):
    """A made-up margin: no lens longer than 40 mm is to be had."""
    over_mm = physics.scene.lens.focal_length_mm - 40.0
    return margin(
        "reach", -over_mm, "mm", state_of(-over_mm), f"{over_mm:g} mm too long", []
    )


def _a_shorter_lens(scene: Scene, now, imperial: bool = False):
    yield Change("reach", "a 35 mm lens", (("lens.focal_length_mm", 35.0),))


REACH = MarginKind(
    name="reach",
    title="Reach",
    judge=_lens_rent,
    remedies=_a_shorter_lens,
    says=lambda physics, one: f"the lens is {one.says}",
    question="which lens there is",
    brief="reach",
    falls_short=lambda method, scene, over: "the lens is too long by",
)


def test_one_more_row_is_judged_said_closed_and_shown(monkeypatch) -> None:
    monkeypatch.setitem(margins.MARGINS, "reach", REACH)
    now = evaluate(LUNGE)
    assert now.margin("reach").state == "fails"
    assert "the lens is 10 mm too long" in now.sentence
    offers = [
        one.says for one in advise(read_scene(LUNGE), now) if one.margin == "reach"
    ]
    assert offers == ["a 35 mm lens"]
    assert MarginView(now.margin("reach")).title == "Reach"
    assert (
        "reach" in evaluation_schema()["$defs"]["Margin"]["properties"]["name"]["enum"]
    )
