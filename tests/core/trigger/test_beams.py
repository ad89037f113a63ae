"""Beams against a sampler of its own that shares no code: every pass walked along until it meets the beam."""

import math

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.motion import Axes
from rapzel.core.tools import TOOLS, ask
from rapzel.core.trigger.beams import Passes, closed_form, simulate, useless_share
from rapzel.core.trigger.crossing import line_of
from rapzel.core.trigger.tries import Window

N = 300_000


def window(**own: float | None) -> Window:
    usual = {
        "field_width_m": 1.2,
        "field_height_m": 0.8,
        "extent_m": 0.2,
        "near_m": 2.85,
        "far_m": 3.17,
        "distance_m": 3.0,
        "lasts_s": None,
        "place_m": None,
    }
    return Window(**{**usual, **own})


def level(angle_deg: float) -> Axes:
    angle = math.radians(angle_deg)
    return Axes(math.sin(angle), 0.0, math.cos(angle))


def walked(
    passes: Passes, frame: Window, lies: np.ndarray, length: float
) -> tuple[float, float]:
    """(share landing, share noticed): vectors written out, the crossing solved as two lines in the level plane."""
    rng = np.random.default_rng(4)
    way = np.array([passes.way.across, passes.way.up, passes.way.towards])
    aside = np.array([-way[2], 0.0, way[0]])
    off = np.outer(rng.normal(0, passes.aside_sd_m, N), aside)
    off[:, 1] += rng.normal(0, passes.above_sd_m, N)
    speed = passes.speed_m_s + rng.normal(0, passes.speed_sd_m_s, N)
    lag = passes.lag_s + rng.normal(0, passes.jitter_s, N)
    # off + s way = q lies, in across and towards
    matrix = np.array([[way[0], -lies[0]], [way[2], -lies[2]]])
    s, q = np.linalg.solve(matrix, -off[:, [0, 2]].T)
    noticed = (np.abs(q) <= length / 2) & (np.abs(off[:, 1]) <= passes.thick_m / 2)
    at = off + np.outer(s + speed * lag - passes.upstream_m, way)
    half = frame.extent_m / 2 * np.abs(way)
    lands = (np.abs(at[:, 0]) + half[0] <= frame.field_width_m / 2) & (
        np.abs(at[:, 1]) + half[1] <= frame.field_height_m / 2
    )
    lands &= (frame.distance_m - at[:, 2] >= frame.near_m) & (
        frame.distance_m - at[:, 2] <= frame.far_m
    )
    return float(np.mean(lands & noticed)), float(np.mean(noticed))


@pytest.mark.parametrize(
    ("angle", "turned"), [(90, 0), (90, 35), (60, 0), (60, -20), (120, 10)]
)
def test_simulated_passes_against_walked_ones(angle: float, turned: float) -> None:
    way = level(angle)
    passes = Passes(way, 8.0, 0.8, 0.0, 0.3, 0.04, 0.004, 0.12, 0.15, thick_m=0.5)
    line = line_of("depth", turned, way, 0.0, 0.6)
    depth, off = np.array([0.0, 0.0, 1.0]), np.array([way.across, 0.0, 0.0])
    off = off / np.linalg.norm(off)
    lies = math.cos(math.radians(turned)) * depth + math.sin(math.radians(turned)) * off
    lands, noticed = walked(passes, window(), lies, 0.6)
    found = simulate(passes, window(), line, N)
    assert found.joint == pytest.approx(lands, abs=5 * found.error_share)
    assert found.noticed == pytest.approx(noticed, abs=0.005)


@pytest.mark.parametrize("angle", [90, 60, 20])
@pytest.mark.parametrize("late_m", [0.0, 0.3, 2.0])
def test_simulation_lies_within_its_error_of_the_closed_form(
    angle: float, late_m: float
) -> None:
    way = level(angle)
    passes = Passes(way, 8.0, 0.8, 0.0, 0.32 - late_m, 0.04, 0.004, 0.1, 0.1)
    line = line_of(None, 15.0, way, 0.0, None)
    found, closed = (
        simulate(passes, window(), line, 400_000),
        closed_form(passes, window(), line),
    )
    # The product of two errors, of speed and of time, is left out of the closed form: 0.8 m/s × 4 ms = 3 mm.
    assert found.joint == pytest.approx(closed.joint, abs=5 * found.error_share + 2e-3)
    assert found.in_frame == pytest.approx(
        closed.in_frame, abs=5 * found.error_share + 2e-3
    )
    assert found.along_sd_m == pytest.approx(closed.along_sd_m, rel=0.01)


