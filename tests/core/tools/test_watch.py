"""The watch by hand and against scipy, and the day of an open shutter against plain counting."""

import numpy as np
import pytest
from scipy.stats import norm

from rapzel.core.shared.errors import DocumentError
from rapzel.core.tools import TOOLS, ask

WATCH = TOOLS["watch"]
FLASH = {"name": "Flash", "cells": {"kind": "AA", "series": 4, "parallel": 1, "capacity_mah": 2000.0},
         "standby_ma": 5.0, "event_mas": 3600.0}  # fmt: skip
ASKED = {"devices": [FLASH], "events_per_night": 30.0, "night_h": 10.0, "wake_s": 1.0, "frame_gap_s": 0.4,
         "stays_s": 3.0, "stays_sd_s": 1.0}  # fmt: skip


def test_a_night_by_hand() -> None:
    """5 mA over 10 h are 50 mAh, 30 events of 3600 mA s 30 mAh: 2000 mAh last 25 nights; series adds no charge."""
    found = ask(WATCH, ASKED)
    assert found["nights"]["Flash"] == pytest.approx(25.0)
    assert found["nights_range"]["Flash"] == pytest.approx([18.75, 31.25])
    by_day = ask(WATCH, {**ASKED, "devices": [{**FLASH, "by_day": True}]})
    assert by_day["nights"]["Flash"] == pytest.approx(2000 / (120 + 30))
    doubled = {**FLASH, "cells": {**FLASH["cells"], "parallel": 2}}
    assert ask(WATCH, {**ASKED, "devices": [doubled]})["nights"][
        "Flash"
    ] == pytest.approx(50.0)
    cold = ask(WATCH, {**ASKED, "temperature_c": -10.0})
    assert cold["nights"]["Flash"] == pytest.approx(25 * 0.4)


def test_who_dies_first_and_what_to_change() -> None:
    idle = {"name": "Flash", "standby_ma": 0.0}
    receiver = {"name": "Receiver", "standby_ma": 40.0, "by_day": True}
    found = ask(WATCH, {**ASKED, "devices": [FLASH, receiver, idle]})
    assert found["first_to_die"] == "Receiver"
    assert set(found["nights"]) == {"Flash", "Receiver", "Flash 2"}, (
        "each has a name of its own"
    )
    assert found["nights"]["Flash 2"] is None, (
        "what takes nothing by its figures is not said to last for ever"
    )
    assert found["better"][0].startswith("Switch Receiver off by day")


def test_the_visitor_is_still_there() -> None:
    """Awake after 1 s, a frame every 0.4 s: frames at 0, 0.4 and 0.8 s are dark, the one at 1.2 s is lit."""
    found = ask(WATCH, ASKED)
    assert (found["dark_frames"], found["frames_needed"]) == (3, 4)
    assert found["hold_s"] == pytest.approx(1.2)
    assert found["p_still_there"] == pytest.approx(norm.sf(1.2, 3.0, 1.0))
    assert found["lit_per_night"] == pytest.approx(30 * norm.sf(1.2, 3.0, 1.0))
    awake = ask(WATCH, {**ASKED, "wake_s": 0.0})
    assert (awake["dark_frames"], awake["frames_needed"]) == (0, 1)


@pytest.mark.parametrize(("devices", "says"), [
    ([], "at least 1"),
    ([{**FLASH, "cells": {"kind": "AAAA"}}], "devices.0..cells.kind"),
    ([{**FLASH, "standby_ma": -1.0}], "standby_ma"),
    ("Flash", "devices"),
])  # fmt: skip
def test_absurd_devices_are_refused_in_words(devices: object, says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        ask(WATCH, {**ASKED, "devices": devices})


def test_fifty_good_ones_against_counted_days() -> None:
    asked = {
        "visits_per_s": 0.1,
        "open_s": 8.0,
        "keep_share": 0.2,
        "wanted": 50,
        "between_s": 2.0,
    }
    found = ask(TOOLS["open-shutter"], asked)
    good = 0.8 * np.exp(-0.8) * 0.2
    rng = np.random.default_rng(6)
    days = 50 + rng.negative_binomial(50, good, 40_000)
    assert found["frames"] == pytest.approx(days.mean(), rel=0.01)
    assert found["frames_range"] == pytest.approx(
        np.quantile(days, [0.05, 0.95]), rel=0.02
    )
    assert found["hours"] == pytest.approx(days.mean() * 10 / 3600, rel=0.01)
    assert found["cards"] == 1
    assert found["frames_with_pops"] == pytest.approx(
        days.mean() * (1 - np.exp(-0.8)), rel=0.01
    )
    unknown = ask(TOOLS["open-shutter"], {"visits_per_s": 0.1, "open_s": 8.0})
    assert unknown["frames"] is None


def test_nights_that_are_wanted_say_how_many_cells() -> None:
    """80 mAh a night, by hand: thirty nights take 2400 mAh, and 3200 where cells hold a quarter less."""
    found = ask(WATCH, {**ASKED, "nights_wanted": 30.0})
    assert found["cells_wanted"] == {"Flash": 8}
    assert ask(WATCH, {**ASKED, "nights_wanted": 15.0})["cells_wanted"] == {"Flash": 4}
    assert ask(WATCH, ASKED)["cells_wanted"] == {}


def test_visits_that_come_while_it_is_deaf_are_missed() -> None:
    """Against visits counted one by one: exponential gaps, deaf for ten minutes after each that is answered."""
    rng = np.random.default_rng(5)
    times = np.cumsum(rng.exponential(36_000 / 30, 200_000))
    answered, free = 0, 0.0
    for time in times:
        if time >= free:
            answered, free = answered + 1, time + 600
    found = ask(WATCH, {**ASKED, "deaf_s": 600.0})
    assert found["heard"] == pytest.approx(answered / times.size, abs=0.005)
    assert found["lit_per_night"] == pytest.approx(
        30 * found["heard"] * found["p_still_there"]
    )
