"""Light that flickers: openings summed up instant by instant, and what a scene and a search say of it."""

import math
from typing import Any

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.light.flicker import Pulsation
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.exposures import room_light
from rapzel.core.search.find import Kit, Search
from rapzel.core.search.limits import read_limits
from rapzel.core.verdict.flickers import even_marks, for_flicker
from tests.core.test_daylight import YARD
from tests.plans import LUNGE

HALL: dict[str, Any] = {
    "exposure.method": "ambient",
    "exposure.shutter_s": 1 / 400,
    "ambient.ev100": 8.0,
    "look": {"room": "lit", "room_stops": None, "trail_m": None},
    "camera.shutter": "rolling",
    "camera.curtain_travel_s": 0.02,
}


def hall(flicker: dict[str, Any] | None, **values: Any) -> dict[str, Any]:
    told = None
    if flicker is not None:
        told = {"frequency_hz": 100.0, "depth": 1.0, "lit_share": None, **flicker}
    return changed(LUNGE, {**HALL, "ambient.flicker": told, **values})


def at(pulsation: Pulsation, times: np.ndarray) -> np.ndarray:
    """The light at each instant, written down anew: a sine, or two levels; its mean is 1."""
    turned = times * pulsation.frequency_hz
    if pulsation.lit_share is None:
        return 1 + pulsation.depth * np.cos(2 * np.pi * turned)
    raw = np.where(
        turned % 1 < pulsation.lit_share, 1 + pulsation.depth, 1 - pulsation.depth
    )
    period = np.where(
        np.arange(100_000) / 100_000 < pulsation.lit_share,
        1 + pulsation.depth,
        1 - pulsation.depth,
    )
    return raw / period.mean()


SEEN = [
    (Pulsation(100, 1.0), 1 / 500), (Pulsation(100, 0.4), 1 / 125), (Pulsation(120, 0.7), 1 / 60),
    (Pulsation(100, 1.0, 0.5), 1 / 1000), (Pulsation(240, 1.0, 0.2), 1 / 200), (Pulsation(1000, 0.6, 0.8), 1 / 800),
]  # fmt: skip


@pytest.mark.parametrize(("pulsation", "exposure_s"), SEEN)
def test_an_opening_gets_the_sum_of_its_instants(
    pulsation: Pulsation, exposure_s: float
) -> None:
    begins = np.linspace(0, 2 / pulsation.frequency_hz, 97)
    instants = (np.arange(20_000) + 0.5) / 20_000 * exposure_s
    summed = np.array([at(pulsation, begin + instants).mean() for begin in begins])
    assert pulsation.levels(begins, exposure_s) == pytest.approx(summed, abs=2e-3)
    least, most = pulsation.extremes(exposure_s)
    assert least == pytest.approx(summed.min(), abs=0.01)
    assert most == pytest.approx(summed.max(), abs=0.01)
    assert least <= summed.min() + 2e-3
    assert most >= summed.max() - 2e-3


def test_whole_periods_are_even_and_bands_follow_the_readout() -> None:
    """Handbook §17: m · |sinc(f t)| vanishes at whole periods; bands = T_c · f."""
    lamps = Pulsation(100, 0.8)
    for exposure_s in (1 / 100, 1 / 50, 3 / 100):
        assert lamps.extremes(exposure_s) == pytest.approx((1.0, 1.0))
    assert lamps.extremes(1 / 200)[1] == pytest.approx(1 + 0.8 * 2 / math.pi)
    assert lamps.bands(0.025) == pytest.approx(2.5)


def test_a_flickering_hall_fails_between_whole_periods_and_names_shutters_that_avoid_it() -> (
    None
):
    found = evaluate(hall({"depth": 0.8}))
    margin = found.margin("flicker")
    assert margin.state == "fails"
    assert "2 bands" in margin.says
    assert (
        evaluate(hall({"depth": 0.8}, **{"exposure.shutter_s": 1 / 100}))
        .margin("flicker")
        .passes
    )
    scene = read_scene(hall({"depth": 0.8}))
    faster, slower = even_marks(scene)
    assert faster is None
    assert slower == pytest.approx(1 / 125, rel=0.25)
    proposed = [change.values for change in for_flicker(scene, found)]
    mended = evaluate(changed(hall({"depth": 0.8}), dict(proposed[0])))
    assert mended.margin("flicker").state == "passes"


