"""The core: an evaluation, and the rehearsal against a plain per-pixel loop."""

import copy
import math
import time

import numpy as np

from rapzel.core.evaluate import evaluate
from rapzel.core.frame import criteria, optics
from rapzel.core.light import guide, room
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.rehearsal.render import render
from rapzel.core.subjects.drawn import SUBJECTS, View, layers_of
from tests.core.rehearsal.plain_render import plain_moved
from tests.plans import LUNGE

# of the plain loop: fewer than the renderer's segments, so the comparison is to its disadvantage
INSTANTS = 16


def four_lights() -> dict:
    document = copy.deepcopy(LUNGE)
    document["lights"] = [
        {
            **copy.deepcopy(LUNGE["lights"][0]),
            "name": f"Light {place}",
            "power": 1 / 8 / 2**place,
        }
        for place in range(4)
    ]
    return document


def test_evaluate_a_scene_of_four_lights(benchmark, report, median_ms) -> None:
    powers = iter(np.geomspace(1 / 200, 1, 20_000))

    def another() -> tuple[tuple[dict], dict]:
        """A scene that was never asked of before, so that no cache answers."""
        document = four_lights()
        document["lights"][0]["power"] = float(next(powers))
        return (document,), {}

    benchmark.pedantic(
        evaluate, setup=another, rounds=200, iterations=1, warmup_rounds=5
    )
    report("evaluate, four lights", median_ms(benchmark), "ms", 2.7)


def test_rehearsal(benchmark, report, median_ms) -> None:
    scene = read_possible_scene({**four_lights(), "ambient": {"ev100": 8.0}})
    # the drawn subject is kept between pictures, as it is while a scene is edited
    render(Physics(scene), (960, 640))
    benchmark.pedantic(
        lambda: render(Physics(scene), (960, 640)), rounds=15, iterations=1
    )
    ours = median_ms(benchmark)
    report("rehearsal 960 × 640 with its crop", ours, "ms", 66)
    report("rehearsal against a per-pixel loop", plain_ms() / ours, "×", 20, True)


def plain_ms() -> float:
    """What the plain loop would take for a frame of 960 × 640: measured on 96 × 64 and scaled by the pixels."""
    layers = layers_of(SUBJECTS["figure"], 1.75, View(96 / 2.84, 96, 64))
    times = [place * 0.005 / INSTANTS for place in range(INSTANTS)]

    def light(row: int, instant: float) -> float:
        return (
            math.exp(-instant / 0.001)
            if row * 5e-5 <= instant < row * 5e-5 + 0.004
            else 0.0
        )

    begin = time.perf_counter()
    for layer in layers:
        plain_moved(layer.cover, light, times, 300.0)
        plain_moved(layer.lit, light, times, 300.0)
    return (time.perf_counter() - begin) * 1000 * (960 * 640) / (96 * 64)


def test_draft_while_a_value_is_dragged(benchmark, report, median_ms) -> None:
    scene = read_possible_scene({**four_lights(), "ambient": {"ev100": 8.0}})
    render(Physics(scene), coarser=2)
    benchmark.pedantic(
        lambda: render(Physics(scene), coarser=2), rounds=15, iterations=1
    )
    report(
        "draft of the rehearsal, a quarter of its pixels",
        median_ms(benchmark),
        "ms",
        50,
    )


ROWS, AT_ONCE = 1_000_000, 20_000


def rows_of(count: int) -> dict[str, np.ndarray]:
    """Made-up combinations of lights, powers, distances, apertures and shutters, as a search tries them."""
    rng = np.random.default_rng(11)
    return {
        "guide_number_m": rng.uniform(20, 80, count),
        "iso": 100 * 2 ** rng.uniform(0, 6, count),
        "power": 2 ** rng.uniform(-8, 0, count),
        "distance_m": rng.uniform(0.5, 6, count),
        "loss_stops": rng.uniform(0, 3, count),
        "f_number": 2 ** rng.uniform(1, 4, count),
        "shutter_s": 2 ** rng.uniform(-10, 0, count),
        "speed_m_s": rng.uniform(0.5, 30, count),
        "t01_s": 2 ** rng.uniform(-15, -8, count),
    }


def judged(rows, m=0.0126, circle_m=12e-6, ev100=5.0):
    """Light, freeze and ghost of combinations, by the kernels that `evaluate` uses: numbers or arrays."""
    bellows = optics.bellows_stops(m)
    f_number = guide.correct_f_number(
        rows["guide_number_m"],
        rows["iso"],
        rows["power"],
        rows["distance_m"],
        rows["loss_stops"],
    )
    light = guide.offset_stops(f_number**2, rows["f_number"], 0.0, bellows)
    around = room.room_offset_stops(
        ev100, rows["iso"], rows["f_number"], rows["shutter_s"], 0.0, bellows
    )
    limit = criteria.freeze_limit_s(rows["speed_m_s"] * m, circle_m)
    return light, criteria.freeze_stops(limit, rows["t01_s"]), light - around


def test_a_million_rows_of_kernels(benchmark, report, median_ms) -> None:
    rows = rows_of(ROWS)
    # as a search tries them: as many at once as stay in the processor's own memory
    parts = [
        {name: column[begin : begin + AT_ONCE] for name, column in rows.items()}
        for begin in range(0, ROWS, AT_ONCE)
    ]
    benchmark.pedantic(
        lambda: [judged(part) for part in parts],
        rounds=7,
        iterations=1,
        warmup_rounds=1,
    )
    some = 20_000
    one_by_one = [
        {name: float(column[place]) for name, column in rows.items()}
        for place in range(some)
    ]
    begin = time.perf_counter()
    singly = [judged(row) for row in one_by_one]
    loop_ms = (time.perf_counter() - begin) * 1000 * ROWS / some
    for column, alone in zip(judged(rows), zip(*singly, strict=True), strict=True):
        assert np.allclose(column[:some], alone), "numbers and arrays agree"
    report(
        "a million rows against a loop over the same kernels",
        loop_ms / median_ms(benchmark),
        "×",
        100,
        True,
    )
    report(
        "a million rows of light, freeze and ghost", median_ms(benchmark), "ms", 1000
    )
