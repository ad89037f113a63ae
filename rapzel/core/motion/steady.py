"""Constant speed in a straight line: as told, or from a way and the time it took."""

from abc import abstractmethod
from typing import ClassVar, Literal, Self

import numpy as np
from pydantic import model_validator

from rapzel.core.motion.kinematics import Number
from rapzel.core.motion.trajectory import Local, Movement
from rapzel.core.shared.constants import SOURCE_DEFINITION
from rapzel.core.shared.part import Seconds, shown


class _Straight(Movement):
    source = SOURCE_DEFINITION

    @property
    @abstractmethod
    def usual_m_s(self) -> float:
        """The speed of the usual try [m/s]."""

    def local(self, time_s: Number, wanted_s: float, extra_m_s: Number = 0.0) -> Local:
        # A try's own speed is the usual one and what it differs by.
        speed = self.usual_m_s + extra_m_s
        still = np.zeros(())
        return Local(speed * time_s, still, speed, still)

    def natural_s(self, upstream_m: float) -> float | None:
        # What stands still, or crosses no beam, has no time of its own that it would take.
        if upstream_m and self.usual_m_s:
            return upstream_m / self.usual_m_s
        return None


class Steady(_Straight):
    """A speed that is known or taken from the usual ones."""

    kind: Literal["steady"] = "steady"
    speed_m_s: float = shown(
        ..., "Speed", "speed", "9 m/s, 32 km/h, 20 mph", ge=0, le=1e5
    )

    title = "steady speed"
    speed_doubt: ClassVar[float] = 0.2  # as remembered
    beginning: ClassVar = {"speed_m_s": 8.0}

    @property
    def usual_m_s(self) -> float:
        return self.speed_m_s

    def formula(self) -> str:
        return "v as given"


class Measured(_Straight):
    """A speed from two beams or two video frames, or as measured by any other means."""

    kind: Literal["measured"] = "measured"
    speed_m_s: float | None = shown(None, "Speed", "speed", ge=0, le=1e5)
    distance_m: float | None = shown(None, "Way", "length", ge=0, le=1e4)
    interval_s: Seconds | None = shown(None, "Time for it", "duration")

    title = "measured, way and time"
    beginning: ClassVar = {"distance_m": 0.2, "interval_s": 0.02}

    @model_validator(mode="after")
    def _speed_or_its_parts(self) -> Self:
        if self.speed_m_s is None and (
            self.distance_m is None or self.interval_s is None
        ):
            # One of the two has to be there; where both are, the speed wins.
            raise ValueError("give speed_m_s, or distance_m and interval_s")
        return self

    @property
    def usual_m_s(self) -> float:
        if self.speed_m_s is not None:
            return self.speed_m_s
        assert self.distance_m is not None, "held by the document"
        assert self.interval_s is not None, "held by the document"
        return self.distance_m / self.interval_s

    def formula(self) -> str:
        if self.speed_m_s is not None:
            return "v as measured"
        return f"s / Δt, s = {self.distance_m:g} m, Δt = {self.interval_s:g} s"
