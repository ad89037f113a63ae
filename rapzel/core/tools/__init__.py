"""Small questions of their own beside the scene, each with an input model, an answer model and `solve`.

A tool is a `Tool` in `TOOLS`. It may be asked by itself, or with what a scene says (`from_scene`). Drawings, pages and
exports of a tool stand in the application `rapzel.tools`.
"""

from rapzel.core.tools.open_shutter import OPEN_SHUTTER
from rapzel.core.tools.tool import Tool, ask

TOOLS: dict[str, Tool] = {tool.slug: tool for tool in (OPEN_SHUTTER,)}

__all__ = ["TOOLS", "Tool", "ask"]
