"""What the shutter records of a scene's lights: one curve a row, shares, times and trails read off it (science §7)."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from rapzel.core.document.scene import Scene
from rapzel.core.methods import Method
from rapzel.core.motion.kinematics import Number
from rapzel.core.physics.framing import Frame
from rapzel.core.physics.lights import Lit
from rapzel.core.pulse.shape import Array
from rapzel.core.shared import constants
from rapzel.core.shutter import curve
from rapzel.core.shutter.curve import Flash, RowCurves
from rapzel.core.shutter.jitter import late_s, latest_of, tolerated_s
from rapzel.core.shutter.rows import Opening


@dataclass(frozen=True, slots=True)
class Trail:
    """How far one light, or the room, draws the moving part [px], and how strong that is in the picture [stops]."""

    of: str  # "room", or the name of a light
    px: float
    stops: float
    visible: bool  # longer than the criterion, and strong enough to be seen
    faint: bool  # longer than the criterion, between the two thresholds


def flash_start_s(scene: Scene, method: Method, travel_s: float) -> float:
    """When the lights start [s]: the sync contact plus the trigger's latency, where latency is not known at best."""
    if method.light_from == "first row":
        return 0.0
    # An unknown latency is taken as none here, the best case; that it is unknown is said by the
    # timing, not hidden in a curve.
    latency = scene.trigger.contact_to_light_s or 0.0
    if method.light_from == "middle":  # the trigger fires well inside the opening
        return scene.exposure.shutter_s / 2
    shutter_s = scene.exposure.shutter_s
    waits_s = float(second_curtain_s(scene, method, travel_s, shutter_s))
    return travel_s + waits_s + latency


def second_curtain_s(
    scene: Scene, method: Method, travel_s: float, shutter_s: Number
) -> Number:
    """By how much later than the first curtain's contact the flash of the second one is fired [s]; else 0.

    shutter_s: one exposure, or many.
    """
    second = scene.exposure.flash_at == "second" and method.light_from == "contact"
    if not second or scene.camera.shutter != "focal_plane":
        return 0.0
    # The second curtain starts as the first row has been open for the whole time.
    return np.maximum(shutter_s - constants.SECOND_CURTAIN_LEAD_S - travel_s, 0.0)


def late_of(scene: Scene) -> Array:
    """By how much the light comes late after the contact in each of many frames [s]; of unknown jitter as no radio has.

    The worst case stands for what is not known, and is said to be unknown by whoever judges with it.
    """
    sd, even = scene.trigger.contact_jitter_s, scene.trigger.contact_even
    if sd is None:
        sd = constants.MOST_RADIO_JITTER_S
    if not sd:
        return late_s(0.0)
    # However much it jumps about, no light comes before the contact that it waits for.
    soonest = -(scene.trigger.contact_to_light_s or 0.0)
    return np.asarray(np.maximum(late_s(sd, even), soonest))


def curves_of(
    scene: Scene,
    method: Method,
    lights: Sequence[Lit],
    travel_s: float,
    longer: bool = False,
) -> RowCurves:
    """The rows' curves of the lights on the moving part; longer: with every pulse as long as its doubt allows."""
    opening = Opening(travel_s, scene.exposure.shutter_s)
    start = flash_start_s(scene, method, travel_s)
    flashes = []
    for one in lights:
        if method.train:
            # A train has begun before the first row opens, so that a light's own delay moves
            # nothing.
            later = 0.0
        else:
            later = one.light.delay_s
        pulse = one.pulse
        if longer and not method.train:
            pulse = one.known.shape.stretched(2**one.known.doubt_stops)
        flashes.append(Flash(pulse, start + later, one.n_squared))
    # Where all rows open at once, and where the flash leads, the opening can be put where the pulse
    # is best caught; a travelling slit cannot.
    placed = scene.camera.shutter == "global" and method.pulsed and not method.by_hand
    if flashes and (placed or method.leads):
        given = scene.exposure.offset_s
        if given is None:
            offset = curve.best_offset_s(opening, flashes, late_of(scene))
        else:
            offset = given
        opening = Opening(travel_s, scene.exposure.shutter_s, offset)
    return _kept(RowCurves(opening, tuple(flashes), between=method.leads))


# a change of trigger, moment or motion leaves every row's light as it was
@lru_cache(maxsize=64)
def _kept(curves: RowCurves) -> RowCurves:
    """The first of all equal curves, whose shares are worked out already."""
    return curves


