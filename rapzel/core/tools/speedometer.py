"""Two beams in a row measure each try's speed: what delay follows, and what that buys against one beam."""

import math
from typing import Any

import numpy as np
from scipy.special import ndtr

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.physics import Physics
from rapzel.core.physics.passing import beam_of
from rapzel.core.shared.part import Part, shown
from rapzel.core.shared.units import (
    format_length,
    format_number,
    format_percent,
    format_time,
)
from rapzel.core.tools.tool import Tool, ToolAnswer


class SpeedometerAsked(Part):
    """Steady passes, two beams, and a unit that sets the delay from the time between them."""

    speed_m_s: float = shown(..., "Usual speed", "speed", ge=0.001, le=1e5)
    speed_sd_m_s: float = shown(0.0, "Spread of speeds", "speed", ge=0, le=1e4)
    apart_m: float = shown(..., "Beams apart", "length", ge=1e-3, le=1000)
    upstream_m: float = shown(
        ..., "Second beam upstream", "length", "before the place", ge=1e-3, le=1e4
    )
    lag_s: float = shown(
        0.0, "Beam to light", "duration", "without any delay", ge=0, le=3600
    )
    jitter_s: float = shown(0.0, "Jitter of a beam (sd)", "duration", ge=0, le=60)
    rest_jitter_s: float = shown(
        0.0, "Jitter of the rest (sd)", "duration", ge=0, le=60
    )
    resolution_s: float = shown(0.0, "Delay in steps of", "duration", ge=0, le=60)
    place_m: float = shown(0.05, "Right within ±", "length", ge=1e-6, le=1e4)


class SpeedometerAnswered(ToolAnswer):
    """Delays [s], spreads of place at the light [m] and shares within the place [0 … 1]."""

    delay_s: float
    too_late_s: float
    fastest_m_s: float | None
    one_beam_sd_m: float
    two_beams_sd_m: float
    share_one: float
    share_two: float
    speed_doubt: float
    times_narrower: float | None


def _share(sd_m: float, place_m: float, off_m: float = 0.0) -> float:
    # Without any spread every try is at the same place: within it, or not.
    if sd_m == 0:
        return float(abs(off_m) <= place_m)
    return float(ndtr((place_m - off_m) / sd_m) - ndtr((-place_m - off_m) / sd_m))


def solve(asked: SpeedometerAsked) -> SpeedometerAnswered:
    """By error propagation, first order.

    With beams s apart, D before the place, errors e₁ and e₂ of the two signals: the measured time for D is off by
    (e₂ − e₁) D / s and begins e₂ late, so that σ_x² = v² (σ_b² ((1 + D/s)² + (D/s)²) + σ_r² + r²/12). One beam leaves
    σ_x² = (D σ_v / v)² + v² (σ_b² + σ_r² + r²/12).
    """
    v, ratio = asked.speed_m_s, asked.upstream_m / asked.apart_m
    # Rounding to a step is an even spread, with the variance step² / 12.
    steps = asked.resolution_s**2 / 12
    # What follows the beams is the same for one beam and for two.
    rest = asked.rest_jitter_s**2 + steps
    one = math.hypot(
        asked.upstream_m * asked.speed_sd_m_s / v,
        v * math.sqrt(asked.jitter_s**2 + rest),
    )
    two = v * math.sqrt(asked.jitter_s**2 * ((1 + ratio) ** 2 + ratio**2) + rest)
    # What is left of the way's time when the chain has taken its part.
    delay = asked.upstream_m / v - asked.lag_s
    # No unit can wait less than nothing: the subject is past the place by then.
    late_m = max(-delay, 0.0) * v
    return SpeedometerAnswered(
        delay_s=max(delay, 0.0),
        too_late_s=max(-delay, 0.0),
        # Without a lag none is too fast.
        fastest_m_s=asked.upstream_m / asked.lag_s if asked.lag_s else None,
        one_beam_sd_m=one,
        two_beams_sd_m=two,
        share_one=_share(one, asked.place_m, late_m),
        share_two=_share(two, asked.place_m, late_m),
        speed_doubt=math.sqrt(2) * asked.jitter_s * v / asked.apart_m,
        times_narrower=one / two if two else None,
    )


