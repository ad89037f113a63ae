"""A leap about its apex: ballistic upwards, with a horizontal speed that never stops."""

from typing import ClassVar, Literal

import numpy as np

from rapzel.core.motion.kinematics import Number
from rapzel.core.motion.trajectory import Local, Movement
from rapzel.core.shared.constants import GRAVITY_M_S2
from rapzel.core.shared.part import shown


class Leap(Movement):
    """`from_apex_s` is how long after the apex the picture is wanted; the direction is that of the horizontal way."""

    kind: Literal["leap"] = "leap"
    rise_m: float = shown(..., "Rise", "length", ge=1e-3, le=100)
    from_apex_s: float = shown(0.0, "From the apex", "duration", ge=0, le=60)
    horizontal_m_s: float = shown(
        0.0,
        "Horizontal speed",
        "speed",
        "it never stops",
        ge=0,
        le=100,
        description="speed along the ground, which the apex does not stop",
    )

    title = "leap, near its top"
    beginning: ClassVar = {"rise_m": 0.5, "from_apex_s": 0.05}
    bent = True

    speed_doubt: ClassVar[float] = 0.2  # of the speed along the ground, as remembered

    def local(self, time_s: Number, wanted_s: float, extra_m_s: Number = 0.0) -> Local:
        since = np.asarray(time_s, dtype=float) - wanted_s + self.from_apex_s
        at_event = self.from_apex_s - wanted_s
        forward = self.horizontal_m_s + extra_m_s
        # Counted from where the body is at the event, not from its apex.
        sunk = GRAVITY_M_S2 / 2 * (since**2 - at_event**2)
        return Local(forward * time_s, -sunk, forward, -GRAVITY_M_S2 * since)

    def natural_s(self, upstream_m: float) -> float | None:
        if upstream_m and self.horizontal_m_s:
            return upstream_m / self.horizontal_m_s
        return None

    def formula(self) -> str:
        if not self.horizontal_m_s:
            return f"g · Δt, Δt = {self.from_apex_s:g} s from the apex"
        return f"√(v_h² + (g Δt)²), v_h = {self.horizontal_m_s:g} m/s, Δt = {self.from_apex_s:g} s from the apex"
