"""The light pulse: its shape, and what a strobe's known settings say about the others."""

from rapzel.core.pulse.shape import Discharge, Plateau, Pulse
from rapzel.core.pulse.table import KnownPulse, pulse_at

__all__ = ["Discharge", "KnownPulse", "Plateau", "Pulse", "pulse_at"]