def test_the_spread_of_speeds_becomes_a_spread_of_places() -> None:
    """Handbook §11: σ_x² = (t σ_v)² + (v σ_t)²."""
    passes = Passes(level(90), 8.0, 0.8, 0.0, 0.32, 0.04, 0.004, 0.0, 0.0)
    expected = math.hypot(0.04 * 0.8, 8.0 * 0.004)
    assert closed_form(passes, window(), None).along_sd_m == pytest.approx(expected)
    assert simulate(passes, window(), None, N).along_sd_m == pytest.approx(
        expected, rel=0.01
    )


def test_a_beam_three_times_as_long_as_the_frame_fires_mostly_at_nothing() -> None:
    """Passes straight at the camera through a level beam 3.6 m long, a frame of 1.2 m: two thirds are useless."""
    way = Axes(0.0, 0.0, 1.0)
    passes = Passes(way, 4.0, 0.0, 0.0, 0.04, 0.01, 0.0, 0.5, 0.0)
    line = line_of(None, 0.0, way, 0.0, 3.6)
    frame = window(extent_m=0.0)
    assert useless_share(passes, frame, line) == pytest.approx(2 / 3, abs=0.01)
    places = np.random.default_rng(1).uniform(-1.8, 1.8, N)
    assert useless_share(passes, frame, line) == pytest.approx(
        np.mean(np.abs(places) > 0.6), abs=0.01
    )


def test_a_beam_along_the_way_is_never_crossed(document) -> None:
    assert line_of("across", 0.0, level(90), 0.0, 1.0) is None
    beam = {
        "kind": "beam",
        "lag_s": 0.0,
        "jitter_s": 0.0,
        "distance_m": 0.5,
        "lies": "across",
    }
    document["trigger"]["links"] = [beam]
    assert "never crosses it" in " ".join(evaluate(document).warnings)


BEAM_SCENE = {
    "motion.speed_sd_m_s": 0.8, "subject.aside_sd_m": 0.08, "subject.above_sd_m": 0.05, "subject.extent_m": 0.3,
    "moment.place_m": 0.08, "lens.field_width_m": 1.1, "exposure.method": "open_shutter", "exposure.shutter_s": 1.0,
    "trigger.fires": "flash", "lights[0].power": 1 / 256, "criterion.pixels": 20.0,
    "trigger.links": [{
        "kind": "beam", "lag_s": 0.002, "jitter_s": 0.001, "distance_m": 0.4, "length_m": 0.3, "turned_deg": 20.0,
        "lag_provenance": "measured", "lags_s": [0.002, 0.002],
    }],
    "trigger.set_delay_s": 0.04,
}  # fmt: skip


def test_a_scene_and_the_tool_asked_with_it_agree(document) -> None:
    """Two ways to the same shares: 32 768 even tries over the trajectory, 200 000 plain ones along a straight line."""
    scene = changed(document, BEAM_SCENE)
    facts, tool = evaluate(scene).timing, ask(TOOLS["beam"], scene)
    for own, other in (
        ("share_in_frame", "share_in_frame"),
        ("share_in_focus", "share_in_focus"),
        ("share_noticed", "share_noticed"),
        ("share", "share"),
    ):
        assert getattr(facts, own) == pytest.approx(tool[other], abs=0.006), own
    assert 0.05 < facts.share < 0.95
    assert facts.share_noticed == pytest.approx(
        math.erf(0.15 * math.cos(math.radians(20)) / 0.08 / 2**0.5), abs=0.004
    )


