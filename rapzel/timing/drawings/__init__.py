"""The drawings of the timing page: lanes from event to light, and the plan of a microphone."""

from rapzel.timing.drawings.lanes import draw_lanes
from rapzel.timing.drawings.sound import draw_sound

__all__ = ["draw_lanes", "draw_sound"]