def says(asked: SpeedometerAsked, answer: SpeedometerAnswered) -> str:
    """The answer in one sentence."""
    if answer.too_late_s:
        return (
            f"Too late by {format_time(answer.too_late_s)} at the usual speed: the beams have to stand further "
            "upstream, or the chain has to be quicker."
        )
    text = (
        f"Two beams find {format_percent(answer.share_two)} within {format_length(asked.place_m)} of the place, "
        f"one beam {format_percent(answer.share_one)}"
    )
    # With speeds that hardly differ a second beam only adds the errors of its own.
    if answer.times_narrower is not None and answer.times_narrower < 1:
        return f"{text}: speeds differ too little for the second beam to pay; its errors add up."
    return f"{text}; each try's speed is known to {format_number(answer.speed_doubt * 100, 2)} %."


def lists(
    asked: SpeedometerAsked, answer: SpeedometerAnswered
) -> list[tuple[str, list[str]]]:
    """Figures for the set."""
    steps = [
        f"Usual delay {format_time(answer.delay_s)} after the second beam.",
        f"Place at the light ± {format_length(answer.two_beams_sd_m)} with two beams, "
        f"± {format_length(answer.one_beam_sd_m)} with one.",
    ]
    if answer.fastest_m_s is not None:
        steps.append(
            f"In time up to {format_number(answer.fastest_m_s)} m/s; faster ones pass before the light comes."
        )
    return [("On the set", steps)]


def from_scene(scene: Scene, evaluation: Evaluation) -> dict[str, Any]:
    """What a scene says of its passes and its chain."""
    physics, beam = Physics(scene), beam_of(scene)
    lags = [lag.lag_s for lag in evaluation.timing.lags]
    given: dict[str, Any] = {
        "speed_m_s": max(float(physics.trajectory.speed_m_s(0.0)), 0.001),
        "speed_sd_m_s": scene.motion.stated_sd_m_s,
    }
    if all(lag is not None for lag in lags):
        # (with one lag that is not known the sum would be too short, so none is given)
        given["lag_s"] = sum(lag for lag in lags if lag is not None)
    if beam is not None:
        given["upstream_m"] = max(beam.distance_m, 1e-3)
        # Three quarters of the way: wide apart measures best, and leaves time to fire.
        given["apart_m"] = beam.second_m or max(0.75 * beam.distance_m, 0.05)
        if beam.jitter_s is not None:
            given["jitter_s"] = beam.jitter_s
    if scene.moment.place_m is not None:
        given["place_m"] = scene.moment.place_m
    if scene.trigger.resolution_s:
        given["resolution_s"] = scene.trigger.resolution_s
    return given


def table(asked: SpeedometerAsked) -> tuple[list[str], list[list[float]]]:
    """Spreads [m] and shares [0 … 1] over how far the beams stand apart [m]."""
    rows = []
    for apart in map(
        float,
        # A tenth to ten times as far apart, as even steps of a ratio.
        np.geomspace(max(asked.apart_m / 10, 1e-3), min(asked.apart_m * 10, 1000), 41),
    ):
        found = solve(asked.model_copy(update={"apart_m": apart}))
        rows.append(
            [
                apart,
                found.one_beam_sd_m,
                found.two_beams_sd_m,
                found.share_one,
                found.share_two,
            ]
        )
    return [
        "apart_m",
        "one_beam_sd_m",
        "two_beams_sd_m",
        "share_one",
        "share_two",
    ], rows


SPEEDOMETER = Tool(
    slug="speedometer",
    title="Two beams",
    purpose="Two beams in a row measure each try's speed: what does the second one buy?",
    asks=SpeedometerAsked,
    answers=SpeedometerAnswered,
    beginning={
        "speed_m_s": 8.0,
        "speed_sd_m_s": 0.8,
        "apart_m": 0.3,
        "upstream_m": 0.5,
        "lag_s": 0.004,
        "jitter_s": 0.0001,
        "rest_jitter_s": 0.0002,
        "place_m": 0.01,
        "resolution_s": 0.0001,
    },
    solve=solve,
    says=says,
    from_scene=from_scene,
    table=table,
    lists=lists,
)
