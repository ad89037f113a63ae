"""The drawings of a scene, each from the core's numbers: times, pulse, curtain, ladder, chain, dusk, pace."""

from collections.abc import Callable

from rapzel.core.physics import Physics
from rapzel.ui.drawing import Drawing
from rapzel.workbench.drawings.chain import draw_chain
from rapzel.workbench.drawings.curtain import draw_curtain
from rapzel.workbench.drawings.dusk import draw_dusk
from rapzel.workbench.drawings.ladder import draw_ladder
from rapzel.workbench.drawings.pace import draw_pace
from rapzel.workbench.drawings.pulse import draw_pulse
from rapzel.workbench.drawings.ribbon import draw_ribbon

TIMES = "times"
VIEWS: dict[str, Callable[[Physics], Drawing]] = {
    TIMES: draw_ribbon,
    "pulse": draw_pulse,
    "curtain": draw_curtain,
    "ladder": draw_ladder,
    "chain": draw_chain,
    "dusk": draw_dusk,
    "pace": draw_pace,
}
DRAWINGS: dict[str, Callable[[Physics], Drawing]] = {"ribbon": draw_ribbon, **VIEWS}

# as their tabs are called, after the tile or the input that each explains
TITLES = {
    TIMES: "Times",
    "pulse": "Flash",
    "curtain": "Shutter",
    "ladder": "Light budget",
    "chain": "Trigger chain",
    "dusk": "Daylight",
    "pace": "Rate",
}

__all__ = ["DRAWINGS", "TIMES", "TITLES", "VIEWS", "draw_ribbon"]
