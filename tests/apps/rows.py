"""Rows as measuring and searching leave them: for tests that are about pages, not about either."""

import copy
import functools
import io
from typing import Any

import numpy as np
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from PIL import Image

from rapzel.bench.measuring import summary_of
from rapzel.bench.models import ColourRun, State, Trace
from rapzel.core.evaluate import evaluate
from rapzel.core.trace import Recording, analyse_recording, read, recognise
from rapzel.dialling.models import Shot
from rapzel.finding.models import Finding
from rapzel.kit.models import Item, Strobe
from rapzel.shoots.models import Scene
from rapzel.takes.models import Take, TakePicture
from rapzel.takes.services import log_take
from simulators.light import Settings, fitting, series, to_csv

SETTINGS = fitting(Settings(power=1 / 16))
CSV = to_csv(series(SETTINGS, 2), SETTINGS).encode()


@functools.cache
def measured() -> tuple[dict[str, Any], dict[str, Any], Recording]:
    layout = recognise(CSV)
    recording = read(CSV, layout)
    result = analyse_recording(recording).to_document()
    result["segments"] = [
        [each.t0_s, each.dt_s, each.count] for each in recording.segments
    ]
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
        owner=owner,
        name="Key at a sixteenth",
        file=ContentFile(CSV, "pop.csv"),
        size=len(CSV),
        layout=layout,
        strobe=strobe,
        mode="speed" if strobe else "",
        power=1 / 16 if strobe else None,
        state=State.DONE,
        progress=100,
        result=copy.deepcopy(result),
        samples_file=kept,
        summary=summary_of(result),
    )


def colour_row(owner: Any) -> ColourRun:
    frame = {
        "name": "card.jpg",
        "power": 0.5,
        "cct_k": 5480.0,
        "duv": 0.001,
        "delta_e00": 0.4,
        "mired_shift": 0.2,
        "exposure_stops": 0.01,
        "beyond": False,
    }
    result = {
        "frames": [frame, {**frame, "delta_e00": 3.0, "beyond": True}],
        "patch": None,
        "spread_stops": 0.1,
    }
    return ColourRun.objects.create(
        owner=owner, name="Grey card", state=State.DONE, result=result
    )


def finding_row(scene: Scene) -> Finding:
    """A search of a scene that found the scene as it is."""
    answer = evaluate(scene.document)
    needs = {
        "iso": 200.0,
        "f_number": 8.0,
        "shutter_s": 0.005,
        "nd_stops": 0.0,
        "lights": 1,
        "distance_m": 2.0,
        "rig": [{"strobe": "Monobloc", "mode": "", "power": 0.5, "count": 1}],
    }
    cost = {
        "lights": 1.0,
        "iso": 200.0,
        "energy_ws": 300.0,
        "price": None,
        "between_frames_s": 0.5,
    }
    hit = {
        "method": "pulse",
        "needs": needs,
        "cost": cost,
        "sentence": answer.sentence,
        "lasts_s": 1e-4,
        "margins": [
            {**one.model_dump(mode="json"), "working": []} for one in answer.margins
        ],
        "document": scene.document,
    }
    relaxed = {
        "limit": "iso",
        "to": 400.0,
        "says": "ISO 400 instead of 200",
        "limits": {},
    }
    result = {
        "combinations": 9,
        "hit_count": 1,
        "not_possible": {},
        "hits": [hit],
        "front": [hit],
        "misses": [],
        "relaxations": [relaxed],
    }
    return Finding.objects.create(
        scene=scene,
        asked="made by hand",
        question="",
        state=Finding.State.DONE,
        result=result,
    )


def pictured_take(scene: Scene) -> Take:
    """A take with a small picture."""
    take = log_take(scene, "keep")
    out = io.BytesIO()
    Image.new("L", (8, 6), 90).save(out, "JPEG")
    TakePicture.objects.create(
        take=take, image=out.getvalue(), content_type="image/jpeg"
    )
    return take


def shot_row(scene: Scene, **report: str) -> Shot:
    """A shot of the simulated unit that has fired with the plan as it is."""
    delay = scene.document["trigger"]["set_delay_s"]
    told = {
        "state": "fired",
        "pulses": "1",
        "flash_s": str(delay),
        "second_s": "-",
        "again_s": "-",
        "answered": "yes",
        "rig_late_s": "0.004",
        "rig_second_late_s": "0",
        **report,
    }
    sent = {"channel": 1, "delay_s": delay}
    return Shot.objects.create(
        scene=scene,
        state="fired",
        says="Fired.",
        sent=sent,
        report=told,
        document=scene.document,
    )


def set_figures(item: Item, **figures: object) -> None:
    """Sets figures of a thing of the kit, as its page would."""
    for name, value in figures.items():
        setattr(item, name, value)
    item.save(update_fields=list(figures))
