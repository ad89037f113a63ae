import numpy as np
import pytest
from scipy.stats import beta, binom, nbinom

from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.physics import pace
from rapzel.core.shared.errors import OutOfRange
from rapzel.core.trigger import success
from rapzel.core.verdict.remedies import for_pace


def test_a_reservoir_that_refills_what_is_taken_never_ends() -> None:
    """Sustained when p ≤ 1 / (fps × full recycle)."""
    assert pace.frames_before_short(0.5, 1.0, 2.0) is None
    assert pace.frames_before_short(0.55, 1.0, 2.0) is not None, (
        "0.14 stop short once the reserve is gone"
    )


def test_a_burst_by_hand() -> None:
    """Half power, a quarter back between frames: 1 → 0.75 → 0.5 → 0.25, whose pop is a stop short."""
    assert pace.burst_offsets_stops(0.5, 1.0, 4.0, 4) == pytest.approx([0, 0, 0, -1])
    assert pace.frames_before_short(0.5, 1.0, 4.0) == 3


def test_sustained_rate_is_that_of_the_slowest_light(document) -> None:
    document["lights"].append({**document["lights"][0], "name": "Slow", "power": 0.5})
    found = evaluate(document)
    assert found.pace.sustained_fps == pytest.approx(1 / (0.5 * 0.9))
    asked = evaluate(changed(document, {"exposure.frames_per_s": 8.0}))
    assert not asked.margin("pace").passes
    assert asked.margin("pace").value == pytest.approx(1 / 0.45 - 8)
    assert asked.pace.frames_before_short == pace.frames_before_short(0.5, 0.9, 8.0)


def test_pace_is_unknown_without_a_recycle_time(document) -> None:
    document["lights"][0]["strobe"] = {
        **document["lights"][0]["strobe"],
        "full_recycle_s": None,
    }
    found = evaluate(document).margin("pace")
    assert (found.value, found.state) == (None, "unknown")
    assert found.says == "recycle of Key not known: time it, ready to ready"


def test_a_dead_time_makes_every_other_pop_miss() -> None:
    """Above 1 / floor frames a second the strobe is dead when it is asked again."""
    offsets = pace.burst_offsets_stops(0.01, 1.0, 10.0, 6, floor_s=0.15)
    assert offsets == pytest.approx([0, -np.inf, 0, -np.inf, 0, -np.inf])
    assert pace.burst_offsets_stops(0.01, 1.0, 6.0, 6, floor_s=0.15) == pytest.approx(
        [0] * 6
    )


def test_no_energy_flows_in_while_the_strobe_is_dead() -> None:
    """A tenth of a second between frames, half of it dead: 0.05 of the charge comes back after each pop of 0.1."""
    offsets = pace.burst_offsets_stops(0.1, 1.0, 10.0, 30, floor_s=0.05)
    stored, by_hand = 1.0, []
    for _ in range(30):
        given = min(0.1, stored)
        by_hand.append(np.log2(given / 0.1))
        stored = min(stored - given + 0.05, 1.0)
    assert offsets == pytest.approx(by_hand)


def test_a_long_exposure_caps_the_rate(document) -> None:
    found = evaluate(
        changed(document, {"exposure.shutter_s": 0.5, "exposure.frames_per_s": 3.0})
    )
    assert found.pace.sustained_fps == pytest.approx(1 / (0.5 + 0.0032))
    assert "the exposure allows 1.99" in found.margin("pace").says


@pytest.mark.parametrize(
    ("part", "state"),
    [(0.8, "passes"), (1.0, "unsure"), (1.15, "unsure"), (1.3, "fails")],
)
def test_a_recycle_is_claimed_for_a_fresh_battery(document, part, state) -> None:
    """A rate that is held as shown is not refused, and within a fifth of what is claimed it is not sure either."""
    sustained = evaluate(document).pace.sustained_fps
    shown = round(sustained * part, 1)
    found = evaluate(changed(document, {"exposure.frames_per_s": shown}))
    assert found.margin("pace").state == state


def test_a_floor_that_nobody_timed_is_not_none(document) -> None:
    """1/256 of 0.9 s would be 284 frames a second, if a strobe had no dead time."""
    values = {"lights[0].power": 1 / 256, "lights[0].strobe.recycle_floor_s": None}
    found = evaluate(changed(document, {**values, "exposure.shutter_s": 1 / 250}))
    assert found.pace.sustained_fps == pytest.approx(1 / (0.3 + 0.9 / 256))
    assert "floor not timed" in found.margin("pace").says
    for asked, state in ((2.0, "passes"), (20.0, "unknown")):
        there = evaluate(changed(document, {**values, "exposure.frames_per_s": asked}))
        assert there.margin("pace").state == state, asked


def test_pace_is_mended_by_less_power_first(document) -> None:
    asked = changed(document, {"lights[0].power": 1 / 8, "exposure.frames_per_s": 20.0, "ambient": {}})  # fmt: skip
    first, *others = for_pace(read_scene(asked), evaluate(asked))
    assert "down with ISO" in first.says
    offers = {one.says: evaluate(changed(asked, dict(one.values))) for one in (first, *others)}  # fmt: skip
    assert any(one.margin("pace").passes for one in offers.values())
    slower = offers[others[-1].says]
    assert slower.margin("pace").passes


@pytest.mark.parametrize(
    ("chance", "keepers", "tries"),
    [(0.5, 3, 11), (0.5, 1, 5), (0.2, 2, 22), (0.9, 5, 7)],
)
def test_tries_for_several_keepers_by_the_negative_binomial(
    chance: float, keepers: int, tries: int
) -> None:
    """Handbook: p = 0.5, k = 3 takes 11 tries for 95 %; checked by scipy's negative binomial."""
    assert success.tries_for(chance, keepers=keepers) == tries
    assert (
        nbinom.cdf(tries - keepers, keepers, chance)
        >= 0.95
        > nbinom.cdf(tries - keepers - 1, keepers, chance)
    )


@pytest.mark.parametrize(
    ("chance", "tries"),
    [(0.1, 29), (0.5, 5), (0.95, 1), (1.0, 1), (0.01, 299), (0.0, None), (1e-9, None)],
)
def test_tries_for_nineteen_in_twenty(chance: float, tries: int | None) -> None:
    """Smallest n with 1 − (1 − p)^n ≥ 0.95, by hand from log 0.05 / log (1 − p)."""
    assert success.tries_for(chance) == tries
    if tries:
        assert binom.sf(0, tries, chance) >= 0.95
        assert tries == 1 or binom.sf(0, tries - 1, chance) < 0.95


def test_hit_rate_against_the_beta_distribution() -> None:
    """Jeffreys' interval: Beta(hits + ½, misses + ½), its 5 % and 95 % points."""
    found = success.hit_rate(4, 14)
    assert found.mean == pytest.approx(4.5 / 15)
    assert (found.low, found.high) == pytest.approx(beta.ppf([0.05, 0.95], 4.5, 10.5))
    assert success.hit_rate(0, 5).low == 0
    assert success.hit_rate(5, 5).high == 1


def test_impossible_counts_and_chances_are_refused() -> None:
    with pytest.raises(
        OutOfRange, match="hits is 6, but must be between 0 and the 5 tries"
    ):
        success.hit_rate(6, 5)
    with pytest.raises(
        OutOfRange, match=r"chance is 1\.5, but must be between 0 and 1"
    ):
        success.tries_for(1.5)
