"""The drawings of tools, by the slug of the tool. A tool without one shows its sentence and its figures."""

from collections.abc import Callable
from typing import Any

from rapzel.tools.drawings.beam import draw_beam
from rapzel.tools.drawings.curves import draw_flight, draw_speedometer, draw_watch
from rapzel.tools.drawings.dial import draw_dial
from rapzel.tools.drawings.drops import draw_drops
from rapzel.tools.drawings.open_shutter import draw_open_shutter
from rapzel.ui.drawing import Drawing

DRAWINGS: dict[str, Callable[[Any, Any], Drawing]] = {
    "beam": draw_beam,
    "speedometer": draw_speedometer,
    "flight": draw_flight,
    "drops": draw_drops,
    "dial-in": draw_dial,
    "open-shutter": draw_open_shutter,
    "watch": draw_watch,
}
