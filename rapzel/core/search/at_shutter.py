"""What one shutter leaves of each setting of a kit: share caught, how long it lasts, sync, and whether it keeps up."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from rapzel.core.document.gear import recycle_floor_s
from rapzel.core.physics.pace import frames_before_short, recycle_s
from rapzel.core.pulse.shape import Discharge
from rapzel.core.search.pulses import Array, Settings
from rapzel.core.search.ways import Way
from rapzel.core.shared import constants
from rapzel.core.shutter import curve, rows
from rapzel.core.shutter.curve import Flash
from rapzel.core.shutter.jitter import Frames, latest_of
from rapzel.core.shutter.rows import Opening

Ints = npt.NDArray[np.int64]
_REMEMBERED = 50_000
# of a few milliseconds in which an opening is sought: to a tenth of a nanosecond
_HALVINGS = 26
_HELD = 0.995  # of an asked rate: nobody counts the last half a percent of a frame


@dataclass(frozen=True)
class AtShutter:
    """What one shutter does to each setting: share that is caught, how long it lasts [s], slack of sync, pace."""

    shutter_s: float
    caught: Array
    lasts_s: Array
    sync: Array  # the sync margin's value: ms or stops, nan where it has none
    fires: npt.NDArray[np.bool_]
    syncs: npt.NDArray[np.bool_]
    keeps_up: npt.NDArray[np.bool_]


def at_shutter(way: Way, settings: Settings, shutter_s: float) -> AtShutter:
    """Every setting of the kit by a method at one shutter."""
    if way.method.leads:
        caught, fall = led(settings, way.physics.assumed_travel_s, shutter_s)
        # A long pulse burns while the slit passes: the shutter stops the motion, and sync is how
        # even rows are.
        lasts, sync = np.full(len(settings), shutter_s), constants.EVEN_STOPS - fall
        syncs = (sync >= -1e-9) & way.travel_known
    else:
        caught, lasts = _recorded(way, settings, shutter_s)
        sync, syncs = _sync(way, settings, shutter_s, caught)
    # Asked once a strobe, not once a power.
    refused = [bool(way.method.on_strobe(source.strobe)) for source in settings.sources]
    if len(settings):
        fires = ~np.array(refused, dtype=bool)[settings.source]
    else:
        fires = syncs
    keeps_up = _keeps_up(way, settings, shutter_s)
    return AtShutter(shutter_s, caught, lasts, sync, fires, syncs, keeps_up)


def _recorded(way: Way, settings: Settings, shutter_s: float) -> tuple[Array, Array]:
    """Share of each pulse that the best-lit row records, and how long it lasts there [s]."""
    method, count = way.method, len(settings)
    if method.train:
        loss = rows.slit_loss_stops(way.physics.assumed_travel_s, shutter_s)
        return settings.own_hss * 2.0**-loss, np.full(count, shutter_s)
    if way.placed:
        return _placed(way, settings, shutter_s)
    # The best-lit row is open before the light begins; it closes `end` after that.
    if method.by_hand:
        end = shutter_s / 2
    else:
        end = shutter_s - way.after_contact_s(shutter_s)
    caught = settings.cumulative(end)[:, 0]
    # What opens at once loses more on average than in the usual frame, where the light jumps about.
    if way.physics.assumed_travel_s == 0 and not method.by_hand:
        caught = settings.cumulative(end - way.late_s).mean(axis=1)
    lasts = settings.t01_s.copy()
    # Only pulses that the shutter cuts need their duration worked out again.
    for place in np.flatnonzero(end < settings.peak_s + settings.t01_s):
        lasts[place] = _cut_s(settings.pulses[place].shape, end)
    return caught, lasts


@lru_cache(maxsize=_REMEMBERED)
def _cut_s(shape: Discharge, end_s: float) -> float:
    """t.1 of what is left of a pulse that is cut off [s]; remembered, since other ways and searches ask it again."""
    return shape.width_between_s(0.1, -1.0, end_s)


@lru_cache(maxsize=_REMEMBERED)
def _placed_once(
    shape: Discharge, start_s: float, shutter_s: float, late: tuple[float, ...]
) -> tuple[float, float, float]:
    """(share caught on average, how long it lasts [s], share of dark frames) by the best opening; remembered.

    late: by how much the light comes late in each of many frames [s].
    """
    flash = Flash(shape, start_s, 1.0)
    late_s = np.array(late)
    offset = curve.best_offset_s(Opening(0.0, shutter_s), (flash,), late_s)
    opening = Opening(0.0, shutter_s, offset)
    usual = Frames(opening, (flash,), np.zeros(1)).mean_share
    if len(late) > 1:
        # Against the best that one frame could do: the opening for many is not that of any one of them.
        alone = curve.best_offset_s(Opening(0.0, shutter_s), (flash,))
        own = Opening(0.0, shutter_s, alone)
        usual = Frames(own, (flash,), np.zeros(1)).mean_share
    frames = Frames(opening, (flash,), late_s)
    return (
        frames.mean_share,
        curve.recorded_s(opening, flash, 0.5),
        frames.darker_than(usual),
    )


def _placed(way: Way, settings: Settings, shutter_s: float) -> tuple[Array, Array]:
    """The same on a global shutter, whose opening is placed where it catches most of the pulse."""
    start = way.base.trigger.contact_to_light_s or 0.0
    caught, lasts = np.zeros(len(settings)), np.zeros(len(settings))
    for place, known in enumerate(settings.pulses):
        if shutter_s > way.limit_s < known.t01_s:
            # too long either way: nothing to place
            lasts[place] = min(shutter_s, known.t01_s)
            continue
        caught[place], lasts[place], _ = _placed_once(
            known.shape, start, shutter_s, tuple(way.late_s)
        )
    return caught, lasts


@lru_cache(maxsize=256)
def led(settings: Settings, travel_s: float, shutter_s: float) -> tuple[Array, Array]:
    """(share that the judged row records, fall from the brightest row to the darkest [stops]) of each pulse.

    The frame opens when its first and its last row get the same, which gives the darkest row the most that it can get;
    that is before the peak. A pulse much shorter than the travel, which leaves most rows dark wherever it begins, is
    worked out at full power only.
    """
    worth = np.flatnonzero((settings.t01_s >= travel_s / 2) | (settings.power == 1))
    pulses = settings.shapes.of(worth)
    # Begin and end of the first and of the last row's opening.
    ends = np.array([[0.0, shutter_s, travel_s, travel_s + shutter_s]])
    early = np.full((len(worth), 1), -travel_s - shutter_s)
    late = settings.peak_s[worth][:, None]
    for _ in range(_HALVINGS):
        middle = (early + late) / 2
        come = pulses.cumulative(middle + ends)
        # While the last row gets more, the frame opens too early.
        rising = (come[:, 1] - come[:, 0] < come[:, 3] - come[:, 2])[:, None]
        early, late = np.where(rising, middle, early), np.where(rising, late, middle)
    opens = (early + late) / 2 + rows.MIDDLES[None, :] * travel_s
    by_row = pulses.cumulative(opens + shutter_s) - pulses.cumulative(opens)
    judged = curve.row_between(by_row)[:, None]
    share, fall = (
        np.zeros(len(settings)),
        np.full(len(settings), constants.DARKEST_STOPS),
    )
    share[worth] = np.take_along_axis(by_row, judged, axis=1)[:, 0]
    fall[worth] = curve.fall_stops(by_row)
    return share, fall


def _sync(
    way: Way, settings: Settings, shutter_s: float, caught: Array
) -> tuple[Array, npt.NDArray[np.bool_]]:
    """The value of each setting's sync margin, and whether the light meets the opening."""
    none = np.full(len(settings), np.nan)
    if way.method.train:
        return none, np.full(len(settings), way.travel_known)
    if way.method.by_hand:
        return none, caught >= 2.0**-0.1
    travel = way.physics.assumed_travel_s
    if travel == 0:
        lost = -np.log2(np.maximum(caught, 2.0**-constants.DARKEST_STOPS))
        dark = _dark_frames(way, settings, shutter_s)
        few = dark <= constants.DARK_FRAMES
        return -lost, (caught > 2.0**-constants.DARKEST_STOPS) & few
    # The light comes a latency after the contact, which closes when the first curtain has arrived.
    starts = travel + way.after_contact_s(shutter_s)
    latest = latest_of(way.late_s)
    out = np.maximum(settings.mostly_out_s, settings.half_stop_out_s + latest)
    slack_ms = (shutter_s - (starts + out)) * 1000
    enough = slack_ms >= -1e-9
    if not way.travel_known:  # only what is safe at the longest travel that is possible
        enough &= shutter_s >= starts + settings.long_out_s
    return slack_ms, enough


