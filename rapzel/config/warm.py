"""What each process would work out for its first pages, worked out once before the processes part."""

from rapzel.core.evaluate import evaluate
from rapzel.core.shared.units import parse_length
from rapzel.shoots.services import NEW_SCENE


def warm() -> None:
    """Reads the table of units, and loads and draws what evaluating any scene needs: a third of a second."""
    parse_length("1 m")
    evaluate({**NEW_SCENE, "name": "None"})
