import pytest
from scipy.stats import beta, binom

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.shared.errors import OutOfRange
from rapzel.core.trigger import success
from rapzel.core.verdict import pace


def test_a_reservoir_that_refills_what_is_taken_never_ends() -> None:
    """Sustained when p ≤ 1 / (fps × full recycle)."""
    assert pace.frames_before_short(0.5, 1.0, 2.0) is None
    assert pace.frames_before_short(0.55, 1.0, 2.0) is not None, "0.14 stop short once the reserve is gone"


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
    document["lights"][0]["strobe"] = {**document["lights"][0]["strobe"], "full_recycle_s": None}
    found = evaluate(document).margin("pace")
    assert (found.value, found.passes, found.says) == (None, True, "recycle time not known")


@pytest.mark.parametrize(
    ("chance", "tries"), [(0.1, 29), (0.5, 5), (0.95, 1), (1.0, 1), (0.01, 299), (0.0, None), (1e-9, None)]
)
def test_tries_for_nineteen_in_twenty(chance: float, tries: int | None) -> None:
    """Smallest n with 1 − (1 − p)^n ≥ 0.95, by hand from log 0.05 / log (1 − p)."""
    assert success.tries_for(chance) == tries
    if tries:
        assert binom.sf(0, tries, chance) >= 0.95
        assert tries == 1 or binom.sf(0, tries - 1, chance) < 0.95


def test_at_least_one_against_the_binomial() -> None:
    for chance, tries in ((0.02, 100), (0.3, 3), (1.0, 2), (0.0, 5)):
        assert success.at_least_one(chance, tries) == pytest.approx(binom.sf(0, tries, chance))


def test_hit_rate_against_the_beta_distribution() -> None:
    """Jeffreys' interval: Beta(hits + ½, misses + ½), its 5 % and 95 % points."""
    found = success.hit_rate(4, 14)
    assert found.mean == pytest.approx(4.5 / 15)
    assert (found.low, found.high) == pytest.approx(beta.ppf([0.05, 0.95], 4.5, 10.5))
    assert success.hit_rate(0, 5).low == 0
    assert success.hit_rate(5, 5).high == 1


def test_impossible_counts_and_chances_are_refused() -> None:
    with pytest.raises(OutOfRange, match="hits is 6, but must be between 0 and the 5 tries"):
        success.hit_rate(6, 5)
    with pytest.raises(OutOfRange, match=r"chance is 1\.5, but must be between 0 and 1"):
        success.tries_for(1.5)
