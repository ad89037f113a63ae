"""What fires a microphone in place of the event, or once more after it (science §11).

A neighbour that is heard as loud as the event fires the trigger as often as the event does; an echo fires it a second
time while the shutter is still open. Tries that are spent so have no keeper, and count.
"""

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from scipy.special import ndtr

from rapzel.core.trigger.air import level_db
from rapzel.core.trigger.sensors import Sound

# half the pressure: what a threshold wants between the event and the rest; common practice
HALF_DB = 6.0
# standard deviation of how loud the same kind of bang is from one to the next (memory)
_LEVEL_SD_DB = 3.0
_NEAREST_M = (
    0.01  # a microphone in the middle of the sound would hear it infinitely loud
)


class Heard(NamedTuple):
    """Shares of tries [0 … 1]: fired by the event and not by a neighbour; doubled by an echo.

    perhaps_deaf: whether the unit may be deaf until the echo is over, which nobody says; then nothing is doubled.
    """

    by_the_event: float = 1.0
    doubled: float = 0.0
    perhaps_deaf: bool = False


SURE = Heard()  # nothing else is loud, and nothing echoes


def neighbour_under_db(sound: Sound) -> float | None:
    """By how much the neighbour's sound stays under the event's at the microphone [dB]; None without a neighbour."""
    if sound.neighbour_m is None:
        return None
    event = level_db(max(sound.distance_m, _NEAREST_M))
    return event - (level_db(sound.neighbour_m) + sound.neighbour_db)


def echo_s(sound: Sound) -> float | None:
    """How long after the event's sound its echo from the nearest wall comes at the latest [s]; None without a wall."""
    if sound.wall_m is None:
        return None
    return 2 * sound.wall_m / sound.speed_m_s


@lru_cache(maxsize=64)
def by_the_event(under_db: float) -> float:
    """Share of firings that are the event's, with the best threshold that can be set [0 … 1].

    under_db: how far the neighbour stays under the event at the microphone. The neighbour is taken to be as busy as
    the event; both vary by 3 dB (memory). A threshold hears the event with Φ((E − x)/σ), and before the event comes
    the neighbour has fired it with n/(1 + n), n = Φ((N − x)/σ).
    """
    # From far below both, where everything fires, to far above.
    low, high = min(under_db, 0.0) - 12, max(under_db, 0.0) + 12
    threshold = np.linspace(low, high, 201)
    hears = ndtr((under_db - threshold) / _LEVEL_SD_DB)
    before = ndtr(-threshold / _LEVEL_SD_DB)
    return float(np.max(hears / (1 + before)))


def doubled(sound: Sound) -> float:
    """Share of bangs whose echo is loud enough to fire once more [0 … 1], the threshold half-way under the event."""
    if sound.wall_m is None:
        return 0.0
    direct = max(sound.distance_m, _NEAREST_M)
    # The echo has the way to the wall and back on top of its own.
    under = level_db(direct) - level_db(direct + 2 * sound.wall_m)
    return float(ndtr((HALF_DB - under) / _LEVEL_SD_DB))
