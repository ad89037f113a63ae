"""A long pulse as continuous light: rows by plain sums over time, its margin, and the search against single scenes."""

import math
from typing import Any

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.methods import METHODS
from rapzel.core.physics import Physics
from rapzel.core.search.compare import compare
from rapzel.core.search.find import Search
from rapzel.core.search.limits import read_limits
from tests.core.search.test_find import kit, right
from tests.plans import LUNGE, MONOBLOC

PACK: dict[str, Any] = {
    "name": "Old pack", "circuit": "voltage", "guide_number_m": 90.0, "min_power": 0.25,
    "durations": [{"power": 1.0, "t01_s": 0.025, "provenance": "measured"}], "full_recycle_s": 3.0,
}  # fmt: skip
TAIL: dict[str, Any] = {
    "exposure.method": "long_pulse", "exposure.shutter_s": 1 / 2000, "lights[0].strobe": PACK,
    "lights[0].power": 1.0, "camera.fastest_shutter_s": 1 / 8000,
}  # fmt: skip


def tail(**values: Any) -> Scene:
    return read_scene(changed(LUNGE, {**TAIL, **values}))


def plain_rows(physics: Physics, opens_s: float) -> np.ndarray:
    """What each of nine rows gets of the pulse, by adding up its intensity in steps of a microsecond."""
    (lit,) = physics.on_part
    times = np.arange(-0.02, 0.4, 1e-6)
    shone = np.clip(lit.pulse.intensity(times), 0, None)
    shutter, travel = physics.scene.exposure.shutter_s, physics.assumed_travel_s
    begins = opens_s + np.linspace(0, 1, 9) * travel
    open_ = [(times >= begin) & (times < begin + shutter) for begin in begins]
    return np.array([shone[one].sum() for one in open_]) / shone.sum()


def test_rows_and_lead_by_adding_up_the_light() -> None:
    """No other opening, tried every tenth of a millisecond, gives the darkest row more."""
    physics = Physics(tail())
    placed = physics.curves.opening.offset_s
    by_row = plain_rows(physics, placed)
    # MIDDLES next to the nine places
    mine = physics.curves.by_row[[0, *range(32, 257, 32)]]
    assert by_row == pytest.approx(mine, rel=5e-3)
    others = [plain_rows(physics, at).min() for at in np.arange(-0.004, 0.01, 1e-4)]
    assert by_row.min() >= max(others) * (1 - 2e-3)
    spread = math.log2(by_row.max() / by_row.min())
    assert physics.curves.fall_stops == pytest.approx(spread, abs=0.01)


def test_far_down_an_exponential_rows_fall_by_travel_over_decay() -> None:
    """Of e^(−t/τ) every row gets 2^(−T_c / (τ ln 2)) of the one before it opened, wherever it is met."""
    later = Physics(tail(**{"exposure.offset_s": 0.02}))
    decay = later.on_part[0].known.shape.decay_s
    stops = later.assumed_travel_s / decay / math.log(2)
    assert later.curves.fall_stops == pytest.approx(stops, rel=1e-3)
    assert Physics(tail()).curves.fall_stops < stops  # about the peak it is flatter


def test_the_judged_row_is_half_way_and_the_shutter_stops_the_motion() -> None:
    found = evaluate(tail())
    curves = Physics(tail()).curves
    stops = np.log2(curves.by_row)
    assert stops[curves.best_row] == pytest.approx(
        (stops.max() + stops.min()) / 2, abs=0.02
    )
    assert found.stopping_s == 1 / 2000
    assert found.shutter.hss_loss_stops is None
    assert found.shutter.dark_share == 0, (
        "what the slit takes from every row is no band"
    )
    # A pulse that is brightest at its beginning begins with the first row, the curtain's travel before the contact.
    assert found.shutter.offset_s == pytest.approx(0.0, abs=1e-4)
    assert any(
        "begin 3.18 ms before the usual sync contact" in one for one in found.warnings
    )
    # Against the whole pulse: what all rows see of it is about shutter over pulse.
    whole = evaluate(tail(**{"exposure.method": "pulse", "exposure.shutter_s": 0.5}))
    lost = (whole.flash_offset_stops or 0.0) - (found.flash_offset_stops or 0.0)
    assert lost == pytest.approx(-stops[curves.best_row], abs=0.01)


def test_margin_of_even_rows() -> None:
    even = evaluate(tail()).margin("sync")
    assert even.state == "passes"
    # t.1 of 4.5 ms
    short = evaluate(tail(**{"lights[0].strobe": MONOBLOC})).margin("sync")
    assert short.state == "fails"
    assert "stops apart" in short.says
    assert "uneven" in evaluate(tail(**{"lights[0].strobe": MONOBLOC})).sentence
    claimed = {
        **PACK,
        "durations": [{"power": 1.0, "t01_s": 0.016, "provenance": "estimated"}],
    }
    assert (
        evaluate(tail(**{"lights[0].strobe": claimed})).margin("sync").state == "unsure"
    )
    unknown = evaluate(tail(**{"camera.curtain_travel_s": None}))
    assert unknown.margin("sync").state == "unknown"
    assert unknown.flash_offset_stops is None
    assert METHODS["long_pulse"].on_camera(tail(**{"camera.shutter": "leaf"}).camera)


@pytest.mark.parametrize("lights", [1, 2])
def test_the_search_finds_what_single_scenes_say(lights: int) -> None:
    """Every power and shutter, one place: the search's rows are those whose scene holds."""
    asked = {
        "methods": ["long_pulse"],
        "lights": lights,
        "distance_m": [2, 2],
        "iso": [800, 800],
        "f_number": [5.6, 5.6],
        "equal_power": True,
    }
    scene = tail(
        **{"motion.speed_m_s": 2.0, "lights[0].distance_m": 2.0, "ambient": {}}
    )
    seen = set()
    for shutter in (1 / 8000, 1 / 4000, 1 / 2000, 1 / 1000, 1 / 500, 1 / 250):
        limits = read_limits({**asked, "shutter_s": [shutter, shutter]})
        found = Search(scene, kit(PACK), limits).best_of_each()
        holds = [
            right(Physics(at_power(scene, 2 ** (-step / 3), shutter, count)), limits)
            for step in range(7)
            for count in range(1, lights + 1)
        ]
        assert any(holds) == bool(found), shutter
        seen.add(any(holds))
    assert seen == {True, False}


def at_power(scene: Scene, power: float, shutter_s: float, count: int) -> Scene:
    document = scene.to_document()
    light = {**document["lights"][0], "power": power, "count": count, "loss_stops": 1.3}
    values = {
        "lights": [light],
        "exposure.shutter_s": shutter_s,
        "exposure.iso": 800.0,
        "exposure.f_number": 5.6,
    }
    return read_scene(changed(document, values))


def test_a_column_passes_what_it_claims() -> None:
    slow = tail(**{"motion.speed_m_s": 2.0})
    comparison = compare(
        slow, kit(PACK, MONOBLOC), read_limits({"iso": [100, 6400], "lights": 2})
    )
    column = comparison.column("long_pulse")
    assert column.hit is not None
    after = evaluate(column.hit.document)
    assert after.margin("sync").value == pytest.approx(
        column.hit.claimed["sync"], abs=1e-6
    )
    assert after.margin("light").value == pytest.approx(
        column.hit.claimed["light"], abs=1e-6
    )
    assert after.margin("sync").state in ("passes", "unsure")
    short = compare(slow, kit(MONOBLOC), read_limits({"lights": 1})).column(
        "long_pulse"
    )
    assert not short.works
    assert short.miss is not None
