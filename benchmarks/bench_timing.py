"""Timing: a million passes through a beam, a drag answered, ten minutes of sound."""

import io
import itertools

import numpy as np
from django.test import Client
from django.urls import reverse
from scipy.io import wavfile

from rapzel.accounts.models import User
from rapzel.core.document.places import changed
from rapzel.core.tools import TOOLS
from rapzel.core.tools.beam_asked import beam_line, passes_of, window_of
from rapzel.core.trace.measuring.loudness import analyse_file
from rapzel.core.trigger.beams import simulate
from rapzel.kit.services import copy_starter_kit
from rapzel.shoots.models import Shoot
from rapzel.shoots.services import add_scene
from tests.core.trigger.test_beams import BEAM_SCENE
from tests.plans import LUNGE


def test_a_million_passes_through_a_beam(benchmark, report, median_ms) -> None:
    tool = TOOLS["beam"]
    asked = tool.read(
        {**tool.beginning, "above_sd_m": 0.1, "place_m": 0.2, "thick_m": 0.3}
    )
    passes, window, line = (
        passes_of(asked, 0.04, 0.002),
        window_of(asked),
        beam_line(asked),
    )
    benchmark.pedantic(
        lambda: simulate(passes, window, line, 1_000_000),
        rounds=15,
        iterations=1,
        warmup_rounds=1,
    )
    report("a million passes through a beam", median_ms(benchmark), "ms", 150)


def test_a_drag_of_the_beam_is_answered(db, benchmark, report, median_ms) -> None:
    """The whole request: stored, judged, both schools, every fix, plan and side view from 50 000 passes."""
    owner = User.objects.create_user("busy", password="a long enough one")
    copy_starter_kit(owner)
    scene = add_scene(
        Shoot.objects.create(owner=owner, name="Shoot"), changed(LUNGE, BEAM_SCENE)
    )
    client = Client()
    client.force_login(owner)
    link = scene.document["trigger"]["links"][0]["id"]
    url, lengths = reverse("workbench:set", args=[scene.pk]), itertools.count(200)

    def once() -> None:
        data = {
            "path": f"trigger.links[#{link}].distance_m",
            "value": f"{next(lengths)} mm",
            "on": "timing",
        }
        assert client.post(url, data, headers={"HX-Request": "true"}).status_code == 200

    benchmark.pedantic(once, rounds=25, iterations=1, warmup_rounds=3)
    report("a drag of the beam on the timing page", median_ms(benchmark), "ms", 150)


def test_ten_minutes_of_sound(benchmark, report, median_ms) -> None:
    samples = (
        np.random.default_rng(1).standard_normal(48_000 * 600, dtype=np.float32) * 60
    ).astype(np.int16)
    samples[14_400_000:14_402_000] += 20_000
    out = io.BytesIO()
    wavfile.write(out, 48_000, samples)
    data = out.getvalue()
    benchmark.pedantic(
        lambda: analyse_file(data), rounds=5, iterations=1, warmup_rounds=1
    )
    report("ten minutes of sound at 48 kHz", median_ms(benchmark), "ms", 1000)
