"""The drawings of a strobe's page: what they write can be read."""

from xml.etree import ElementTree

import pytest

from rapzel.core.document.gear import Strobe
from rapzel.kit.drawings import draw_durations


@pytest.mark.parametrize("least_s", [4.0e-5, 1.1e-4, 3.0e-4, 9.0e-4])
def test_names_of_the_curves_stay_out_of_the_axis_wherever_the_curve_begins(
    least_s: float,
) -> None:
    claims = [
        {"power": 1.0, "t05_s": least_s * 8, "t01_s": None, "provenance": "claimed"},
        {"power": 1 / 16, "t05_s": least_s, "t01_s": None, "provenance": "claimed"},
    ]
    strobe = Strobe.model_validate(
        {"name": "Pack", "circuit": "banks", "guide_number_m": 80, "durations": claims}
    )
    root = ElementTree.fromstring(draw_durations(strobe).svg.markup())
    places = {
        each.text: float(each.get("y", "nan"))
        for each in root.iter("{http://www.w3.org/2000/svg}text")
    }
    axis = places["1/16"]
    assert places["t.5"] < axis - 12
    assert places["t.1"] < places["t.5"], "each beside its own curve"
