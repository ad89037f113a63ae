"""Measured rows of the bench, worked out once: for tests that are about pages, not about measuring."""

import copy
import functools
import io
from typing import Any

import numpy as np
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage

from rapzel.bench.measuring import summary_of
from rapzel.bench.models import ColourRun, State, Trace
from rapzel.core.trace import Recording, analyse_recording, read, recognise
from rapzel.kit.models import Strobe
from simulators.light import Settings, fitting, series, to_csv

SETTINGS = fitting(Settings(power=1 / 16))
CSV = to_csv(series(SETTINGS, 2), SETTINGS).encode()


@functools.cache
def measured() -> tuple[dict[str, Any], dict[str, Any], Recording]:
    layout = recognise(CSV)
    recording = read(CSV, layout)
    result = analyse_recording(recording).to_document()
    result["segments"] = [[each.t0_s, each.dt_s, each.count] for each in recording.segments]
    result["channels"] = list(recording.channels)
    return layout.model_dump(mode="json"), result, recording


def trace_row(owner: Any, strobe: Strobe | None = None) -> Trace:
    layout, result, recording = measured()
    kept = "bench/rows.npz"
    if not default_storage.exists(kept):
        out = io.BytesIO()
        np.savez(
            out,
            **{
                f"s{s}c{c}": v
                for s, e in enumerate(recording.segments)
                for c, v in enumerate(e.values)
            },
        )
        default_storage.save(kept, ContentFile(out.getvalue()))
    return Trace.objects.create(
        owner=owner, name="Key at a sixteenth", file=ContentFile(CSV, "pop.csv"), size=len(CSV), layout=layout,
        strobe=strobe, mode="speed" if strobe else "", power=1 / 16 if strobe else None, state=State.DONE,
        progress=100, result=copy.deepcopy(result), samples_file=kept, summary=summary_of(result),
    )  # fmt: skip


def colour_row(owner: Any) -> ColourRun:
    frame = {"name": "card.jpg", "power": 0.5, "cct_k": 5480.0, "duv": 0.001, "delta_e00": 0.4, "mired_shift": 0.2,
             "exposure_stops": 0.01, "beyond": False}  # fmt: skip
    result = {
        "frames": [frame, {**frame, "delta_e00": 3.0, "beyond": True}],
        "patch": None,
        "spread_stops": 0.1,
    }
    return ColourRun.objects.create(owner=owner, name="Grey card", state=State.DONE, result=result)