def fastest_safe_s(
    scene: Scene,
    method: Method,
    curves: RowCurves,
    lights: Sequence[Lit],
    longer_stops: float = 0.0,
) -> float | None:
    """Shortest exposure that gives every row all but a tenth of a stop of every light [s].

    t_s ≥ the time at which 93.3 % of the last light is out, counted from the first row's opening; an opening that can
    be placed needs only the light's own length. Where the light jumps about, nineteen frames in twenty must also have
    all but half a stop. longer_stops: with every pulse so many times its doubt longer, negative: shorter. None where no
    pulse must meet an opening. Source: row model.
    """
    if not curves.flashes or not method.pulsed or method.by_hand:
        return None
    late = late_of(scene)
    ends = []
    for flash, one in zip(curves.flashes, lights, strict=True):
        # Judged without doubt the shutter would be safe only if the strobe is as quick as its leaflet says.
        longer = 2 ** (longer_stops * one.known.doubt_stops)
        usual = flash.start_s + one.known.mostly_out_s * longer
        ends.append(usual)
        # A light that always comes in time is out but for half a stop before it is out but for a tenth.
        if len(late) > 1:
            by_then = flash.start_s + one.known.half_stop_out_s * longer
            ends.append(tolerated_s(by_then, late))
    placed = scene.camera.shutter == "global"
    # Counted from the first row's opening, except where the opening itself waits for the light: then it must be open
    # for the earliest as well as for the latest frame.
    if not placed:
        return max(ends)
    earliest = -latest_of(-late)
    return max(ends) - min(flash.start_s for flash in curves.flashes) - earliest


@dataclass(frozen=True)
class Recorded:
    """What the best-lit row records: each light's share of the exposure, and how long it lasts there [s]."""

    shares: tuple[float, ...]
    times_s: tuple[float, ...]

    def lasting(self) -> list[tuple[float, float]]:
        return curve.lasting(self.shares, self.times_s)


@lru_cache(maxsize=64)
def recorded(method: Method, curves: RowCurves) -> Recorded:
    """Shares of the exposure after the shutter, summing to 1, and how long each light lasts as it is recorded."""
    given = [
        flash.weight * float(share)
        for flash, share in zip(curves.flashes, curves.best_shares, strict=True)
    ]
    # Shares are of what the shutter lets through, not of what the lights give: a clipped pulse
    # counts less.
    total = sum(given)
    shares = tuple(one / total if total else 0.0 for one in given)
    if not method.room_apart:
        # Without a pulse every light lasts as long as the shutter is open.
        return Recorded(shares, (curves.opening.shutter_s,) * len(curves.flashes))
    times = (
        curve.recorded_s(curves.opening, flash, curves.best_place)
        for flash in curves.flashes
    )
    return Recorded(shares, tuple(times))


def room_window_s(
    scene: Scene, method: Method, curves: RowCurves
) -> tuple[float, float]:
    """When the best-lit row is open [s], counted from the instant at which the picture is taken."""
    opens = float(curves.opening.opens(np.asarray(curves.best_place)))
    if method.room_apart and curves.flashes:
        # The picture is taken when the light comes: the room's trail leads up to it and runs on
        # from it.
        taken = min(flash.start_s for flash in curves.flashes)
    else:
        taken = opens + scene.exposure.shutter_s / 2
    return opens - taken, opens - taken + scene.exposure.shutter_s


def trails_of(
    scene: Scene,
    frame: Frame,
    lights: Sequence[Lit],
    record: Recorded,
    centred: bool,
    room: tuple[float, float | None],
) -> tuple[Trail, ...]:
    """The trail of each light on the moving part and of the room; room is (px, stops against the flash or None)."""
    limits = scene.ambient.trail_stops, scene.ambient.clear_stops
    lasting = dict(record.lasting())
    trails = []
    for one, share, time in zip(lights, record.shares, record.times_s, strict=True):
        px = frame.smear_px(time, centred)
        if share > 0:
            stops = math.log2(share)
        else:
            stops = -constants.DARKEST_STOPS
        # What counts is the share of the picture that is at least so long, not whose light it is.
        if lasting[time] > 0:
            together = math.log2(lasting[time])
        else:
            together = -constants.DARKEST_STOPS
        trails.append(_trail(one.name, px, stops, together, frame.criterion_px, limits))
    px, stops_or_none = room
    if stops_or_none is not None:
        trails.append(
            _trail("room", px, stops_or_none, stops_or_none, frame.criterion_px, limits)
        )
    return tuple(trails)


def _trail(
    of: str,
    px: float,
    stops: float,
    together: float,
    criterion_px: float,
    limits: tuple[float, float],
) -> Trail:
    seen, clear = limits
    # A trail of just the criterion's length is not seen; the little over keeps rounding from seeing
    # it.
    long = px > criterion_px * (1 + 1e-9)
    return Trail(
        of,
        px,
        stops,
        long and together >= -seen - 1e-9,
        long and -clear - 1e-9 <= together < -seen - 1e-9,
    )
