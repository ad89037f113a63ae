"""The core: an evaluation, and the rehearsal against a plain per-pixel loop."""

import copy
import math
import time

import numpy as np
from tests.core.plain_render import plain_moved

from rapzel.core.document.possible import read_possible_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.render import render
from rapzel.core.rehearsal.subject import View, layers_of
from tests.plans import LUNGE

INSTANTS = 16  # of the plain loop: fewer than the renderer's segments, so the comparison is to its disadvantage


def four_lights() -> dict:
    document = copy.deepcopy(LUNGE)
    document["lights"] = [
        {**copy.deepcopy(LUNGE["lights"][0]), "name": f"Light {place}", "power": 1 / 8 / 2**place}
        for place in range(4)
    ]
    return document


def test_evaluate_a_scene_of_four_lights(benchmark, report, median_ms) -> None:
    powers = iter(np.geomspace(1 / 200, 1, 20_000))

    def once() -> None:
        document = four_lights()
        document["lights"][0]["power"] = float(
            next(powers)
        )  # never the same scene, so that no cache answers
        evaluate(document)

    benchmark.pedantic(once, rounds=200, iterations=1, warmup_rounds=5)
    report("evaluate, four lights", median_ms(benchmark), "ms", 5)


def test_rehearsal(benchmark, report, median_ms) -> None:
    scene = read_possible_scene({**four_lights(), "ambient": {"ev100": 8.0}})
    render(
        Physics(scene), (960, 640)
    )  # the drawn subject is kept between pictures, as it is while a scene is edited
    benchmark.pedantic(lambda: render(Physics(scene), (960, 640)), rounds=15, iterations=1)
    ours = median_ms(benchmark)
    report("rehearsal 960 × 640 with its crop", ours, "ms", 250)
    report("rehearsal against a per-pixel loop", plain_ms() / ours, "×", 20, True)


def plain_ms() -> float:
    """What the plain loop would take for a frame of 960 × 640: measured on 96 × 64 and scaled by the pixels."""
    layers = layers_of("figure", 1.75, View(96 / 2.84, 96, 64))
    times = [place * 0.005 / INSTANTS for place in range(INSTANTS)]

    def light(row: int, instant: float) -> float:
        return math.exp(-instant / 0.001) if row * 5e-5 <= instant < row * 5e-5 + 0.004 else 0.0

    begin = time.perf_counter()
    for layer in layers:
        plain_moved(layer.cover, light, times, 300.0)
        plain_moved(layer.lit, light, times, 300.0)
    return (time.perf_counter() - begin) * 1000 * (960 * 640) / (96 * 64)