def test_a_falling_thing_through_a_beam_agrees_too(document) -> None:
    scene = changed(
        document,
        {
            **BEAM_SCENE,
            "motion": {"kind": "fall", "height_m": 0.8, "speed_sd_m_s": 0.0},
            "trigger.set_delay_s": 0.1,
        },
    )
    facts, tool = evaluate(scene).timing, ask(TOOLS["beam"], scene)
    assert facts.share == pytest.approx(tool["share"], abs=0.006)
    # 0.4 m below the release: v = √(2 g 0.4), and 0.1021 s later ½ g t² more, by hand
    v, t = math.sqrt(2 * 9.80665 * 0.4), 0.1 + 0.002 + 0.0004
    assert tool["travel_m"] == pytest.approx(v * t + 9.80665 / 2 * t * t, rel=1e-3)


def test_two_beams_by_error_propagation(document) -> None:
    """A speedometer in a scene, drawn, against the tool's first-order formula and against plain draws."""
    own = {
        "kind": "beam",
        "lag_s": 0.0001,
        "jitter_s": 0.0002,
        "distance_m": 0.5,
        "second_m": 0.25,
    }
    values = {
        **BEAM_SCENE,
        "trigger.links": [own],
        "trigger.set_delay_s": 0.0,
        "subject": {"aside_sd_m": 0.0, "above_sd_m": 0.0},
        "moment": {"place_m": 0.01},
        "motion": {"kind": "steady", "speed_m_s": 8.0, "speed_sd_m_s": 0.8},
    }
    facts = evaluate(changed(document, values)).timing
    asked = {
        "speed_m_s": 8.0,
        "speed_sd_m_s": 0.8,
        "apart_m": 0.25,
        "upstream_m": 0.5,
        "lag_s": 0.0005,
        "jitter_s": 0.0002,
        "place_m": 0.01,
    }
    tool = ask(TOOLS["speedometer"], asked)
    rng = np.random.default_rng(7)
    v, first, second = (
        8 + 0.8 * rng.standard_normal(N),
        *(0.0002 * rng.standard_normal((2, N))),
    )
    light = 0.5 / 0.25 * (0.25 / v + second - first) + second
    place = v * light - 0.5
    assert tool["two_beams_sd_m"] == pytest.approx(place.std(), rel=0.02)
    assert facts.position_sd_m == pytest.approx(place.std(), rel=0.02)
    assert tool["share_two"] == pytest.approx(np.mean(np.abs(place) <= 0.01), abs=0.01)
    assert facts.share == pytest.approx(np.mean(np.abs(place) <= 0.01), abs=0.01)
    single = evaluate(
        changed(
            document,
            {
                **values,
                "trigger.links": [{**own, "second_m": None}],
                "trigger.set_delay_s": 0.062,
            },
        )
    ).timing
    assert single.position_sd_m == pytest.approx(tool["one_beam_sd_m"], rel=0.02)
    assert facts.metered
    assert facts.needed_delay_s == 0


def test_two_beams_that_stand_too_near_are_too_late(document) -> None:
    own = {
        "kind": "beam",
        "lag_s": 0.08,
        "jitter_s": 0.0,
        "distance_m": 0.4,
        "second_m": 0.2,
    }
    facts = evaluate(
        changed(
            document,
            {
                **BEAM_SCENE,
                "trigger.links": [own],
                "trigger.set_delay_s": 0.0,
                "motion": {"kind": "steady", "speed_m_s": 8.0},
            },
        )
    ).timing
    assert facts.too_late_s == pytest.approx(0.08 + 0.0004 - 0.05)
    assert ask(
        TOOLS["speedometer"],
        {"speed_m_s": 8.0, "apart_m": 0.2, "upstream_m": 0.4, "lag_s": 0.0804},
    )["too_late_s"] == pytest.approx(0.0304)


def test_what_is_not_known_is_not_answered() -> None:
    tool = TOOLS["beam"]
    asked = {
        name: value for name, value in tool.beginning.items() if name != "jitter_s"
    }
    found = ask(tool, asked)
    assert found["share"] is None
    assert "is not known" in tool.says(tool.read(asked), tool.solve(tool.read(asked)))
    assert tool.table(tool.read(asked))[1] == []
