"""When each row of a frame is open (science §7). Kernels: seconds, rows in [0, 1] in the order of uncovering.

Row y opens at y·T_c and closes at y·T_c + t_s. The sync contact closes at T_c, which is 0 where the whole frame opens
at once. Time 0 is the first row's opening, or the contact where the whole frame opens at once.
"""

import math
from dataclasses import dataclass

import numpy as np

from rapzel.core.pulse.shape import Array

ROWS = 256  # of the row model; a share of rows is exact to half of one
# both ends and the middle of every row
MIDDLES = np.concatenate([[0.0], (np.arange(ROWS) + 0.5) / ROWS, [1.0]])


@dataclass(frozen=True, slots=True)
class Opening:
    """How the frame opens: time the edge takes to cross it [s], exposure of each row [s], begin of the first [s]."""

    travel_s: float
    shutter_s: float
    offset_s: float = 0.0

    def opens(self, rows: Array) -> Array:
        """When each row opens [s]."""
        return np.asarray(rows, dtype=float) * self.travel_s + self.offset_s

    def closes(self, rows: Array) -> Array:
        """When each row closes [s]."""
        return self.opens(rows) + self.shutter_s


def slit_loss_stops(travel_s: float, shutter_s: float) -> float:
    """What HSS wastes on closed curtains [stops]: log2((T_c + t_s) / t_s)."""
    return math.log2((travel_s + shutter_s) / shutter_s)


def plateau_s(travel_s: float, shutter_s: float) -> float:
    """Length of the pulse train that covers every row [s]: T_c + t_s."""
    return travel_s + shutter_s


def skew_m(image_speed_m_s: float, travel_s: float) -> float:
    """How far the image moves while the slit crosses the frame [m on the sensor]: v⊥ · m · T_c."""
    return image_speed_m_s * travel_s
