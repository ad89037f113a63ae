"""The physics of stopping motion with light: plain functions of numbers, without any interface.

Two doors: `evaluate(scene)` answers a scene document, `render(scene, size)` computes its picture.
"""

from rapzel.core.errors import CoreError, DocumentError, OutOfRange, UnitError
from rapzel.core.evaluate import evaluate
from rapzel.core.scene import Scene

__all__ = ["CoreError", "DocumentError", "OutOfRange", "Scene", "UnitError", "evaluate"]
