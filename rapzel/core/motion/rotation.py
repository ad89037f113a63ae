"""A part that turns on a circle, and one that swings like a pendulum: both stay within their radius."""

import math
from typing import ClassVar, Literal

import numpy as np

from rapzel.core.motion import kinematics
from rapzel.core.motion.kinematics import Number
from rapzel.core.motion.trajectory import Local, Movement, path_length, time_for
from rapzel.core.shared.part import shown


class Rotation(Movement):
    """`phase_deg` is how far the part has turned at the event from where it moves along its direction."""

    kind: Literal["rotation"] = "rotation"
    radius_m: float = shown(..., "Radius", "length", ge=0, le=100)
    rpm: float = shown(..., "Turns a minute", "number", ge=0, le=1e6)
    phase_deg: float = shown(0.0, "Phase at the event", "angle", ge=-360, le=360)

    title = "turning"
    beginning: ClassVar = {"radius_m": 0.3, "rpm": 300.0}
    bent = True

    def local(self, time_s: Number, wanted_s: float, extra_m_s: Number = 0.0) -> Local:
        usual = kinematics.rotation_speed_m_s(self.radius_m, self.rpm)
        # A faster try turns faster: its extra speed is that of the part itself.
        rate = self.rpm * math.tau / 60 * (1 + extra_m_s / usual if usual else 1.0)
        begin = math.radians(self.phase_deg)
        turned = begin + rate * np.asarray(time_s, dtype=float)
        r = self.radius_m
        along, lift = (
            r * (np.sin(turned) - math.sin(begin)),
            r * (math.cos(begin) - np.cos(turned)),
        )
        return Local(along, lift, r * rate * np.cos(turned), r * rate * np.sin(turned))

    def natural_s(self, upstream_m: float) -> float | None:
        usual = kinematics.rotation_speed_m_s(self.radius_m, self.rpm)
        if upstream_m and usual:
            return upstream_m / usual
        return None

    def formula(self) -> str:
        return f"2π r · rpm / 60, r = {self.radius_m:g} m, {self.rpm:g} rpm"


class Swing(Movement):
    """A pendulum of any amplitude. `phase_deg` at the event: 0 at the lowest point, 90 at the turning point."""

    kind: Literal["swing"] = "swing"
    length_m: float = shown(..., "Length", "length", ge=1e-3, le=1000)
    angle_from_rest_deg: float = shown(..., "Angle at release", "angle", ge=0, le=180)
    phase_deg: float = shown(
        0.0,
        "Phase at the event",
        "angle",
        "0° at the lowest point, 90° where it turns",
        ge=-360,
        le=360,
    )

    title = "swinging"
    beginning: ClassVar = {"length_m": 2.0, "angle_from_rest_deg": 45.0}
    bent = True

    def local(self, time_s: Number, wanted_s: float, extra_m_s: Number = 0.0) -> Local:
        fastest = kinematics.pendulum_speed_m_s(self.length_m, self.angle_from_rest_deg)
        half_sine = math.sin(math.radians(self.angle_from_rest_deg) / 2)
        # The speed at the bottom is 2 √(g L) sin(α/2): a faster try was let go from higher up.
        faster = half_sine * (1 + extra_m_s / fastest if fastest else 1.0)
        angle, rate = kinematics.pendulum(time_s, self.length_m, faster, self.phase_deg)
        usual, _ = kinematics.pendulum(0.0, self.length_m, half_sine, self.phase_deg)
        # Each try begins where its own amplitude has it; places are counted from where the usual one begins.
        size = self.length_m
        along = size * (np.sin(angle) - np.sin(usual))
        lift = size * (np.cos(usual) - np.cos(angle))
        return Local(
            along, lift, size * rate * np.cos(angle), size * rate * np.sin(angle)
        )

    def natural_s(self, upstream_m: float) -> float | None:
        if not upstream_m or not self.angle_from_rest_deg:
            return None

        def speed(time_s: Number) -> Number:
            local = self.local(time_s, 0.0)
            return np.hypot(local.along_m_s, local.lift_m_s)

        fastest = kinematics.pendulum_speed_m_s(self.length_m, self.angle_from_rest_deg)
        found = time_for(
            lambda time: path_length(speed, 0.0, time), upstream_m, upstream_m / fastest
        )
        if math.isfinite(found):
            return found
        return None

    def formula(self) -> str:
        formula = f"√(2 g L (1 − cos α)), L = {self.length_m:g} m, α = {self.angle_from_rest_deg:g}°"
        if self.phase_deg:
            return f"{formula}, phase {self.phase_deg:g}°"
        return formula