def _dark_frames(way: Way, settings: Settings, shutter_s: float) -> Array:
    """Share of frames in which each setting's light is half a stop darker than in the usual one: all open at once."""
    if len(way.late_s) == 1:
        return np.zeros(len(settings))
    start = way.base.trigger.contact_to_light_s or 0.0
    if way.placed:
        limit = way.limit_s
        return np.array(
            [
                _placed_once(known.shape, start, shutter_s, tuple(way.late_s))[2]
                if not shutter_s > limit < known.t01_s
                else 1.0
                for known in settings.pulses
            ]
        )
    # No light comes before the contact that it waits for, so that only the end of the opening cuts it.
    shares = settings.cumulative(shutter_s - start - way.late_s)
    usual = settings.cumulative(shutter_s - start)
    darker = shares < usual * 2.0**-constants.DARK_FRAME_STOPS * (1 - 1e-9)
    return np.asarray(darker.mean(axis=1))


def _keeps_up(way: Way, settings: Settings, shutter_s: float) -> npt.NDArray[np.bool_]:
    """Whether each setting surely keeps up with the frames a second that are asked for; what is not known does not."""
    exposure = way.base.exposure
    asked = exposure.frames_per_s
    if not asked:
        return np.ones(len(settings), dtype=bool)
    if not shutter_keeps_up(way, shutter_s) or not _kept_keep_up(way, asked):
        return np.zeros(len(settings), dtype=bool)
    if exposure.burst is None:
        # An unknown recycle is nan, and compares as no.
        return np.asarray(1 / np.maximum(settings.recycle_s, 1e-9) >= asked * _HELD)
    kept = []
    for source, power, recycle in zip(
        settings.source, settings.power, settings.recycle_s, strict=True
    ):
        strobe = settings.sources[source].strobe
        full, floor = strobe.full_recycle_s or 0.0, recycle_floor_s(strobe)[1]
        run = frames_before_short(float(power), full, asked, floor_s=floor)
        long_enough = run is None or run >= exposure.burst
        kept.append(not math.isnan(recycle) and long_enough)
    return np.array(kept, dtype=bool)


def shutter_keeps_up(way: Way, shutter_s: float) -> bool:
    """Whether the exposures themselves leave room for the frames a second that are asked for."""
    asked = way.base.exposure.frames_per_s
    return not asked or 1 / way.frame_s(shutter_s) >= asked * _HELD


def _kept_keep_up(way: Way, asked: float) -> bool:
    """Whether the lights that stay as they are keep up."""
    times = [recycle_s(light) for light in way.kept if way.method.flashes]
    return all(
        time is not None and 1 / max(time, 1e-9) >= asked * _HELD for time in times
    )


def usable(at: AtShutter) -> npt.NDArray[np.bool_]:
    """The settings that fire, meet the shutter and keep up."""
    return at.fires & at.syncs & at.keeps_up
