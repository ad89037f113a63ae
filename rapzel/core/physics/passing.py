"""How the subject passes its sensor in many tries: off its usual way, faster or slower, and where it cuts a beam."""

import math
from dataclasses import dataclass

import numpy as np

from rapzel.core.document.scene import Scene
from rapzel.core.motion import Axes, Trajectory
from rapzel.core.motion.kinematics import Number
from rapzel.core.physics.timed import Timed
from rapzel.core.shared import constants, draws
from rapzel.core.shared.once import once
from rapzel.core.trigger import crossing
from rapzel.core.trigger.links import Beam
from rapzel.core.trigger.tries import Flags, direction

_SLOWEST_M_S = 1e-6  # below it a subject never reaches its beam


def beam_of(scene: Scene | Timed) -> Beam | None:
    """The beam that starts the chain; None where something else does."""
    return next((link for link in scene.trigger.links if isinstance(link, Beam)), None)


def _spread(shape: str, size: Number, source: int) -> Number:
    """Draws with that standard deviation, or that half width where they are even."""
    if not np.any(size):
        return 0.0
    if shape == "uniform":
        # An even spread of half width w has a standard deviation of w / √3.
        return size / math.sqrt(3) * draws.uniform(source)
    return size * draws.normal(source)


@dataclass(frozen=True)
class Passing:
    """The drawn passes of one scene. Lengths in m, times in s, places against the usual way."""

    scene: Scene | Timed
    trajectory: Trajectory
    # as widely as ways may spread where nobody states it [m, sd]
    unsaid_ways_m: float = 0.0

    @once
    def extra_m_s(self) -> Number:
        """How much faster than usual each try is [m/s]: by its own spread, and by what the usual speed is off."""
        motion, usual = self.scene.motion, self.trajectory.wanted_speed_m_s
        off = motion.mean_doubt_m_s(usual) / constants.NINE_IN_TEN_SD
        own: Number
        if motion.speed_sd_m_s is None:
            most = constants.UNSAID_SPEEDS * usual
            own = most * draws.of_each_try(draws.world_share(draws.OWN_SPEED))
        else:
            own = motion.speed_sd_m_s * math.sqrt(1 - constants.OF_THE_DAY**2)
        if not off and not np.any(own):
            return 0.0
        of_the_plan = off * draws.world_normal(draws.MEAN_SPEED)
        return draws.shifted(own * draws.normal(draws.SPEED), of_the_plan)

    def _ways(self, stated_m: float | None) -> Number:
        """The spread of ways in one direction [m]: as stated, or anything up to what such subjects do."""
        if stated_m is not None:
            return stated_m
        return self.unsaid_ways_m * draws.of_each_try(draws.world_share(draws.WAYS))

    @once
    def way(self) -> Axes:
        """Direction of the movement at the event, where a beam is cut."""
        # A leap has another direction at the beam than at its apex.
        velocity = self.trajectory.velocity_m_s(0.0)
        size = np.sqrt(float(crossing.dot(velocity, velocity)))
        if size > _SLOWEST_M_S:
            return crossing.scaled(velocity, 1 / size)
        return direction(self.trajectory)

    @once
    def beside(self) -> Axes:
        """How far off the usual way each try is [m]."""
        subject = self.scene.subject
        if not subject.strays:
            return Axes(0.0, 0.0, 0.0)
        aside, above = crossing.sideways(self.way)
        return crossing.added(
            crossing.scaled(
                aside,
                _spread(
                    subject.ways_shape, self._ways(subject.aside_sd_m), draws.ASIDE
                ),
            ),
            crossing.scaled(
                above,
                _spread(
                    subject.ways_shape, self._ways(subject.above_sd_m), draws.ABOVE
                ),
            ),
        )

    @once
    def line(self) -> crossing.Line | None:
        """The beam as a line; None where there is none, and for one that lies along the way."""
        beam = beam_of(self.scene)
        if beam is None:
            return None
        return crossing.line_of(
            beam.lies, beam.turned_deg, self.way, beam.offset_m, beam.length_m
        )

    @once
    def crossing(self) -> crossing.Crossing | None:
        """Where the tries cut the beam; None where there is none, and where all take the usual way."""
        if self.line is None or not self.scene.subject.strays:
            return None
        return crossing.crossing(self.line, self.way, self.beside)

    @once
    def counted(self) -> Flags | None:
        """Which tries the beam notices; None where it notices all."""
        if self.crossing is None:
            return None
        return np.broadcast_to(
            self.crossing.cuts(self.scene.subject.thick_m), (draws.TRIES,)
        )

    @once
    def later_s(self) -> Number:
        """By how much each try fires the sensor later than one on the usual way [s]."""
        beam = beam_of(self.scene)
        if beam is None:
            return 0.0
        further: Number = 0.0 if self.crossing is None else self.crossing.further_m
        if beam.zone_m:
            # A light curtain notices anywhere in its depth, with no place likelier than another.
            further = further + _spread("uniform", beam.zone_m / 2, draws.ZONE)
        if np.all(np.equal(further, 0)):
            return 0.0
        speed = self.trajectory.speed_m_s(0.0, self.extra_m_s)
        return further / np.maximum(speed, _SLOWEST_M_S)

    def metered_s(self, beam: Beam, first_s: Number, second_s: Number) -> Number:
        """How long each try takes from the second beam to the place, as two beams measure it [s].

        first_s, second_s: errors of the two beams' signals. Straight ways at a steady speed only.
        """
        assert beam.second_m is not None, "asked of two beams only"
        speed = np.maximum(self.trajectory.speed_m_s(0.0, self.extra_m_s), _SLOWEST_M_S)
        between = beam.second_m / speed
        # Errors can outweigh a short way between the beams; no unit measures a time of nothing or
        # less.
        measured = np.maximum(between + second_s - first_s, between / 100)
        return beam.distance_m / beam.second_m * measured
