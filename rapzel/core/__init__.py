"""The physics of stopping motion with light: plain functions of numbers, without any interface.

Two doors: `evaluate(scene)` answers a scene document, `render(scene, size)` computes its picture.
"""

from rapzel.core.document.scene import Scene
from rapzel.core.evaluate import evaluate
from rapzel.core.shared.errors import CoreError, DocumentError, OutOfRange, UnitError

__all__ = ["CoreError", "DocumentError", "OutOfRange", "Scene", "UnitError", "evaluate"]
