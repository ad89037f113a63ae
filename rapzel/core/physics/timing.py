"""When the light of a scene comes and where that finds the subject, on tries over its trajectory (science §11)."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from rapzel.core.document.scene import Scene
from rapzel.core.methods import Method
from rapzel.core.motion import Axes, Trajectory
from rapzel.core.motion.kinematics import Number
from rapzel.core.physics.framing import Frame
from rapzel.core.physics.passing import Passing, beam_of
from rapzel.core.physics.timed import Timed
from rapzel.core.physics.wanted import wanted_s
from rapzel.core.shared import constants, draws
from rapzel.core.shared.once import once
from rapzel.core.shared.units import to_the_place_of
from rapzel.core.trigger import chain, tries
from rapzel.core.trigger.hearing import Heard
from rapzel.core.trigger.link import doubt_of
from rapzel.core.trigger.links import Beam, Delay
from rapzel.core.trigger.tries import Landing, Shares, Tries, Window

# standard deviations by which a mean is off before it is what tries fail by
OFF_SD = 0.2
_ROUNDED_S = 1e-5  # delays are set in hundredths of a millisecond
Array = npt.NDArray[np.float64]


class LitFor(NamedTuple):
    """How long the light lasts that stops the motion [s], and how much longer it may [stops]."""

    lasts_s: float
    doubt_stops: float = 0.0


def delays_of(scene: Timed, method: Method) -> tuple[Delay, ...]:
    """The links from the event to the light, in order; the camera counts only where the trigger fires it.

    Radios pass on what the camera's contact says; a light that starts with the first row is fired without them.
    """
    trigger, camera = scene.trigger, scene.camera
    # The order is that in which the signal passes, and the draws of jitter go by it: a link that
    # moves draws other errors.
    delays = [link.delay() for link in trigger.links if not link.after_camera]
    if trigger.fires == "camera":
        jitter, known = camera.lag_jitter_s, camera.lag_provenance
        delays.append(
            Delay(
                "camera",
                camera.release_lag_s,
                jitter,
                False,
                known,
                "camera",
                "camera",
                doubt_of(camera.release_lag_s, known, camera.lags_s),
            )
        )
    if scene.second_curtain_s:
        delays.append(
            Delay(
                "second curtain",
                scene.second_curtain_s,
                0.0,
                kind="curtain",
                identity="second_curtain",
            )
        )
    if method.pulsed:
        delays += [link.delay() for link in trigger.radios]
        delays.append(
            Delay(
                "trigger to light",
                trigger.latency_s,
                0.0,
                kind="latency",
                identity="latency",
                provenance=trigger.latency_provenance,
                doubt_s=doubt_of(trigger.latency_s, trigger.latency_provenance),
            )
        )
    return tuple(delays)


@dataclass(frozen=True, slots=True)
class Timing:
    """When the light comes and where that finds the subject; None is not known, shares are of simulated tries."""

    delays: tuple[Delay, ...]
    unknown: tuple[str, ...]  # what would have to be known first, in words
    wanted_delay_s: float | None
    # The set delay with which the usual try is on time; negative: too late without any.
    needed_delay_s: float | None
    flash_after_event_s: float | None = None
    jitter_s: float | None = None
    travel_m: float | None = None  # way of the subject between the event and the light
    # usual place against the wanted one, along the movement
    offset_m: float | None = None
    offset: Axes | None = None  # the same as the camera sees it [m]
    shares: Shares | None = None
    judged: bool = False
    metered: bool = False  # whether two beams set the delay for every try anew

    @property
    def too_late_s(self) -> float:
        """By how much the light comes too late even without a delay [s]; 0 when it can be on time."""
        return max(0.0, -(self.needed_delay_s or 0.0))

    @property
    def noticeably_late_s(self) -> float:
        """The same; 0 where it is a small part of its own spread, and early as often, or rounding."""
        noise = max(OFF_SD * (self.jitter_s or 0.0), _ROUNDED_S)
        return self.too_late_s if self.too_late_s > noise else 0.0

    @property
    def told_travel_m(self) -> float:
        """The way of the subject, no finer than places spread: 0 where they spread by more than it."""
        return to_the_place_of(self.position_sd_m or 0.0, self.travel_m or 0.0)

    @property
    def share(self) -> float | None:
        """Joint share of tries that land; None while nothing says what landing is."""
        if self.judged and self.shares:
            return self.shares.joint
        return None

    @property
    def share_low(self) -> float | None:
        """The least that this share may be in nine of ten such plans."""
        if self.judged and self.shares:
            return self.shares.low
        return None

    @property
    def share_high(self) -> float | None:
        """The most that it may be."""
        if self.judged and self.shares:
            return self.shares.high
        return None

    @property
    def position_sd_m(self) -> float | None:
        if self.shares is None:
            return None
        return self.shares.offset_sd_m


def window_of(scene: Scene | Timed, frame: Frame) -> Window:
    """What counts as landing in this scene."""
    return Window(
        field_width_m=frame.field_width_m,
        field_height_m=frame.field_height_m,
        extent_m=scene.subject.extent_m,
        near_m=frame.depth.near_m,
        far_m=frame.depth.far_m,
        distance_m=frame.distance_m,
        lasts_s=scene.moment.lasts_s,
        place_m=scene.moment.place_m,
        left_over=frame.left_over,
    )


def _measuring(scene: Scene | Timed) -> Beam | None:
    """The beam that measures a steady speed with a second one; None where none does."""
    beam = beam_of(scene)
    # From two beams a constant speed can be worked out on the way; a bent path gives no speed that
    # would hold until the light.
    two = beam is not None and beam.second_m is not None and not scene.motion.bent
    if two:
        return beam
    return None


def needed_delay_s(scene: Timed, method: Method) -> float | None:
    """The set delay with which the usual try is on time [s]; negative: too late without any. None: not known."""
    return _needed_s(scene, chain.total_lag_s(delays_of(scene, method)))


def _needed_s(scene: Scene | Timed, passed: float | None) -> float | None:
    """The same where the links together take `passed` [s]."""
    wanted = wanted_s(scene)
    if wanted is None or passed is None:
        return None
    needed = wanted - passed
    # two beams wait by themselves
    if _measuring(scene):
        # They wait for every subject as long as it needs; a set delay on top would make all of them
        # late.
        return min(needed, 0.0)
    return needed


def _usual_s(scene: Scene | Timed, passed: float, wanted: float | None) -> float:
    """When the light of the usual try comes [s after the event]: two beams wait until the subject is in its place."""
    if _measuring(scene) is None or wanted is None:
        waits = 0.0
    else:
        # No unit waits for less than nothing: what is already late stays late.
        waits = max(wanted - passed, 0.0)
    return passed + waits + scene.trigger.set_delay_s


def _unsaid_ways_m(scene: Scene | Timed, frame: Frame) -> float:
    """As widely as ways may spread where nobody states it [m, sd]."""
    if scene.subject.extent_m:
        return scene.subject.extent_m * constants.UNSAID_WAYS
    return frame.field_width_m * constants.UNSAID_WAYS_OF_FRAME


def _doubts(scene: Scene | Timed, usual_m_s: float, off_s: float) -> frozenset[int]:
    """What of a scene's tries is off once for all of them: kinds of `draws.world_share`."""
    motion, subject = scene.motion, scene.subject
    there = {
        draws.LAGS: off_s > 0,
        draws.MEAN_SPEED: motion.mean_doubt_m_s(usual_m_s) > 0,
        draws.OWN_SPEED: motion.speed_sd_m_s is None and usual_m_s > 0,
        draws.WAYS: subject.aside_sd_m is None or subject.above_sd_m is None,
    }
    return frozenset(kind for kind, is_there in there.items() if is_there)


