import math

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.shutter import curve, rows
from rapzel.core.shutter.rows import Opening
from tests.plans import INSTANT


def shares_of(
    physics: Physics, at: np.ndarray, offset_s: float | None = None
) -> np.ndarray:
    """Share of the first light that each row records."""
    opening = physics.curves.opening
    if offset_s is not None:
        opening = Opening(opening.travel_s, opening.shutter_s, offset_s)
    return curve.row_shares(opening, physics.flashes, at)[0]


@pytest.fixture
def spark(document):
    """The scene lit by a light that is an instant to the shutter."""
    document["lights"][0].update(strobe=INSTANT, power=1.0)
    document["lights"][0]["loss_stops"] = 0.0
    return document


def test_below_sync_every_row_gets_everything(spark) -> None:
    found = evaluate(spark).shutter
    assert found.worst_row_loss_stops == pytest.approx(0, abs=1e-6)
    assert found.dark_share == 0
    assert found.open_window_s == pytest.approx(0.0018)


@pytest.mark.parametrize("shutter_s", [0.0031, 0.002, 0.001, 0.00025])
def test_the_dark_band_by_hand(spark, shutter_s: float) -> None:
    """An instant at T_c + L sees only rows that have not closed: y > (T_c + L − t_s) / T_c."""
    found = evaluate(changed(spark, {"exposure.shutter_s": shutter_s}))
    # at 1/4000 s the light comes after the last row
    by_hand = min((0.0032 + 0.0004 - shutter_s) / 0.0032, 1.0)
    assert found.shutter.dark_share == pytest.approx(by_hand, abs=1 / rows.ROWS)
    assert found.shutter.worst_row_loss_stops == 20.0, (
        "nothing at all, which is as dark as is told apart"
    )
    assert not found.margin("sync").passes


def test_a_band_begins_at_the_side_uncovered_first(spark) -> None:
    physics = Physics(
        read_possible_scene(changed(spark, {"exposure.shutter_s": 0.0031}))
    )
    shares = shares_of(physics, np.array([0.0, 0.1, 0.2, 1.0]))
    assert shares.tolist() == pytest.approx([0, 0, 1, 1])


def test_the_fastest_safe_shutter_by_hand(spark, document) -> None:
    """An instant needs T_c + L; a real pulse the time of 93.3 % of its light more."""
    assert evaluate(spark).shutter.fastest_safe_shutter_s == pytest.approx(
        0.0036, rel=1e-4
    )
    long = changed(
        document,
        {
            "lights[0].strobe.durations": [{"power": 1.0, "t01_s": 0.0045}],
            "lights[0].power": 1.0,
        },
    )
    physics = Physics(read_possible_scene(long))
    safe = evaluate(long).shutter.fastest_safe_shutter_s
    assert float(physics.lights[0].pulse.cumulative(safe - 0.0036)) == pytest.approx(
        2**-0.1, abs=1e-6
    )
    at_safe = evaluate(changed(long, {"exposure.shutter_s": safe}))
    assert at_safe.shutter.worst_row_loss_stops == pytest.approx(0.1, abs=1e-3), (
        "a tenth of a stop, by definition"
    )


def test_a_slow_trigger_dims_the_side_uncovered_first(document) -> None:
    quick = evaluate(document).shutter.worst_row_loss_stops
    slow = evaluate(changed(document, {"trigger.latency_s": 0.0017})).shutter
    assert slow.worst_row_loss_stops > quick + 0.3
    assert slow.best_row_loss_stops == pytest.approx(0, abs=1e-6)


def test_rows_sum_up_to_the_mean_exposure(document) -> None:
    """Light is not lost twice: the rows' mean share is the light let through, integrated over time."""
    physics = Physics(
        read_possible_scene(changed(document, {"exposure.shutter_s": 0.0005}))
    )
    mean = shares_of(physics, (np.arange(4000) + 0.5) / 4000).mean()
    times = np.linspace(0, 0.006, 200_001)
    flash = physics.flashes[0]
    density = np.diff(flash.pulse.cumulative(times - flash.start_s))
    middle = (times[1:] + times[:-1]) / 2
    lit_rows = np.clip(middle / 0.0032, 0, 1) - np.clip(
        (middle - 0.0005) / 0.0032, 0, 1
    )
    assert mean == pytest.approx(float((density * lit_rows).sum()), abs=1e-4)


# --- high-speed sync ------------------------------------------------------------------------------------------------


def test_hss_loss_by_hand(document) -> None:
    found = evaluate(
        changed(document, {"exposure.method": "hss", "exposure.shutter_s": 1 / 4000})
    )
    slit = math.log2((0.0032 + 0.00025) / 0.00025)
    assert found.shutter.hss_loss_stops == pytest.approx(slit + 0.7)
    pulse = evaluate(changed(document, {"exposure.shutter_s": 0.01}))
    assert pulse.flash_offset_stops - found.flash_offset_stops == pytest.approx(
        slit + 0.7
    )
    assert found.shutter.worst_row_loss_stops == found.shutter.dark_share == 0


