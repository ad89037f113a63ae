"""What a search varies, one method at a time: the scene by that method, its shutters, apertures, ISOs and places."""

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from rapzel.core.document.gear import Light, fastest_shutter_s
from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.frame.depth import depth_of_field
from rapzel.core.light.guide import nearness_stops
from rapzel.core.methods import METHODS, Method, method_of
from rapzel.core.physics import Physics
from rapzel.core.physics.exposing import late_of, second_curtain_s
from rapzel.core.physics.flickering import steady_at
from rapzel.core.physics.framing import Frame
from rapzel.core.physics.pace import drives_of, frame_of
from rapzel.core.search.limits import BARE, Limits
from rapzel.core.shared import constants
from rapzel.core.shared.once import once
from rapzel.core.shared.part import Part
from rapzel.core.shared.units import F_NUMBERS, ISO_SPEEDS, SHUTTERS_S

Array = npt.NDArray[np.float64]
ND_STOPS = (1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0)  # filters that are commonly made
# Places of a light: preferred numbers R20 (ISO 3), a third of a stop apart.
DISTANCES_M = tuple(
    digits * scale
    for scale in (0.1, 1.0, 10.0)
    for digits in (
        1,
        1.1,
        1.25,
        1.4,
        1.6,
        1.8,
        2,
        2.2,
        2.5,
        2.8,
        3.2,
        3.6,
        4,
        4.5,
        5,
        5.6,
        6.3,
        7.1,
        8,
        9,
    )
)
_SOONEST_S, _LATEST_S, _COURSE_POINTS = 1e-7, 600.0, 2000
_ROUNDING = 1.01  # markings are rounded: f/5.6 is meant where f/5.657 is written


class Modifier(Part):
    """What stands between a light and the subject: its loss [stops], and how large it makes the source [m]."""

    name: str = ""
    loss_stops: float = 0.0
    source_size_m: float = 0.0


@dataclass(frozen=True)
class Way:
    """A scene by one method, without the lights that are sought: what stays the same in a search."""

    method: Method
    base: Scene
    shutters: tuple[float, ...]

    @once
    def physics(self) -> Physics:
        return Physics(self.base)

    @property
    def frame(self) -> Frame:
        return self.physics.frame

    @once
    def limit_s(self) -> float:
        """The freeze limit [s]; infinite for a still subject."""
        return self.frame.limit_s(not self.method.room_apart)

    @once
    def course(self) -> tuple[Array, Array]:
        """Times about the wanted instant [s] and the way of the image up to each [m], for many shutters at once."""
        # Fine about the instant, where shutters are short, and out to minutes for the longest.
        later = np.geomspace(_SOONEST_S, _LATEST_S, _COURSE_POINTS)
        times = np.concatenate([-later[::-1], [0.0], later])
        wanted = self.physics.trajectory.wanted_s
        speeds = np.broadcast_to(self.frame.image_speed_at(wanted + times), times.shape)
        steps = np.diff(times) * (speeds[1:] + speeds[:-1]) / 2
        return times, np.concatenate([[0.0], np.cumsum(steps)])

    @once
    def late_s(self) -> Array:
        """By how much the light comes late after the contact in each of many frames [s]."""
        return late_of(self.base)

    def after_contact_s(self, shutter_s: Any) -> Any:
        """From the first curtain's contact to the light [s], of one shutter or of many."""
        latency = self.base.trigger.contact_to_light_s or 0.0
        wait = second_curtain_s(
            self.base, self.method, self.physics.assumed_travel_s, shutter_s
        )
        return wait + latency

    @property
    def travel_known(self) -> bool:
        return self.physics.travel_s is not None

    @property
    def placed(self) -> bool:
        """Whether the opening is laid where it catches most of a pulse: of a global shutter."""
        return (
            self.base.camera.shutter == "global"
            and self.method.pulsed
            and not self.method.by_hand
        )

    @property
    def one_kind(self) -> bool:
        """Whether the opening is laid by one kind of light, so that two kinds are not searched together."""
        return self.placed or self.method.leads

    @once
    def _frames_s(self) -> dict[float, float]:
        """What `frame_s` has worked out, by shutter."""
        return {}

    def frame_s(self, shutter_s: float) -> float:
        """How long the body takes for one frame [s]."""
        if shutter_s not in self._frames_s:
            exposure = self.base.exposure.model_copy(update={"shutter_s": shutter_s})
            scene = self.base.model_copy(update={"exposure": exposure})
            drives = drives_of(scene, self.method)
            frame = frame_of(scene, drives, self.physics.assumed_travel_s)
            self._frames_s[shutter_s] = frame[0]
        return self._frames_s[shutter_s]

    @property
    def kept(self) -> tuple[Light, ...]:
        """The lights of the scene that are not on the moving part: they stay as they are."""
        return self.base.lights


