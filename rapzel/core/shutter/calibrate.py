"""Curtain travel and latency from test frames: how much of a plain wall stays dark by shutter time (science §9).

A row closes t_s after it opened; the light comes L after the contact, when the first curtain has run its whole way T_c.
So the share d of the rows that closed before it is 1 − (t_s − L) / T_c, and t_s = (1 − d) T_c + L: a straight line
through as many frames as there are.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.units import format_time

Edge = Literal["lower", "upper"]
READ_SD = 0.005  # of the picture's height, as an edge is read by eye; (memory)
_FAR_SD = 3.0  # beyond which chance is no excuse
_NONE, _ALL = 0.01, 0.99  # shares within which a frame has an edge to read


class CalibrationError(CoreError):
    """These frames say nothing; str() is fit to show."""


@dataclass(frozen=True)
class Band:
    """One test frame: its shutter time [s], the share of its height that is dark, and at which edge of the picture."""

    shutter_s: float
    dark_share: float
    edge: Edge


@dataclass(frozen=True)
class Calibration:
    """Curtain travel and latency [s] with their standard deviations; which edge of the picture is uncovered first."""

    travel_s: float
    travel_sd_s: float
    latency_s: float
    latency_sd_s: float
    first_edge: Edge
    latency_given: bool

    @property
    def says(self) -> str:
        """What was found, in a sentence."""
        travel, sd = format_time(self.travel_s), format_time(self.travel_sd_s)
        if self.latency_given:
            tail = f"with a latency of {format_time(self.latency_s)} as given"
        else:
            tail = f"latency {format_time(self.latency_s)} ± {format_time(self.latency_sd_s)}"
        return f"Curtain travel {travel} ± {sd}, {tail}; the {self.first_edge} edge is uncovered first."


def calibrated(
    bands: Sequence[Band], latency_s: float | None = None, pulse_s: float = 0.0
) -> Calibration:
    """Travel and latency from frames at two or more shutter times, or the travel from one with a known latency [s].

    pulse_s: t.1 of the light, by half of which the edge may be read late. Raises CalibrationError in words.
    """
    edges = {band.edge for band in bands}
    for band in bands:
        # A frame all lit or all dark says only that the edge lies outside.
        if not _NONE <= band.dark_share <= _ALL:
            raise CalibrationError(
                f"{band.dark_share * 100:.0f} % dark has no edge to read: choose a shutter between sync speed and the "
                "one at which all is dark."
            )
    if len(edges) > 1:
        raise CalibrationError(
            "The band lies at both edges: turn no picture, and use one camera."
        )
    if not bands:
        raise CalibrationError(
            "Give at least one frame: its shutter and how much of it is dark."
        )
    lit = np.array([1 - band.dark_share for band in bands])
    times = np.array([band.shutter_s for band in bands])
    spread = float(np.ptp(times))
    if spread < 1e-6 or len(bands) < 2:
        return _by_one(lit, times, latency_s, pulse_s, edges.pop())
    if latency_s is not None:
        return _by_one(lit, times, latency_s, pulse_s, edges.pop())
    # t_s = (1 − d) T_c + L: slope and offset of a line through the frames.
    design = np.stack([lit, np.ones_like(lit)], axis=1)
    travel, latency = np.linalg.lstsq(design, times, rcond=None)[0]
    if travel <= 0:
        raise CalibrationError(
            "A faster shutter must darken more of the frame: check the numbers."
        )
    sd = _reading_sd(design, times, float(travel), float(latency))
    inverse = np.linalg.inv(design.T @ design)
    travel_sd, latency_sd = (sd * math.sqrt(inverse[place, place]) for place in (0, 1))
    # A long pulse draws the edge out; where in it one reads the edge is anybody's guess.
    latency_sd = math.hypot(latency_sd, pulse_s / 2)
    # A little below nothing is reading; far below it is a mistake.
    if latency < -_FAR_SD * latency_sd:
        raise CalibrationError(
            f"These frames give a latency of {format_time(float(latency))}, before the contact: an edge is misread, or "
            "a shutter is not what it says."
        )
    return Calibration(
        float(travel),
        travel_sd,
        max(float(latency), 0.0),
        latency_sd,
        edges.pop(),
        False,
    )


def _by_one(
    lit: "np.ndarray[tuple[int], np.dtype[np.float64]]",
    times: "np.ndarray[tuple[int], np.dtype[np.float64]]",
    latency_s: float | None,
    pulse_s: float,
    edge: Edge,
) -> Calibration:
    """The travel with a known latency: the mean of what each frame says."""
    if latency_s is None:
        raise CalibrationError(
            "One shutter time cannot tell travel from latency: add a frame at another one, or say the latency."
        )
    travels = (times - latency_s) / lit
    if np.any(travels <= 0):
        raise CalibrationError(
            "The shutter is shorter than the latency: no row could have seen it."
        )
    travel = float(travels.mean())
    # The less of a frame is lit, the shorter the lever by which its travel is read.
    own = np.hypot(travels * READ_SD, pulse_s / 2) / lit
    sd = float(np.sqrt(np.sum(own**2)) / len(travels))
    return Calibration(travel, sd, latency_s, 0.0, edge, True)


def _reading_sd(
    design: "np.ndarray[tuple[int, int], np.dtype[np.float64]]",
    times: "np.ndarray[tuple[int], np.dtype[np.float64]]",
    travel_s: float,
    latency_s: float,
) -> float:
    """Scatter of a shutter time about the line [s]: what reading the edge allows, or more where the frames disagree."""
    reading = travel_s * READ_SD
    free = len(times) - 2
    if free < 1:
        return reading
    residuals = times - design @ np.array([travel_s, latency_s])
    return max(reading, float(np.sqrt(np.sum(residuals**2) / free)))
