"""Reserves in closed form against the search: where there is one there is a hit, where it ends there is none."""

import math
from typing import Any

import numpy as np
import pytest

from rapzel.core.search.find import Search
from rapzel.core.search.limits import Limits, read_limits
from rapzel.core.search.reserve import Reserves, chart_of, crossings_of
from tests.core.search.test_find import OLD, SMALL, kit, scene_of
from tests.plans import MONOBLOC

ROOM: dict[str, Any] = {"ambient.ev100": 9.0, "camera.fastest_shutter_s": 1 / 8000}
LEAF: dict[str, Any] = {
    **ROOM,
    "camera.shutter": "leaf",
    "camera.fastest_shutter_s": 1 / 2000,
}
WIDE: dict[str, Any] = {"iso": [100, 6400], "f_number": [1.4, 11]}


def search_of(values: dict[str, Any], limits: dict[str, Any]) -> Search:
    return Search(scene_of(**values), kit(SMALL, OLD, MONOBLOC), read_limits(limits))


def works(
    search: Search, method: str, values: dict[str, Any], limits: Limits | None = None
) -> bool:
    """Whether the full search finds anything by one method."""
    chosen = (limits or search.limits).relaxed(methods=(method,))
    return Search(scene_of(**values), search.kit, chosen).any_hit()


@pytest.mark.parametrize("values", [ROOM, LEAF], ids=["curtains", "leaf"])
def test_there_is_a_reserve_where_the_search_finds_something(
    values: dict[str, Any],
) -> None:
    search = search_of(values, WIDE)
    evs = np.array([-1.0, 2.0, 5.0, 7.0, 9.0, 11.0, 13.0, 15.0])
    tables = Reserves(search).of(evs)
    assert len(tables) >= 3
    for method, reserves in tables.items():
        found = [
            works(search, method, {**values, "ambient.ev100": ev})
            for ev in evs.tolist()
        ]
        assert [math.isfinite(one) for one in reserves] == found, method


def test_a_reserve_is_what_the_iso_may_be_lowered_by() -> None:
    """With one aperture and one place the ISO is all that is left to turn."""
    tight = {
        "iso": [25, 12800],
        "f_number": [8, 8],
        "distance_m": [2, 2],
        "methods": ["pulse"],
    }
    search = search_of({}, tight)
    reserve = Reserves(search).of(-math.inf)["pulse"]
    least = search.run().hits[0].iso
    assert math.log2(12800 / least) == pytest.approx(reserve, abs=1 / 3 + 0.01)


def test_the_winner_changes_at_the_crossings_and_the_search_agrees() -> None:
    search = search_of(ROOM, WIDE)
    reserves = Reserves(search)
    here = reserves.winner(9.0)
    crossings = crossings_of(reserves)
    assert {one.axis for one in crossings} == {"room", "speed"}
    speed = search.ways[0].physics.trajectory.wanted_speed_m_s
    for one in crossings:
        side = 1 if one.above else -1
        for step, winner in ((-side, here), (side, one.winner)):
            ev = one.at + 0.05 * step if one.axis == "room" else 9.0
            factor = one.at / speed * (1 + 0.01 * step) if one.axis == "speed" else 1.0
            assert reserves.winner(ev, factor) == winner
            if one.axis == "room" and winner is not None:
                assert works(search, winner, {**ROOM, "ambient.ev100": ev})


def test_one_method_reaches_no_farther_than_its_hits() -> None:
    coarse = {"criterion.pixels": 12}  # which high-speed sync freezes, too
    search = search_of(coarse, {**WIDE, "methods": ["pulse", "hss"]})
    reserves = Reserves(search)
    for method in ("pulse", "hss"):
        reach = [reserves.reach_m(method, lights) for lights in (1, 2, 3)]
        assert reach == sorted(reach)
        last = reach[-1]
        at = search.limits.relaxed(distance_m=(last * 0.98, last * 0.98))
        assert works(search, method, coarse, at)
        beyond = search.limits.relaxed(distance_m=(last * 1.03, last * 1.03))
        assert not works(search, method, coarse, beyond)


def test_the_chart_names_a_winner_only_where_something_works() -> None:
    search = search_of(
        ROOM, {**WIDE, "lights": 1, "methods": ["pulse", "hss", "ambient"]}
    )
    chart = chart_of(Reserves(search), 12, 6)
    assert chart is not None
    assert (chart.winners == -1).any()
    assert (chart.winners >= 0).any()
    column, row = 6, 3
    winner = chart.winners[row, column]
    speed = search.ways[0].physics.trajectory.wanted_speed_m_s
    assert chart.speeds_m_s[0] == pytest.approx(speed / 8)
    names = Reserves(search).winner(
        float(chart.evs[column]), float(chart.speeds_m_s[row]) / speed
    )
    assert (None if winner < 0 else chart.keys[winner]) == names
