"""A scene's physics: its document turned into numbers, handed to the kernels, and the working kept.

This is the only room that reads both documents and kernels; verdicts, drawings and the rehearsal read `Physics`.
"""

from rapzel.core.physics.lights import Lit
from rapzel.core.physics.whole import Physics

__all__ = ["Lit", "Physics"]
