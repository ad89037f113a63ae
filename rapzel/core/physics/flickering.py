"""How far the room's flicker lets pictures come out apart, over the rows of one frame and from frame to frame."""

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from rapzel.core.document.scene import Scene
from rapzel.core.document.surroundings import Flicker
from rapzel.core.light.flicker import Pulsation
from rapzel.core.shared import constants

_DEEPEST = 1.0  # into the dark: of a light whose depth nobody knows
# Of a light whose frequency nobody knows: from mains lamps to where no shutter sees it, in twelfths of an octave.
_ANY_HZ = constants.SLOWEST_FLICKER_HZ * 2.0 ** (np.arange(97) / 12)


class Flickering(NamedTuple):
    """What an opening makes of the room's flicker.

    least, most: the room's light against its mean, of the darkest and the brightest row or frame. change_stops: how
    far apart they are in the picture. bands: how many lie over the frame; None where that is not known. known: whether
    frequency and depth are.
    """

    least: float
    most: float
    change_stops: float
    bands: float | None
    known: bool


def pulsations(flicker: Flicker) -> list[Pulsation]:
    """The ways in which a light may pulsate by what is known of it: one where its frequency is known."""
    depth = _DEEPEST if flicker.depth is None else flicker.depth
    if flicker.frequency_hz is not None:
        return [Pulsation(flicker.frequency_hz, depth, flicker.lit_share)]
    return [Pulsation(float(hertz), depth, flicker.lit_share) for hertz in _ANY_HZ]


# of a light of no known frequency a hundred ways are asked, at every mark of a dial
@lru_cache(maxsize=1024)
def extremes(flicker: Flicker | None, shutter_s: float) -> tuple[float, float]:
    """The least and the most of the room's light that an exposure [s] may get, against the mean; 1 and 1 if steady."""
    if flicker is None:
        return 1.0, 1.0
    both = [one.extremes(shutter_s) for one in pulsations(flicker)]
    return min(least for least, _ in both), max(most for _, most in both)


def change_stops(least: float, most: float, share: float) -> float:
    """How far apart pictures come out of which such a share is the room's light [stops]."""
    steady = 1.0 - share
    darkest = steady + share * least
    if darkest <= 0:
        return constants.DARKEST_STOPS
    change = math.log2((steady + share * most) / darkest)
    return min(change, constants.DARKEST_STOPS)


def seen_share(scene: Scene, on_part: float) -> float:
    """Which share of what is seen the flicker moves [0 … 1]; on_part: the room's share of the light on what moves."""
    # A room that is wanted is seen by itself behind the subject, whatever the flash does on it.
    if scene.look.room == "black":
        return on_part
    return 1.0


def flickering_of(
    scene: Scene, on_part: float, travel_s: float | None
) -> Flickering | None:
    """What the scene's opening makes of it; None where nobody says that the light flickers.

    travel_s: of the curtains or the readout; None is not known.
    """
    flicker = scene.ambient.unsteady
    if flicker is None:
        return None
    least, most = extremes(flicker, scene.exposure.shutter_s)
    bands = None
    if flicker.frequency_hz is not None and travel_s is not None:
        bands = pulsations(flicker)[0].bands(travel_s)
    return Flickering(
        least,
        most,
        change_stops(least, most, seen_share(scene, on_part)),
        bands,
        flicker.frequency_hz is not None and flicker.depth is not None,
    )


def steady_at(scene: Scene, shutter_s: float) -> bool:
    """Whether a flicker does not show at a shutter: of a black room none does."""
    return scene.look.room == "black" or even_at(scene.ambient.unsteady, shutter_s)


def even_at(flicker: Flicker | None, shutter_s: float) -> bool:
    """Whether a room's own light is even at a shutter; so where nobody says that it flickers."""
    least, most = extremes(flicker, shutter_s)
    return change_stops(least, most, 1.0) <= constants.EVEN_STOPS + 1e-9