def drawn_tries(
    scene: Scene | Timed, trajectory: Trajectory, delays: Sequence[Delay], frame: Frame
) -> Tries:
    """The tries of a scene whose lags and jitters are all known."""
    passing = Passing(scene, trajectory, _unsaid_ways_m(scene, frame))
    beam = _measuring(scene)
    passed = chain.total_lag_s(delays)
    assert passed is not None, "asked of a chain that is known"
    reached: Number = passed
    if beam is not None:
        place = next(
            place
            for place, link in enumerate(delays, start=1)
            if link.kind == beam.kind
        )
        # Each of the two beams notices with an error of its own; the speed worked out from them
        # carries both.
        first = chain.error_s(delays[place - 1], draws.MEASURED)
        second = chain.error_s(delays[place - 1], place)
        # The unit cannot fire before its signal has gone through the chain.
        reached = np.maximum(passed, passing.metered_s(beam, first, second))
    # What lags are off by once for all tries: independent of each other, so their squares add up.
    off_s = math.hypot(*(one.doubt_s for one in delays)) / constants.NINE_IN_TEN_SD
    # The set delay is the unit's own clock and has no jitter worth counting; the links have theirs.
    light = reached + scene.trigger.set_delay_s + passing.later_s
    light = light + chain.errors_s(delays)
    if off_s:
        each = np.broadcast_to(light, (draws.TRIES,))
        light = draws.shifted(each, off_s * draws.world_normal(draws.LAGS))
    doubts = _doubts(scene, trajectory.wanted_speed_m_s, off_s)
    return Tries(light, passing.extra_m_s, passing.beside, passing.counted, doubts)


