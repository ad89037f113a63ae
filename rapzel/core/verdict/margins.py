"""The six margins, in the order of the strip; what is first in it is closed first."""

from collections.abc import Callable

from rapzel.core.document.evaluation import Margin
from rapzel.core.physics import Physics
from rapzel.core.verdict.exposed import ghost, light
from rapzel.core.verdict.freeze import freeze
from rapzel.core.verdict.machine import pace, sync
from rapzel.core.verdict.timely import timing

MARGINS: dict[str, Callable[[Physics], Margin]] = {
    "freeze": freeze,
    "light": light,
    "ghost": ghost,
    "sync": sync,
    "timing": timing,
    "pace": pace,
}
