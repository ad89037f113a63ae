"""What is done once before the web processes part: the first pages' work, and how memory is looked through."""

import gc
import sys

from rapzel.core.evaluate import evaluate
from rapzel.shoots.services import NEW_SCENE
from rapzel.ui.inputs import read


def warm() -> None:
    """Reads the table of units, and loads and draws what evaluating any scene needs: a third of a second."""
    read("length", "1 m")
    evaluate({**NEW_SCENE, "name": "None"})


def settle() -> None:
    """Leaves alone what is there to the end of the process, and looks less often through what pages make."""
    # What is loaded by now is not searched for garbage again and again, and the processes that share it do not each
    # write into it. What pages make is short-lived.
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)
    # A page that asks the database a dozen times waits as often for a thread that computes: a tenth of the usual time.
    sys.setswitchinterval(0.0005)