@dataclass(frozen=True)
class _Landed:
    """Where the tries of a scene land, and how fast their images are."""

    landing: Landing
    frame: Frame

    def image_speeds(self, lasts_s: float) -> Array:
        """Speed of the image of each try [m/s] in the middle of a light that lasts so long [s]."""
        # What moves evenly is as fast whenever it is lit.
        if not self.frame.trajectory.motion.bent:
            return self._even_speeds
        return self._speeds(lasts_s)

    @once
    def _even_speeds(self) -> Array:
        return self._speeds(0.0)

    def _speeds(self, lasts_s: float) -> Array:
        frame = self.frame
        return tries.image_speeds(
            frame.trajectory, self.landing.tries, self._image_speed, lasts_s
        )

    def _image_speed(self, velocity: Axes) -> Array:
        if not self.frame.follows:
            return np.asarray(self.frame.image_speed_of(velocity))
        # A camera that follows is off by another part of the speed in each try.
        off = np.abs(self.frame.left_over * draws.normal(draws.FOLLOWS))
        return np.asarray(self.frame.image_speed_of(velocity, off))


# some of 0.3 MB: a change and the proposals that are tried beside it
@lru_cache(maxsize=16)
def _whatever_lights_it(
    scene: Timed, method: Method, frame: Frame
) -> tuple[Timing, _Landed | None]:
    """The chain's answer without the shares, and where its tries land; most changes of a scene leave both alone.

    Where they land is None while a lag or a jitter is not known.
    """
    trajectory, delays = frame.trajectory, delays_of(scene, method)
    passed, jitter = chain.total_lag_s(delays), chain.total_jitter_s(delays)
    wanted = wanted_s(scene)
    timing = Timing(
        delays=delays,
        unknown=tuple(chain.unknown_of(delays)),
        wanted_delay_s=wanted,
        needed_delay_s=_needed_s(scene, passed),
        metered=_measuring(scene) is not None,
    )
    if passed is None:
        return timing, None
    usual = _usual_s(scene, passed, wanted)
    place, at = trajectory.place_m(usual), trajectory.place_m(trajectory.wanted_s)
    offset = Axes(
        *(float(now) - float(there) for now, there in zip(place, at, strict=True))
    )
    # Early and late are told along the movement: what is aside of it is no matter of time.
    along = tries.direction(trajectory)
    timing = replace(
        timing,
        flash_after_event_s=usual,
        jitter_s=jitter,
        travel_m=trajectory.way_m(0.0, usual),
        offset_m=sum(
            float(one) * float(unit) for one, unit in zip(offset, along, strict=True)
        ),
        offset=offset,
    )
    if jitter is None:
        return timing, None
    drawn = drawn_tries(scene, trajectory, delays, frame)
    return timing, _Landed(
        tries.landing(trajectory, drawn, window_of(scene, frame)), frame
    )


def _shares(
    landed: _Landed, method: Method, frame: Frame, lit: LitFor, heard: Heard
) -> Shares:
    """Shares of the tries by the time of light that stops the motion."""
    if lit.lasts_s <= 0:
        return tries.shares_of(landed.landing, None, heard)
    # A light about its middle: the exposure of a shutter; a pulse begins where it comes.
    if method.room_apart:
        lasts_s = lit.lasts_s
    else:
        lasts_s = 0.0
    # A try whose image moves further than the circle while it is lit is not sharp, however well it
    # is placed.
    fastest_m_s = np.asarray(frame.circle_m / lit.lasts_s)
    doubts: frozenset[int] = frozenset()
    if lit.doubt_stops:
        # A pulse that is longer than told is so in all tries.
        sd = lit.doubt_stops / constants.NINE_IN_TEN_SD
        fastest_m_s = fastest_m_s / 2.0 ** (sd * draws.world_normal(draws.DURATION))
        doubts = frozenset({draws.DURATION})
    slow = tries.slow_enough(landed.image_speeds(lasts_s), fastest_m_s)
    return tries.shares_of(landed.landing, slow, heard, doubts)


# a proposal that changes the amount of light leaves its times alone
@lru_cache(maxsize=64)
def timing_of(
    scene: Timed, method: Method, frame: Frame, lit: LitFor | None, heard: Heard
) -> Timing:
    """The chain's answer; `lit` is the light that stops the motion, None while none does."""
    timing, landed = _whatever_lights_it(scene, method, frame)
    if lit is None:
        return Timing(
            delays=timing.delays,
            unknown=("a light", *timing.unknown),
            wanted_delay_s=timing.wanted_delay_s,
            needed_delay_s=timing.needed_delay_s,
            metered=timing.metered,
        )
    if landed is None:
        return timing
    shares = _shares(landed, method, frame, lit, heard)
    return replace(timing, shares=shares, judged=scene.moment.stated)
