"""The drawings of a scene, each from the core's numbers: ribbon, pulse, curtain, ladder, chain, dusk, pace."""

from collections.abc import Callable

from rapzel.core.physics import Physics
from rapzel.shoots.drawings.chain import draw_chain
from rapzel.shoots.drawings.curtain import draw_curtain
from rapzel.shoots.drawings.dusk import draw_dusk
from rapzel.shoots.drawings.ladder import draw_ladder
from rapzel.shoots.drawings.pace import draw_pace
from rapzel.shoots.drawings.pulse import draw_pulse
from rapzel.shoots.drawings.ribbon import draw_ribbon
from rapzel.ui.drawing import Drawing

VIEWS: dict[str, Callable[[Physics], Drawing]] = {
    "pulse": draw_pulse,
    "curtain": draw_curtain,
    "ladder": draw_ladder,
    "chain": draw_chain,
    "dusk": draw_dusk,
    "pace": draw_pace,
}
DRAWINGS: dict[str, Callable[[Physics], Drawing]] = {"ribbon": draw_ribbon, **VIEWS}

__all__ = ["DRAWINGS", "VIEWS", "draw_ribbon"]
