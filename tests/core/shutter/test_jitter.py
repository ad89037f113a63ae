"""A light that jumps about against the opening, against plain frames drawn one by one."""

from typing import Any

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.physics import Physics
from rapzel.core.verdict.remedies import for_sync

FRAMES = 20_000


def with_radio(document: dict[str, Any], jitter_s: float | None, **values: Any) -> dict[str, Any]:  # fmt: skip
    radio = {"kind": "radio", "lag_s": 0.0005, "jitter_s": jitter_s}
    radio.update(lag_provenance="measured", lags_s=[0.0005, 0.0005])
    return changed(
        document,
        {
            "trigger.links": [radio],
            "trigger.latency_s": 0.0,
            "lights[0].power": 1 / 256,
            **values,
        },
    )


GLOBAL: dict[str, Any] = {
    "camera.shutter": "global",
    "camera.curtain_travel_s": None,
    "exposure.shutter_s": 1 / 20000,
}


def caught_by_hand(scene: Any, jitter_s: float, offset_s: float) -> np.ndarray:
    """Share of one pulse that each of many frames records: the pulse summed up on a fine grid of its own."""
    pulse = Physics(scene).on_part[0].known.shape
    times = np.linspace(0, 0.004, 400_001)
    light = pulse.intensity(times)
    come = np.concatenate([[0], np.cumsum((light[1:] + light[:-1]) / 2)])
    come /= come[-1]
    start = 0.0005 + jitter_s * np.random.default_rng(8).standard_normal(FRAMES)
    begin = offset_s - start
    end = begin + scene.exposure.shutter_s
    return np.interp(end, times, come) - np.interp(begin, times, come)


def test_a_global_shutter_and_a_radio_that_jumps_about(document) -> None:
    """1/20 000 s with ± 50 µs keeps little of a short pulse on average, and the tile says so."""
    short = {"lights[0].strobe.durations": [{"power": 1.0, "t01_s": 4e-5, "provenance": "measured"}]}  # fmt: skip
    document = with_radio(document, 5e-5, **GLOBAL, **short, **{"lights[0].power": 1.0})
    found = evaluate(document)
    by_hand = caught_by_hand(read_scene(document), 5e-5, found.shutter.offset_s)
    frames = Physics(read_scene(document)).frames()
    assert frames.mean_share == pytest.approx(by_hand.mean(), abs=0.01)
    best = Physics(read_scene(document)).best_possible_share
    dark = float(np.mean(by_hand < best * 2**-0.5))
    assert frames.darker_than(best) == pytest.approx(dark, abs=0.02)
    margin = found.margin("sync")
    assert margin.state == "fails"
    assert "of frames dark by half a stop" in margin.says
    assert margin.figure == pytest.approx(np.log2(by_hand.mean()), abs=0.05)
    # The light that the exposure counts on is what comes on average, not that of the best frame.
    steady = evaluate(changed(document, {"trigger.links[0].jitter_s": 0.0}))
    lost = np.log2(by_hand.mean() / steady.shutter.captured_share)
    gained = found.flash_offset_stops - steady.flash_offset_stops
    assert gained == pytest.approx(lost, abs=0.05)


def test_the_shutter_that_is_named_tolerates_the_jitter(document) -> None:
    document = with_radio(document, 5e-5, **GLOBAL)
    says = evaluate(document).margin("sync").says
    named = says.split("; ")[1].removesuffix(" would do")
    seconds = 1 / float(named.removeprefix("1/").removesuffix(" s").replace(" ", ""))
    slower = changed(document, {"exposure.shutter_s": seconds})
    assert evaluate(slower).margin("sync").passes
    # What is said in words is what is offered as a change.
    scene = read_scene(document)
    offered = [change.says for change in for_sync(scene, evaluate(document))]
    assert named in offered


def test_an_opening_that_stays_where_it_is_set_is_judged_there(document) -> None:
    """Half the pulses come before it opens, and no slower shutter brings them back."""
    document = with_radio(document, 5e-5, **GLOBAL, **{"exposure.offset_s": 5e-4})
    assert "no shutter would do" in evaluate(document).margin("sync").says
    for shutter_s in (1 / 4000, 1 / 500):
        slower = changed(document, {"exposure.shutter_s": shutter_s})
        assert evaluate(slower).margin("sync").state == "fails"


def test_a_jitter_that_is_not_known_is_not_none(document) -> None:
    assert evaluate(with_radio(document, None, **GLOBAL)).margin("sync").state == "unknown"  # fmt: skip
    # So slow that no radio jumps out of it.
    slow = with_radio(document, None, **{**GLOBAL, "exposure.shutter_s": 1 / 60})
    assert evaluate(slow).margin("sync").passes
    near = with_radio(document, None, **{"exposure.shutter_s": 0.0042})
    assert evaluate(near).margin("sync").state == "unknown"
    far = with_radio(document, None, **{"exposure.shutter_s": 1 / 100})
    assert evaluate(far).margin("sync").passes


@pytest.mark.parametrize("jitter_s", [1e-4, 4e-4])
@pytest.mark.parametrize("spare_s", [-2e-4, -2e-5, 2e-5, 2e-4])
def test_curtains_near_sync(document, jitter_s: float, spare_s: float) -> None:
    """The last light of nineteen frames in twenty: by frames drawn one by one, the first row closing first."""
    base = with_radio(document, jitter_s)
    safe = evaluate(base).shutter.fastest_safe_shutter_s
    document = changed(base, {"exposure.shutter_s": safe + spare_s})
    scene = read_scene(document)
    pulse = Physics(scene).on_part[0].known.shape
    times = np.linspace(0, 0.01, 200_001)
    light = pulse.intensity(times)
    come = np.concatenate([[0], np.cumsum((light[1:] + light[:-1]) / 2)])
    come /= come[-1]
    # No light comes before the contact, which closes when the first curtain has arrived.
    late = jitter_s * np.random.default_rng(2).standard_normal(FRAMES)
    start = 0.0032 + np.maximum(0.0005 + late, 0.0)
    first_row = np.interp(scene.exposure.shutter_s - start, times, come)
    usual = np.interp(scene.exposure.shutter_s - 0.0037, times, come)
    fine = np.mean(first_row < 2**-0.5) <= 0.05 and usual >= 2**-0.1
    assert (evaluate(document).margin("sync").value >= 0) == fine