def within(
    marks: Sequence[float], limits: tuple[float, float], own: float | None
) -> list[float]:
    """The markings inside a range, and the scene's own value where it lies inside; its ends where none does."""
    low, high = limits
    inside = {mark for mark in marks if low / _ROUNDING <= mark <= high * _ROUNDING}
    if own is not None and low <= own <= high:
        inside.add(own)
    return sorted(inside or {low, high})


def why_not(scene: Scene, key: str) -> str:
    """Why a scene cannot be by a method on its camera; empty where it can."""
    method = METHODS[key]
    reason = method.on_camera(scene.camera)
    if reason:
        return reason
    by_it = _by(scene, key)
    # Some bodies turn one method into another: with a leaf shutter there is no slit to pass a train
    # through.
    if method_of(by_it).key != key:
        return f"on this camera it is: {method_of(by_it).title}"
    return (
        method.conflict(by_it) or _kept_refuse(by_it, method) or _unknown(by_it, method)
    )


def _kept_refuse(scene: Scene, method: Method) -> str:
    """Why the lights that stay as they are cannot be fired by a method; empty where they can."""
    if not method.flashes:
        return ""
    for light in scene.lights:
        refusal = method.on_strobe(light.strobe)
        if refusal:
            return f"{light.called} stays, and by it: {refusal}"
    return ""


def _unknown(scene: Scene, method: Method) -> str:
    """What has to be known before any set-up by a method can be judged; empty where all of it is.

    A set-up whose sync is not known is no hit: it is one as soon as somebody has measured.
    """
    waits = method.pulsed and not method.by_hand
    if waits and scene.trigger.contact_to_light_s is None:
        return "not known until the time from contact to light is measured"
    if method.through_slit and method.travel_s(scene.camera) is None:
        return (
            "not known until the curtain travel is: test frame, or the camera's leaflet"
        )
    return ""


def _by(scene: Scene, key: str) -> Scene:
    document = METHODS[key].recipe(scene.to_document())
    if METHODS[key].filtered:
        nd = document["exposure"]["nd_stops"]
    else:
        nd = 0.0
    kept = [light for light in document["lights"] if not light["on_moving_part"]]
    # What a person has placed by hand was placed for another set-up.
    values = {"exposure.nd_stops": nd, "exposure.offset_s": None, "lights": kept}
    if not METHODS[key].flashes:
        values["lights"] = []
    return read_scene(changed(document, values))


def way_of(scene: Scene, key: str, limits: Limits) -> Way:
    """The scene by one method within a person's limits."""
    base = _by(scene, key)
    asked = limits.frames_per_s or scene.exposure.frames_per_s
    if limits.frames_per_s:
        burst = limits.burst
    else:
        burst = scene.exposure.burst
    exposure = base.exposure.model_copy(update={"frames_per_s": asked, "burst": burst})
    base = base.model_copy(update={"exposure": exposure})
    fastest = fastest_shutter_s(scene.camera)
    if METHODS[key].by_hand:
        slowest = constants.OPEN_BY_HAND_S
    else:
        slowest = 0.0
    marks = within(SHUTTERS_S, limits.shutter_s, scene.exposure.shutter_s)
    # The dial ends at what the body can do, and a shutter opened by hand is not quicker than a
    # hand.
    shutters = [mark for mark in marks if mark * 1.001 >= fastest and mark >= slowest]
    # Where a flickering room is seen, only shutters at which it is even.
    shutters = [mark for mark in shutters if steady_at(base, mark)]
    # slower, and the frame stands open for a pulse as long as that
    if METHODS[key].leads:
        shutters = [mark for mark in shutters if mark < scene.camera.sync_speed_s]
    return Way(METHODS[key], base, tuple(shutters))


def no_shutter(way: Way) -> str:
    """Why a way has no shutter within the limits, where it has none."""
    flicker = way.base.ambient.unsteady
    if flicker is None or way.base.look.room == "black":
        return "no shutter within these limits"
    if flicker.frequency_hz is None or flicker.depth is None:
        return "not known until it is known how the room's light flickers: ten frames of a plain wall"
    return "the room's light flickers at every shutter within these limits"


@dataclass(frozen=True)
class Dials:
    """Apertures, ISOs and filters of a way, every combination of them: arrays of one length."""

    f_number: Array
    iso: Array
    nd_stops: Array
    gain_stops: Array  # of every light: ISO up, aperture and filter down, extension off


def dials_of(way: Way, limits: Limits) -> Dials:
    """The combinations of aperture, ISO and filter that a way may use; in the sun a slit may want a filter, too."""
    scene = way.base
    apertures = within(F_NUMBERS, limits.f_number, scene.exposure.f_number)
    apertures = [mark for mark in apertures if _deep_enough(way, mark, limits.depth_m)]
    apertures = [mark for mark in apertures if _sharp_enough(way, mark)]
    speeds = within(ISO_SPEEDS, limits.iso, scene.exposure.iso)
    filters = (
        ND_STOPS
        if way.method.filtered
        else (0.0, *ND_STOPS)
        if way.method.through_slit
        else (0.0,)
    )
    # Every combination is a row: a few thousand, sorted once.
    table = np.array(list(itertools.product(apertures, speeds, filters)), dtype=float)
    f_number, iso, nd = table.reshape(-1, 3).T
    lost = scene.exposure.polariser_stops + way.frame.bellows_stops
    gain = np.log2(iso / 100) - 2 * np.log2(f_number) - nd - lost
    return Dials(f_number, iso, nd, gain)


