"""What the demo's bench has measured: recordings of the simulated bench and frames of a made-up grey card."""

import io
from dataclasses import replace
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from rapzel.bench import services, tasks
from rapzel.bench.models import ColourFrame, ColourRun, State, Trace
from rapzel.core.shared.tone import encoded
from rapzel.kit.models import Strobe
from simulators.light import STROBES, Settings, fitting, series, to_csv

SEED = 615
# Strobe of the simulated bench, power, pops, fault.
RECORDINGS = (
    ("Monobloc 600 quenched", 1.0, 3, "none"),
    ("Monobloc 600 quenched", 1 / 16, 10, "none"),
    ("Monobloc 600 quenched", 1 / 64, 5, "none"),
    ("Hot-shoe 60", 1 / 128, 5, "none"),
    ("Old voltage monobloc 500", 1.0, 4, "none"),
    ("Hot-shoe 60", 1 / 16, 1, "clipping"),
    ("Bank pack 2400", 1.0, 1, "preflash"),
)
CARD_POWERS = [2.0**-stop for stop in range(0, 9, 2)]


def record(owner: Any, name: str, power: float, pops: int, fault: str) -> Trace:
    """One recording as if it had been brought in, confirmed and measured."""
    settings = replace(
        fitting(Settings(strobe=name, power=power, fault=fault)), seed=SEED
    )
    kit_name, mode = STROBES[name].kit
    strobe = Strobe.objects.visible_to(owner).filter(name=kit_name or name).first()
    text = to_csv(series(settings, pops), settings)
    label = f"{name} {'full' if power == 1 else f'1-{1 / power:.0f}'}{'' if fault == 'none' else f', {fault}'}"
    trace = services.bring_in(owner, SimpleUploadedFile(f"{label}.csv", text.encode()))
    trace.strobe, trace.mode, trace.power, trace.state = (
        strobe,
        mode,
        power,
        State.QUEUED,
    )
    trace.save()
    tasks.run(trace.pk)
    return trace


def card(
    cct_shift: float, green: float, level: float, rng: np.random.Generator
) -> bytes:
    """A frame of a grey card on a dark table, warmer or greener by a little, as a JPEG."""
    grey = 0.18 * level * np.array([1 - cct_shift, 1 + green, 1 + cct_shift])
    picture = np.full((160, 240, 3), 0.012) + rng.normal(0, 0.002, (160, 240, 3))
    picture[40:120, 70:170] = grey + rng.normal(0, 0.004, (80, 100, 3))
    out = io.BytesIO()
    Image.fromarray((encoded(picture) * 255).round().astype(np.uint8)).save(
        out, "JPEG", quality=92
    )
    return out.getvalue()


def colours(owner: Any) -> ColourRun:
    """A grey card at five powers in speed mode: bluer the shorter the pulse, with some drift towards green."""
    rng = np.random.default_rng(SEED)
    strobe = (
        Strobe.objects.visible_to(owner).filter(name="Monobloc 600 quenched").first()
    )
    run = ColourRun.objects.create(
        owner=owner,
        name="Grey card, speed mode",
        strobe=strobe,
        mode="speed",
        state=State.QUEUED,
        tolerance=2.0,
    )
    for number, power in enumerate(CARD_POWERS * 2):
        shift = 0.02 * (-np.log2(power)) / 4 + rng.normal(0, 0.003)
        data = card(
            float(shift),
            float(rng.normal(0, 0.006)),
            float(2 ** rng.normal(0, 0.03)),
            rng,
        )
        upload = SimpleUploadedFile(f"card-{number:02d}.jpg", data)
        ColourFrame.objects.create(
            run=run, file=upload, name=upload.name or "", power=power
        )
    tasks.run_colour(run.pk)
    return run


def build_bench(owner: Any) -> None:
    """Everything the demo's bench shows."""
    for name, power, pops, fault in RECORDINGS:
        record(owner, name, power, pops, fault)
    colours(owner)
