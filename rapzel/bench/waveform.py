"""Samples for the screen: decimated to least and most of each stretch, so that a spike never disappears."""

import itertools
from typing import Any

import numpy as np
from django.core.files.storage import default_storage

from rapzel.bench.models import Trace
from rapzel.core.trace.reading.samples import Recording, Segment

POINTS = 1400  # of one curve on the screen: two for each stretch
_DIGITS = 6


def _samples(trace: Trace, segment: int, channel: int) -> np.ndarray:
    with (
        default_storage.open(trace.samples_file, "rb") as file,
        np.load(file, allow_pickle=False) as arrays,
    ):
        return np.asarray(arrays[f"s{segment}c{channel}"])


def decimated(
    values: np.ndarray, points: int = POINTS
) -> tuple[np.ndarray, np.ndarray]:
    """(places, values): every sample where there are few, else the least and the most of each stretch in order."""
    count = len(values)
    if count <= points:
        return np.arange(count), values
    edges = np.linspace(0, count, points // 2 + 1).astype(int)
    places = []
    for begin, end in itertools.pairwise(edges):
        part = values[begin:end]
        low, high = int(part.argmin()), int(part.argmax())
        # In their order in time; one place where both are the same sample.
        places += sorted({begin + low, begin + high})
    at = np.array(places)
    return at, values[at]


def curve(
    trace: Trace, segment: int, channel: int, begin_s: float | None, end_s: float | None
) -> dict[str, Any]:
    """A channel between two instants, for the plot: times [s] and levels."""
    assert trace.result is not None, "asked for measured traces only"
    t0, dt, count = trace.result["segments"][segment]
    values = _samples(trace, segment, channel)
    if begin_s is None:
        low = 0
    else:
        # A sample more on both sides, so that the curve runs on to the edge.
        low = int(np.clip((begin_s - t0) / dt - 1, 0, count - 2))
    if end_s is None:
        high = count
    else:
        high = int(np.clip((end_s - t0) / dt + 2, low + 2, count))
    at, level = decimated(values[low:high])
    times = t0 + (low + at) * dt
    return {
        # Nine digits tell a nanosecond in a second; more would only make the answer longer.
        "t": [float(f"{each:.9g}") for each in times],
        "v": [float(f"{each:.{_DIGITS}g}") for each in level],
    }


def recording_of(trace: Trace) -> Recording:
    """The recording as it was kept: every channel of every sweep."""
    assert trace.result is not None, "asked for measured traces only"
    names = trace.result["channels"]
    with (
        default_storage.open(trace.samples_file, "rb") as file,
        np.load(file, allow_pickle=False) as arrays,
    ):
        segments = tuple(
            Segment(
                t0,
                dt,
                tuple(arrays[f"s{place}c{channel}"] for channel in range(len(names))),
            )
            for place, (t0, dt, _) in enumerate(trace.result["segments"])
        )
    return Recording(tuple(names), ("",) * len(names), segments)


def aligned(trace: Trace, points: int = POINTS) -> dict[str, Any]:
    """The first pop, above its baseline, in percent of its peak, with time 0 where it first rises through half.

    For laying traces over each other.
    """
    assert trace.result is not None, "asked for measured traces only"
    _t0, dt, _ = trace.result["segments"][0]
    pop = trace.result["pops"][0]
    values = _samples(trace, 0, trace.result["channel_number"]).astype(float)
    if pop["inverted"]:
        sign = -1.0
    else:
        sign = 1.0
    at, level = decimated(sign * (values - pop["baseline"]) / pop["peak"] * 100, points)
    zero = pop["first05_s"] or 0.0
    return {
        "t": [float(f"{each:.9g}") for each in at * dt - zero],
        "v": [float(f"{each:.{_DIGITS}g}") for each in level],
    }
