"""Small questions of their own beside the scene, each with an input model, an answer model and `solve`.

A tool is a `Tool` in `TOOLS`. It may be asked by itself, or with what a scene says (`from_scene`). Drawings, pages and
exports of a tool stand in the application `rapzel.tools`.
"""

from rapzel.core.tools.beam import BEAM
from rapzel.core.tools.dial_in import DIAL_IN
from rapzel.core.tools.drops import DROPS
from rapzel.core.tools.flight import FLIGHT
from rapzel.core.tools.open_shutter import OPEN_SHUTTER
from rapzel.core.tools.speedometer import SPEEDOMETER
from rapzel.core.tools.tool import Tool, answered, ask
from rapzel.core.tools.watch import WATCH

TOOLS: dict[str, Tool] = {
    tool.slug: tool
    for tool in (BEAM, SPEEDOMETER, FLIGHT, OPEN_SHUTTER, WATCH, DROPS, DIAL_IN)
}

__all__ = ["TOOLS", "Tool", "answered", "ask"]
