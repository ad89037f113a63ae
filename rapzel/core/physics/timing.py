"""When the light of a scene comes and where that finds the subject, on tries over its trajectory (science §11)."""

from dataclasses import dataclass

from rapzel.core.document.scene import Scene
from rapzel.core.methods import Method
from rapzel.core.motion import Axes, Trajectory
from rapzel.core.physics.framing import Frame
from rapzel.core.shared import draws
from rapzel.core.trigger import chain, tries
from rapzel.core.trigger.links import Delay
from rapzel.core.trigger.tries import Shares, Window


def wanted_s(scene: Scene) -> float | None:
    """The instant at which the picture is wanted [s after the event]; None where nothing says so.

    As the moment states; else what a beam upstream, or a fall from its release, implies.
    """
    if scene.moment.at_s is not None:
        return scene.moment.at_s
    upstream = sum(link.upstream_m for link in scene.trigger.links)
    implied = scene.motion.natural_s(upstream)
    if implied is None and scene.moment.stated:
        return 0.0  # the moment is the event itself
    return implied


def trajectory_of(scene: Scene) -> Trajectory:
    """The subject's way on the time axis of the event; without a wanted instant the event is what is wanted."""
    return Trajectory(scene.motion, wanted_s(scene) or 0.0)


def delays_of(scene: Scene, method: Method) -> tuple[Delay, ...]:
    """The links from the event to the light, in order; the camera counts only where the trigger fires it."""
    delays = [link.delay() for link in scene.trigger.links]
    if scene.trigger.fires == "camera":
        camera = scene.camera
        delays.append(
            Delay(
                "camera",
                camera.release_lag_s,
                camera.lag_jitter_s,
                provenance=camera.lag_provenance,
                kind="camera",
            )
        )
    if method.pulsed:
        delays.append(Delay("trigger to light", scene.trigger.latency_s, 0.0, kind="latency"))
    return tuple(delays)


@dataclass(frozen=True, slots=True)
class Timing:
    """When the light comes and where that finds the subject; None is not known, shares are of simulated tries."""

    delays: tuple[Delay, ...]
    unknown: tuple[str, ...]  # what would have to be known first, in words
    flash_after_event_s: float | None
    jitter_s: float | None
    wanted_delay_s: float | None
    needed_delay_s: (
        float | None
    )  # set delay with which the usual try is on time; negative: too late without any
    travel_m: float | None  # way of the subject between the event and the light
    offset_m: float | None  # usual place against the wanted one, along the movement
    offset: Axes | None  # the same as the camera sees it [m]
    shares: Shares | None
    judged: bool

    @property
    def too_late_s(self) -> float:
        """By how much the light comes too late even without a delay [s]; 0 when it can be on time."""
        return max(0.0, -(self.needed_delay_s or 0.0))

    @property
    def share(self) -> float | None:
        """Joint share of tries that land; None while nothing says what landing is."""
        return self.shares.joint if self.judged and self.shares else None

    @property
    def position_sd_m(self) -> float | None:
        return None if self.shares is None else self.shares.offset_sd_m


def _window(scene: Scene, frame: Frame, lit_s: float | None) -> Window:
    return Window(
        field_width_m=frame.field_width_m,
        field_height_m=frame.field_height_m,
        extent_m=scene.subject.extent_m,
        near_m=frame.depth.near_m,
        far_m=frame.depth.far_m,
        distance_m=frame.distance_m,
        fastest_m_s=frame.circle_m / lit_s if lit_s else None,
        lasts_s=scene.moment.lasts_s,
        place_m=scene.moment.place_m,
    )


def timing_of(scene: Scene, method: Method, frame: Frame, lit_s: float | None) -> Timing:
    """The chain's answer; `lit_s` is the time of light that stops the motion, None while no light does."""
    trajectory, delays = frame.trajectory, delays_of(scene, method)
    passed, jitter = chain.total_lag_s(delays), chain.total_jitter_s(delays)
    unknown = chain.unknown_of(delays)
    if lit_s is None:
        unknown = ["a light", *unknown]
    wanted = wanted_s(scene)
    total = None if passed is None or lit_s is None else passed + scene.trigger.set_delay_s
    shares = offset = travelled = None
    if total is not None and jitter is not None:
        extra = scene.motion.speed_sd_m_s * draws.normal(0) if scene.motion.speed_sd_m_s else 0.0
        light = total + chain.errors_s(delays)
        # A light about its middle: the exposure of a shutter; a pulse begins where it comes.
        lasts = (lit_s or 0.0) if method.room_apart else 0.0
        shares = tries.judge(
            trajectory, light, extra, _window(scene, frame, lit_s), frame.image_speed_of, lasts
        )
    if total is not None:
        place, at = trajectory.place_m(total), trajectory.place_m(trajectory.wanted_s)
        offset = Axes(*(float(now) - float(there) for now, there in zip(place, at, strict=True)))
        travelled = trajectory.way_m(0.0, total)
    along = tries.direction(trajectory)
    return Timing(
        delays=delays,
        unknown=tuple(unknown),
        flash_after_event_s=total,
        jitter_s=jitter if total is not None else None,
        wanted_delay_s=wanted,
        needed_delay_s=None if wanted is None or passed is None else wanted - passed,
        travel_m=travelled,
        offset_m=None
        if offset is None
        else sum(float(one) * float(unit) for one, unit in zip(offset, along, strict=True)),
        offset=offset,
        shares=shares,
        judged=scene.moment.stated and shares is not None,
    )
