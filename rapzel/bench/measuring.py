"""Reading and measuring what a person brought to the bench, with progress. Loaded by the worker alone."""

from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
from django.core.files.storage import default_storage

from rapzel.bench.models import ColourRun, Trace
from rapzel.bench.reporting import done, report
from rapzel.core.colour.grey_card import (
    FrameError,
    Patch,
    find_patch,
    judge,
    open_frame,
    read_patch,
)
from rapzel.core.trace import Layout, Recording, analyse_recording, read


def measure(trace: Trace) -> None:
    """Reads a recording, measures it and stores what was found."""
    report(trace, 0.02)
    recording = read(
        Path(trace.file.path),
        Layout(**trace.layout),
        lambda share: report(trace, 0.7 * share),
    )
    result = analyse_recording(recording, trace.channel).to_document()
    report(trace, 0.9)
    segments = [[each.t0_s, each.dt_s, each.count] for each in recording.segments]
    result |= {"segments": segments, "channels": list(recording.channels)}
    done(
        trace, result, samples_file=_keep(trace, recording), summary=summary_of(result)
    )


def summary_of(result: dict[str, Any]) -> dict[str, Any]:
    """What a list shows of a result."""
    return {
        "t05_s": result["t05_s"],
        "t01_s": result["t01_s"],
        "pops": len(result["pops"]),
        "light_sd_stops": result["light_sd_stops"],
        "codes": [warning["code"] for warning in result["warnings"]],
    }


def _keep(trace: Trace, recording: Recording) -> str:
    """The samples in a form that a page can read quickly; beside the original, which stays as it came."""
    name = f"{trace.file.name}.npz"
    arrays = {
        # Single precision is finer than any converter, and half of the disk.
        f"s{s}c{c}": values.astype(np.float32)
        for s, segment in enumerate(recording.segments)
        for c, values in enumerate(segment.values)
    }
    path = Path(default_storage.path(name))
    begun = path.with_suffix(".begun")
    try:
        with begun.open(
            "wb"
        ) as file:  # under its own name only once it is whole: a disk may be full
            np.savez(file, allow_pickle=False, **arrays)
        begun.replace(path)
    finally:
        begun.unlink(missing_ok=True)
    return name


def measure_colour(run: ColourRun) -> None:
    """Reads the frames of a grey card and judges them together."""
    frames = list(run.frames.all())
    if run.patch:
        patch = Patch(**run.patch)
    else:
        patch = None
    readings = []
    for number, frame in enumerate(frames):
        report(run, number / len(frames))
        try:
            with frame.file.open("rb") as file:
                picture = open_frame(file.read())
            # the first frame's patch serves them all: the camera stands still
            patch = patch or find_patch(picture)
            readings.append(read_patch(picture, patch, run.white_balance_k))
        except FrameError as error:
            raise FrameError(f"{frame.name}: {error}") from None
    judged = judge(readings, run.tolerance)
    shown = [
        {
            "name": frame.name,
            "power": frame.power,
            "cct_k": each.reading.cct_k,
            "duv": each.reading.duv,
            "delta_e00": each.delta_e00,
            "mired_shift": each.mired_shift,
            "exposure_stops": each.exposure_stops,
            "beyond": each.beyond,
        }
        for frame, each in zip(frames, judged, strict=True)
    ]
    stops = [each.exposure_stops for each in judged]
    if patch:
        found = asdict(patch)
    else:
        found = None
    done(
        run, {"frames": shown, "patch": found, "spread_stops": max(stops) - min(stops)}
    )
