"""A fall from rest, with or without drag. The event is the release, or the crossing of a beam above the place."""

from typing import ClassVar, Literal

import numpy as np

from rapzel.core.motion import kinematics
from rapzel.core.motion.kinematics import Number
from rapzel.core.motion.trajectory import Local, Movement
from rapzel.core.shared.part import shown


class Fall(Movement):
    """`height_m` is what the part has fallen when the picture is wanted."""

    kind: Literal["fall"] = "fall"
    height_m: float = shown(..., "Height fallen", "length", ge=0, le=1e4)
    terminal_m_s: float | None = shown(
        None,
        "Terminal speed",
        "speed",
        "empty: no drag",
        ge=0.01,
        le=1e4,
        description="terminal speed, where drag counts",
    )

    title = "falling"
    beginning: ClassVar = {"height_m": 0.5}
    upright = True
    bent = True

    def _fall_s(self, height_m: float) -> float:
        return kinematics.fall_time_s(height_m, self.terminal_m_s)

    def local(self, time_s: Number, wanted_s: float, extra_m_s: Number = 0.0) -> Local:
        # Released so that the whole height has been fallen at the wanted instant.
        since = np.asarray(time_s, dtype=float) + (
            self._fall_s(self.height_m) - wanted_s
        )
        at_event = float(
            kinematics.fallen_m(
                self._fall_s(self.height_m) - wanted_s, self.terminal_m_s
            )
        )
        final = kinematics.fall_speed_m_s(self.height_m, self.terminal_m_s)
        # A faster try is one that falls by the same share further: release heights and pushes vary, g does not.
        if final:
            faster = 1 + extra_m_s / final
        else:
            faster = 1.0
        way = kinematics.fallen_m(since, self.terminal_m_s) - at_event
        still = np.zeros(())
        return Local(
            faster * way,
            still,
            faster * kinematics.falling_m_s(since, self.terminal_m_s),
            still,
        )

    def natural_s(self, upstream_m: float) -> float | None:
        if not upstream_m:
            return self._fall_s(self.height_m)
        # From the beam to the place: the whole fall less the part above the beam.
        return self._fall_s(self.height_m) - self._fall_s(
            max(self.height_m - upstream_m, 0.0)
        )

    def formula(self) -> str:
        if self.terminal_m_s is None:
            formula = "√(2 g h)"
        else:
            formula = "v_t √(1 − e^(−2 g h / v_t²))"
        return f"{formula}, h = {self.height_m:g} m"