def test_hss_reach_at_an_eight_thousandth(document) -> None:
    """A reach of 15 m shrinks to 2.5 m near 1/8000 s with T_c about 3 ms, 5.2 stops: common practice."""
    slit = rows.slit_loss_stops(0.003, 1 / 8000)
    assert slit + 0.55 == pytest.approx(2 * math.log2(15 / 2.5), abs=0.05), (
        "0.5–1.5 stops are the strobe's own"
    )


def test_hss_smears_by_the_shutter_and_skews_by_the_travel(document) -> None:
    found = evaluate(
        changed(document, {"exposure.method": "hss", "exposure.shutter_s": 1 / 4000})
    )
    image_speed = 9 * 0.05 / 3.95 / 6e-6
    assert found.smear_px == pytest.approx(image_speed / 4000)
    assert found.margin("freeze").doubt == 0, "a marked exposure, not a claimed pulse"
    assert found.shutter.skew_px == pytest.approx(image_speed * 0.0032)


def test_a_light_without_hss_is_left_out_and_named(document) -> None:
    rim = {
        **document["lights"][0],
        "name": "Rim",
        "strobe": {**document["lights"][0]["strobe"], "hss": False},
    }
    document["lights"].append(rim)
    found = evaluate(
        changed(document, {"exposure.method": "hss", "exposure.shutter_s": 1 / 4000})
    )
    assert found.lights[1].share == 0
    assert found.margin("sync").says == "no HSS: Rim"
    assert not found.margin("sync").passes


# --- other shutters -------------------------------------------------------------------------------------------------


def other(document, kind: str, shutter_s: float, **more):
    camera = {
        "camera.shutter": kind,
        "camera.fastest_shutter_s": 1e-5,
        "exposure.shutter_s": shutter_s,
    }
    return evaluate(
        changed(
            document,
            {
                **camera,
                **{key.replace("__", "."): value for key, value in more.items()},
            },
        )
    )


def test_a_leaf_shutter_opens_the_whole_frame_and_clips_the_tail(document) -> None:
    assert other(document, "leaf", 0.004).shutter.worst_row_loss_stops == pytest.approx(
        0, abs=1e-3
    )
    clipped = other(document, "leaf", 0.0005)
    assert clipped.shutter.worst_row_loss_stops > 0.05
    assert clipped.shutter.worst_row_loss_stops == pytest.approx(
        clipped.shutter.best_row_loss_stops
    )
    # What is left of a pulse that is cut by the blades smears no longer than they are open.
    assert clipped.stopping_s <= 0.0005


def test_a_global_shutter_takes_the_shorter_of_window_and_pulse(document) -> None:
    wide, narrow = (
        other(document, "global", 0.002),
        other(document, "global", 1 / 20000),
    )
    assert wide.stopping_s == pytest.approx(wide.lights[0].t01_s)
    assert narrow.stopping_s == pytest.approx(1 / 20000)
    assert narrow.shutter.best_row_loss_stops > 0.5 > wide.shutter.best_row_loss_stops


def test_the_best_offset_of_a_global_shutter_beats_every_other(document) -> None:
    camera = {
        "camera.shutter": "global",
        "camera.fastest_shutter_s": 1e-5,
        "exposure.shutter_s": 5e-5,
    }
    physics = Physics(read_possible_scene(changed(document, camera)))
    best = physics.curves.opening.offset_s
    caught = float(shares_of(physics, np.array([0.5]), best)[0])
    for offset in np.linspace(0, 0.002, 500):
        assert float(shares_of(physics, np.array([0.5]), offset)[0]) <= caught + 1e-6


def test_a_global_shutter_that_opens_too_early_misses_the_light(document) -> None:
    found = other(document, "global", 1 / 4000, exposure__offset_s=0.0)
    # 250 µs are over before the radio's 400 µs are
    assert not found.margin("sync").passes


def test_short_pulses_lose_least_on_a_global_shutter(document) -> None:
    low, high = (
        other(
            document,
            "global",
            1 / 10000,
            lights=[{**document["lights"][0], "power": p}],
        )
        for p in (1 / 256, 1.0)
    )
    assert low.shutter.best_row_loss_stops < 1
    assert high.shutter.best_row_loss_stops > 3


def test_a_rolling_shutter_needs_its_readout_and_the_pulse(document) -> None:
    slow = other(document, "rolling", 0.03, camera__curtain_travel_s=0.02)
    assert slow.shutter.dark_share == 0
    assert slow.shutter.fastest_safe_shutter_s > 0.02
    assert (
        other(
            document, "rolling", 0.005, camera__curtain_travel_s=0.02
        ).shutter.dark_share
        > 0.7
    )


