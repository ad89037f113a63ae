"""The drawings of a scene: every view of every kind of scene can be read, as a picture and as a table."""

import re
from typing import Any

import pytest

from rapzel.core.document.places import changed
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.ui.drawing import text_width
from rapzel.workbench.drawings import DRAWINGS
from tests.apps.dial_plans import DROPS, GLASS
from tests.plans import LUNGE

YARD = {
    "state": "clear", "latitude_deg": 51.5, "longitude_deg": 0.9, "date": "2027-05-10", "hour": 20.0,
    "utc_offset_h": 1.0,
}  # fmt: skip
DRIVES = [
    {"name": "High", "frames_per_s": 12.0},
    {"name": "Low", "frames_per_s": 5.0, "hss": False},
]
SCENES: dict[str, dict[str, Any]] = {
    "pulse": LUNGE,
    "beyond the sync speed": changed(LUNGE, {"exposure.shutter_s": 1 / 400}),
    "high-speed sync": changed(
        LUNGE,
        {
            "exposure.method": "hss",
            "exposure.shutter_s": 1 / 2000,
            "ambient": {"ev100": 12.0},
        },
    ),
    "a burst": changed(
        LUNGE,
        {"exposure.frames_per_s": 8.0, "exposure.burst": 20, "camera.drives": DRIVES},
    ),
    "by the sky": changed(LUNGE, {"ambient": {"sky": YARD}}),
    "at noon": changed(
        LUNGE, {"ambient": {"sky": {**YARD, "hour": 12.0, "state": "heavy"}}}
    ),
    "heard": GLASS,
    "drops": DROPS,
    "without a light": changed(LUNGE, {"lights": []}),
    "nothing known of the chain": changed(
        LUNGE,
        {
            "camera.lag_s": None,
            "trigger.latency_s": None,
            "camera.curtain_travel_s": None,
        },
    ),
}
PLACES = re.compile(r' (?:x|y|x1|x2|y1|y2|cx|cy|width|height)="([^"]*)"')


@pytest.mark.parametrize("view", DRAWINGS)
@pytest.mark.parametrize("scene", SCENES)
def test_a_view_is_drawn_and_told_for_every_scene(view: str, scene: str) -> None:
    drawing = DRAWINGS[view](Physics(read_possible_scene(SCENES[scene])))
    assert drawing.summary.endswith((".", "yet", "here")), drawing.summary
    assert all(len(row) == len(drawing.headers) for row in drawing.rows)
    for figure in PLACES.findall(drawing.svg.markup()):
        if not figure.endswith("%"):
            assert abs(float(figure)) < 1e5, (
                "no place is lost to infinity, or none at all"
            )


@pytest.mark.parametrize("view", DRAWINGS)
@pytest.mark.parametrize("scene", SCENES)
def test_no_words_of_a_view_are_cut_off_at_its_edges(view: str, scene: str) -> None:
    svg = DRAWINGS[view](Physics(read_possible_scene(SCENES[scene]))).svg
    for tag, _, attributes, text in svg.parts:
        if tag != "text":
            continue
        begins = {"start": 0.0, "middle": 0.5, "end": 1.0}[attributes["text-anchor"]]
        left = float(attributes["x"]) - begins * text_width(text)
        assert left > -6, (text, left)
        assert left + text_width(text) < svg.width + 12, (text, left)
