"""The drawings of what was found: what they write can be read."""

import numpy as np
import pytest

from rapzel.core.search.reserve import Chart
from rapzel.finding.drawings.winners import draw_winners
from rapzel.ui.drawing import text_width


@pytest.mark.parametrize("imperial", [False, True])
@pytest.mark.parametrize("speed_m_s", [0.0123, 0.0515, 2.06, 9.87, 123.4])
def test_speeds_of_the_chart_are_not_cut_off_at_its_edge(
    speed_m_s: float, imperial: bool
) -> None:
    speeds = np.geomspace(1 / 8, 8, 22) * speed_m_s
    chart = Chart(
        np.linspace(-3, 16, 40), speeds, ("pulse",), np.zeros((22, 40), dtype=np.int64)
    )
    svg = draw_winners(chart, (4.0, speed_m_s), imperial).svg
    ended = [
        (float(attributes["x"]) - text_width(text), text)
        for tag, _, attributes, text in svg.parts
        if tag == "text" and attributes["text-anchor"] == "end"
    ]
    assert len(ended) > 3
    assert min(ended)[0] >= 0, min(ended)