def test_an_open_shutter_loses_nothing(document) -> None:
    found = evaluate(
        changed(
            document,
            {
                "exposure.method": "open_shutter",
                "exposure.shutter_s": 2.0,
                "trigger.fires": "flash",
            },
        )
    )
    assert found.shutter.worst_row_loss_stops == 0
    assert found.shutter.fastest_safe_shutter_s is None


def test_a_shutter_above_sync_is_warned_to_be_capped(document) -> None:
    assert (
        "fall back to 1/250"
        in evaluate(changed(document, {"exposure.shutter_s": 1 / 1000})).warnings[0]
    )


# --- what is said of shutters, and what is not -----------------------------------------------------------------------


def test_light_that_every_row_misses_alike_is_lost_and_no_band(document) -> None:
    found = other(document, "global", 1 / 20000)
    assert found.shutter.dark_share == 0
    assert found.shutter.captured_share < 0.6
    # The opening is a twentieth of a millisecond; a latency that is only claimed may lie beside it.
    margin = found.margin("sync")
    assert margin.state == "unsure"
    assert "measure the time from contact to light" in margin.says
    latency = {"trigger__latency_provenance": "measured"}
    margin = other(document, "global", 1 / 20000, **latency).margin("sync")
    assert margin.passes
    assert "best opening at" in margin.says
    assert f"keeps {round(found.shutter.captured_share * 100)} %" in margin.says


def test_a_small_light_beats_the_sun_on_a_global_shutter(document) -> None:
    """1/20 000 s at noon: the room falls with the shutter, a pulse of that length hardly does."""
    sun = {
        "lights[0].power": 1 / 256,
        "lights[0].distance_m": 0.6,
        "ambient.ev100": 15.0,
        "exposure.f_number": 4.0,
    }
    found = evaluate(
        changed(
            document,
            {
                **sun,
                "camera.shutter": "global",
                "camera.fastest_shutter_s": 1e-5,
                "exposure.shutter_s": 1 / 16000,
            },
        )
    )
    assert found.flash_offset_stops > found.ambient_offset_stops
    assert found.margin("ghost").passes
    assert found.margin("freeze").state in ("passes", "unsure")


@pytest.mark.parametrize("shutter_s", [0.005, 0.0042])
def test_unknown_curtain_travel_is_safe_only_where_any_travel_is(
    document, shutter_s: float
) -> None:
    document["camera"]["curtain_travel_s"] = None
    document["lights"][0]["power"] = 1 / 256
    found = evaluate(changed(document, {"exposure.shutter_s": shutter_s}))
    needed = 0.004 + 0.0004 + 0.0001  # sync speed, latency, nearly all of the pulse
    assert found.margin("sync").state == ("passes" if shutter_s > needed else "unknown")
    assert found.shutter.open_window_s is None
    hss = evaluate(
        changed(document, {"exposure.method": "hss", "exposure.shutter_s": 1 / 2000})
    )
    assert hss.flash_offset_stops is None
    assert hss.margin("light").state == hss.margin("sync").state == "unknown"
    assert "curtain travel not known" in hss.margin("light").says


def test_unknown_latency_is_not_taken_for_none(document) -> None:
    margin = evaluate(changed(document, {"trigger.latency_s": None})).margin("sync")
    assert (margin.state, margin.value) == ("unknown", None)
    assert "latency" in margin.says


@pytest.mark.parametrize(
    ("values", "says"),
    [
        ({"trigger.fires": "flash"}, "nothing opens the shutter"),
        (
            {"exposure.method": "open_shutter", "trigger.fires": "flash"},
            "nobody opens a shutter by hand for 1/200",
        ),
        (
            {"exposure.method": "open_shutter", "exposure.shutter_s": 1.0},
            "nothing fires the flash",
        ),
        (
            {
                "exposure.method": "hss",
                "camera.shutter": "rolling",
                "camera.curtain_travel_s": 0.03,
            },
            "a readout of 30 ms outlasts a pulse train",
        ),
    ],
)
def test_settings_that_exclude_each_other_are_said(document, values, says: str) -> None:
    margin = evaluate(changed(document, values)).margin("sync")
    assert margin.state == "fails"
    assert says in margin.says


def test_a_light_that_fires_later_needs_a_longer_shutter(document) -> None:
    safe = evaluate(document).shutter.fastest_safe_shutter_s
    late = evaluate(
        changed(document, {"lights[0].delay_s": 0.001})
    ).shutter.fastest_safe_shutter_s
    assert late == pytest.approx(safe + 0.001)