def _deep_enough(way: Way, f_number: float, depth_m: float | None) -> bool:
    """Whether what is sharp is as deep as wanted [m]."""
    if not depth_m:
        return True
    scene, frame = way.base, way.frame
    geometric = f_number
    if scene.camera.effective_f_number:
        geometric /= 1 + frame.magnification
    focal, distance = scene.lens.focal_length_mm / 1000, scene.lens.subject_distance_m
    field = depth_of_field(focal, geometric, frame.circle_m, distance)
    return field.far_m - field.near_m >= depth_m * (1 - 1e-9)


def _sharp_enough(way: Way, f_number: float) -> bool:
    """Whether an aperture leaves a part sharp that motion leaves as sharp as the criterion asks."""
    exposure = way.base.exposure.model_copy(update={"f_number": f_number})
    frame = Physics(way.base.model_copy(update={"exposure": exposure})).frame
    together = frame.blur_px(frame.criterion_px)
    return together <= constants.BLUR_SOFT * frame.criterion_px * (1 + 1e-9)


@dataclass(frozen=True)
class Places:
    """Where lights stand and what is before them, every combination: arrays of one length."""

    distance_m: Array
    modifiers: tuple[Modifier, ...]
    modifier: npt.NDArray[np.int64]
    gain_stops: Array  # inverse square and loss
    # how far from the present way of doing it, 0 … 1; smaller is tried first
    preferred: Array


def places_of(
    scene: Scene, limits: Limits, modifiers: Mapping[str, Modifier]
) -> Places:
    """The places and modifiers that lights may have; without wanted modifiers the present loss."""
    own = own_modifier(scene)
    now = [light.distance_m for light in scene.lights if light.on_moving_part]
    if now:
        usual = now[0]
    else:
        usual = 2.0
    distances = within(DISTANCES_M, limits.distance_m, usual)
    chosen = [own]
    if limits.modifiers is not None:
        known = {BARE: Modifier(name=BARE), **modifiers}
        chosen = [known[name] for name in limits.modifiers if name in known] or [own]
    pairs = list(itertools.product(range(len(chosen)), distances))
    which = np.array([pair[0] for pair in pairs], dtype=np.int64)
    distance = np.array([pair[1] for pair in pairs])
    dark = _dark_behind(scene, distance, limits.tolerance_stops)
    # Where all of them light the backdrop no method fires them (`spills`), and any place will do.
    if dark.any():
        which, distance = which[dark], distance[dark]
    loss = np.array([chosen[place].loss_stops for place in which])
    # A preference only: small against a third of a stop, so that it decides among equals.
    away = np.abs(np.log2(distance / usual)) / 10
    other = np.array([0.0 if chosen[place] == own else 0.3 for place in which])
    # A large source near by gives less than the inverse square says.
    near = [
        nearness_stops(chosen[place].source_size_m, away)
        for place, away in zip(which, distance, strict=True)
    ]
    gain = -2 * np.log2(distance) - loss - np.array(near)
    return Places(distance, tuple(chosen), which, gain, np.minimum(away, 0.3) + other)


def spills(scene: Scene, limits: Limits) -> bool:
    """Whether lights spill on the backdrop from every place that they may have, so that it is not black."""
    farthest = np.array([limits.distance_m[0], limits.distance_m[1]])
    return not _dark_behind(scene, farthest, limits.tolerance_stops).any()


def _dark_behind(scene: Scene, distance_m: Array, over_stops: float) -> Any:
    """Whether lights of a right exposure leave the backdrop black, from each distance; so where it is not asked."""
    backdrop = scene.backdrop
    known = backdrop.behind_m is not None and backdrop.reflectance is not None
    if scene.look.room != "black" or not known:
        return np.full(len(distance_m), True)
    assert backdrop.behind_m is not None
    assert backdrop.reflectance is not None
    spill = 2 * np.log2(distance_m / (distance_m + backdrop.behind_m))
    sends_back = math.log2(backdrop.reflectance / constants.MIDDLE_GREY)
    level = over_stops + spill + sends_back - backdrop.flagged_stops
    return level <= -scene.ambient.black_stops


def own_modifier(scene: Scene) -> Modifier:
    """What stands before the scene's first light on the moving part; nothing without one."""
    for light in scene.lights:
        if light.on_moving_part:
            return Modifier(
                name="as now",
                loss_stops=light.loss_stops,
                source_size_m=light.source_size_m,
            )
    return Modifier(name=BARE)
