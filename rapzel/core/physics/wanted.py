"""The instant at which a picture is wanted: as the moment states it, or as beam and fall imply it (science §11)."""

from rapzel.core.document.scene import Scene
from rapzel.core.motion import Trajectory
from rapzel.core.physics.timed import Timed
from rapzel.core.trigger.links import Valve

_ROUGHLY = 0.25  # of a distance: a beam that stands so much off is no contradiction


def wanted_s(scene: Scene | Timed) -> float | None:
    """The instant at which the picture is wanted [s after the event]; None where nothing says so.

    As the moment states; else what a beam upstream, or a fall from its release, implies.
    """
    if scene.moment.at_s is not None:
        return scene.moment.at_s
    upstream = sum(link.upstream_m for link in scene.trigger.links)
    implied = scene.motion.natural_s(upstream)
    if implied is None:
        # the moment is the event itself
        if scene.moment.stated:
            return 0.0
        return None
    return implied + valves_lag_s(scene)


def beam_against_moment_m(scene: Scene | Timed) -> float:
    """How far the place that the beam implies is from the one that the moment's instant implies [m]; 0 if they agree.

    A beam stands so far before the focus point, and so says when the subject is there; the moment says it as well.
    """
    at_s = scene.moment.at_s
    upstream = sum(link.upstream_m for link in scene.trigger.links)
    implied = scene.motion.natural_s(upstream)
    if at_s is None or implied is None or not upstream:
        return 0.0
    apart = Trajectory(scene.motion, implied).way_m(
        min(at_s, implied), max(at_s, implied)
    )
    allowed = max(
        _ROUGHLY * upstream, scene.moment.place_m or 0.0, scene.subject.extent_m / 2
    )
    return apart if apart > allowed else 0.0


def valves_lag_s(scene: Scene | Timed) -> float:
    """From the command to the release of what falls [s]: a valve delays the fall as well as what counts after it."""
    valves = [link for link in scene.trigger.links if isinstance(link, Valve)]
    # Only a fall begins when the valve lets go; for all other motions the valve is one more lag of
    # the chain.
    if scene.motion.kind == "fall":
        return sum(link.lag_s or 0.0 for link in valves)
    return 0.0


def trajectory_of(scene: Scene) -> Trajectory:
    """The subject's way on the time axis of the event; without a wanted instant the event is what is wanted."""
    # Speeds and places are asked for about this instant, so it stands at zero where nobody has said
    # one.
    return Trajectory(scene.motion, wanted_s(scene) or 0.0)