def test_what_nobody_knows_of_a_flicker_is_unknown_unless_its_worst_would_do() -> None:
    unknown = evaluate(hall({"depth": None})).margin("flicker")
    assert unknown.state == "unknown"
    assert "ten frames of a plain wall" in unknown.says
    assert (
        evaluate(hall({"depth": None}, **{"exposure.shutter_s": 1 / 100}))
        .margin("flicker")
        .passes
    )
    # One hundred hertz would be even at 1/100 s; one that may be anything is not.
    anything = {"depth": None, "frequency_hz": None, "exposure.shutter_s": 1 / 100}
    flicker = {key: anything[key] for key in ("depth", "frequency_hz")}
    assert (
        evaluate(hall(flicker, **{"exposure.shutter_s": 1 / 200}))
        .margin("flicker")
        .state
        == "unknown"
    )
    assert (
        evaluate(hall(flicker, **{"exposure.shutter_s": 1 / 4}))
        .margin("flicker")
        .passes
    )


def test_nobody_saying_anything_is_a_warning_and_daylight_is_not() -> None:
    said = evaluate(hall(None))
    assert any(
        "Nobody has said whether the room's light flickers" in one
        for one in said.warnings
    )
    assert "flicker" not in [margin.name for margin in said.margins]
    for calm in (
        hall({"depth": 0.0}),
        hall(None, **{"ambient.ev100": 14.0}),
        hall(None, **{"exposure.shutter_s": 1 / 50}),
        changed(LUNGE, {"ambient.ev100": -3.0}),
    ):
        found = evaluate(calm)
        assert not any("flickers" in one for one in found.warnings)
        assert "flicker" not in [margin.name for margin in found.margins]


def test_the_sky_does_not_flicker_whatever_was_said_of_another_room() -> None:
    under_it = {"ambient.sky": YARD, "ambient.ev100": None}
    found = evaluate(hall({"depth": 1.0}, **under_it))
    assert "flicker" not in [margin.name for margin in found.margins]
    lamp = {"name": "Lamp", "lux_1m": 500.0, "distance_m": 2.0}
    beside_lamps = evaluate(hall({"depth": 1.0}, **under_it, lamps=[lamp]))
    assert any("flickers" in one for one in beside_lamps.warnings)


def test_beside_a_flash_only_a_room_that_is_seen_counts() -> None:
    """A black room five stops under hardly moves the picture; one that is wanted is seen on the wall behind."""
    flicker = {"frequency_hz": 100.0, "depth": 1.0, "lit_share": None}
    black = changed(LUNGE, {"ambient.flicker": flicker})
    assert evaluate(black).margin("flicker").passes
    lit = changed(black, {"look": {"room": "lit", "room_stops": -1.5, "trail_m": None}})
    assert evaluate(lit).margin("flicker").state == "fails"


def test_the_rehearsal_has_the_bands_that_the_margin_tells() -> None:
    physics = Physics(read_scene(hall({"depth": 0.5})))
    rows = np.linspace(0, 1, 401)
    lit = room_light(physics, rows)
    assert lit is not None
    levels = np.asarray(lit.by_row).ravel()
    assert levels.max() / levels.min() == pytest.approx(
        2**physics.flickering.change_stops, rel=0.02
    )
    # Two periods of the readout: two crests.
    assert np.count_nonzero(np.diff(np.sign(levels - levels.mean()))) == 4


def test_a_search_takes_only_shutters_at_which_a_seen_room_is_even() -> None:
    limits = read_limits(
        {"methods": ["ambient"], "iso": [100, 51200], "shutter_s": [1 / 500, 1 / 30]}
    )
    found = Search(
        read_scene(hall({"depth": 1.0}, **{"motion.speed_m_s": 0.05})), Kit(()), limits
    ).run()
    assert found.hits
    for hit in found.hits:
        assert hit.evaluation.margin("flicker").passes
    narrow = read_limits({"methods": ["ambient"], "shutter_s": [1 / 500, 1 / 250]})
    none = Search(read_scene(hall({"depth": 1.0})), Kit(()), narrow)
    assert none.reasons["ambient"].startswith(
        "the room's light flickers at every shutter"
    )
    unknown = Search(read_scene(hall({"depth": None})), Kit(()), narrow)
    assert unknown.reasons["ambient"].startswith("not known until")
