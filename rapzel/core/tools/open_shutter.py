"""Open shutter: how likely it is that the subject fires the flash once while the shutter stands open (science §12).

Visits are independent of each other (Poisson). After a pop the trigger is locked out for a while, in which visits do
nothing. The k-th pop comes after k waiting times and k − 1 lock-outs, so that
P(at least k pops in T) = P(Gamma(k) ≤ λ (T − (k − 1) L)).
"""

import math
from typing import Any

import numpy as np
from pydantic import Field
from scipy.optimize import minimize_scalar
from scipy.special import gammainc
from scipy.stats import nbinom

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.physics.hearing import lockout_s
from rapzel.core.shared.part import Part, shown
from rapzel.core.shared.units import (
    format_minutes,
    format_number,
    format_percent,
    format_time,
)
from rapzel.core.tools.tool import Tool, ToolAnswer

_COUNTED = 2000  # pops up to which each is counted for the mean
_MOST_FRAMES = 1e7  # beyond these nobody gets there


class OpenShutterAsked(Part):
    """What the open shutter waits for."""

    visits_per_s: float = shown(
        ...,
        "Visits a second",
        "number",
        "0.05 is one in twenty seconds",
        ge=1e-6,
        le=1e4,
    )
    open_s: float = shown(..., "Shutter open", "duration", ge=1e-4, le=86_400)
    lockout_s: float = shown(
        0.0, "Trigger locked out", "duration", "after each pop", ge=0, le=86_400
    )
    pops_tolerated: int = shown(
        1, "Pops tolerated", "count", "in one frame", ge=1, le=100
    )
    # Empty is a dark room: it limits nothing, and the answer says nothing of it.
    ghost_margin_stops: float | None = shown(
        None,
        "Room under the flash, stops",
        "stops",
        "at this opening; empty: a dark room",
        ge=-30,
        le=40,
    )
    clear_stops: float = shown(5.0, "No trail from, stops", "stops", ge=-20, le=20)
    # Nobody knows before the first evening; without it no day is reckoned.
    keep_share: float | None = shown(
        None,
        "Good ones of the tolerated",
        "number",
        "0.1 is one in ten; empty: not known",
        gt=0,
        le=1,
    )
    wanted: int = shown(50, "Good ones wanted", "count", ge=1, le=100_000)
    between_s: float = shown(2.0, "Between openings", "duration", ge=0, le=3600)
    frame_mb: float = shown(30.0, "A frame, MB", "number", ge=0.01, le=10_000)
    card_gb: float = shown(64.0, "A card, GB", "number", ge=0.1, le=100_000)


class OpenShutterAnswered(ToolAnswer):
    """Chances of one opening [0 … 1], the opening that makes one pop most likely [s], and what limits it."""

    p_none: float
    p_one: float
    p_several: float
    p_tolerated: float = Field(
        description="at least one pop, and no more than are tolerated"
    )
    expected_pops: float
    best_open_s: float
    best_p: float = Field(description="p_tolerated at the best opening")
    background_gain_stops: float = Field(
        description="what a background that every pop lights gains by all of them"
    )
    longest_open_s: float | None = Field(
        description="before the room trails; None in a dark room"
    )
    frames: int | None = Field(
        description="openings for the wanted good ones; None: share not known"
    )
    frames_range: tuple[int, int] | None = Field(
        description="within which 90 % of all such days end"
    )
    frames_with_pops: float | None
    hours: float | None
    cards: int | None


def at_least(pops: int, visits_per_s: float, open_s: float, lockout_s: float) -> float:
    """P(at least so many pops in an opening) [0 … 1]; rates in 1/s, times in s."""
    # Time in which visits count: all of it but the lock-outs between the pops.
    left = open_s - (pops - 1) * lockout_s
    if left > 0:
        return float(gammainc(pops, visits_per_s * left))
    return 0.0


def within(visits_per_s: float, open_s: float, lockout_s: float, most: int) -> float:
    """P(at least one pop and at most `most`) [0 … 1]."""
    # At least one, but for those that hold more than are tolerated.
    return at_least(1, visits_per_s, open_s, lockout_s) - at_least(
        most + 1, visits_per_s, open_s, lockout_s
    )


def best_open_s(visits_per_s: float, lockout_s: float, most: int) -> float:
    """The opening that makes one to `most` pops most likely [s].

    Without a lock-out (n!)^(1/n) / λ, which is 1/λ for exactly one; with one it is sought. No opening up to n lock-outs
    can hold more than n pops, so that the best is at least as long.
    """
    # (n!)^(1/n) by logarithms: 100! is beyond what a double holds.
    free = math.exp(math.lgamma(most + 1) / most) / visits_per_s
    if lockout_s == 0:
        return free
    # Four times the best without a lock-out is far down the other side of the hill.
    low, high = most * lockout_s, most * lockout_s + 4 * free
    found = minimize_scalar(
        lambda time: -within(visits_per_s, time, lockout_s, most),
        bounds=(low, high),
        method="bounded",
        # A millionth: nobody sets a shutter finer.
        options={"xatol": 1e-6 * high},
    )
    return float(found.x)


def expected_pops(visits_per_s: float, open_s: float, lockout_s: float) -> float:
    """Mean number of pops [-] in an opening [s]: λ T without a lock-out, else Σ P(at least k).

    Where thousands of pops are possible, their rate λ / (1 + λ L) is exact enough (renewal theorem).
    """
    if lockout_s == 0:
        return visits_per_s * open_s
    most = int(open_s / lockout_s) + 1
    if most > _COUNTED:
        return visits_per_s * open_s / (1 + visits_per_s * lockout_s)
    # The mean is the sum of the chances of at least one, at least two, …
    counts = np.arange(1, most + 1)
    left = np.maximum(open_s - (counts - 1) * lockout_s, 0.0)
    return float(np.sum(gammainc(counts, visits_per_s * left)))


def solve(asked: OpenShutterAsked) -> OpenShutterAnswered:
    """The statistics of one opening."""
    rate, lockout, most = asked.visits_per_s, asked.lockout_s, asked.pops_tolerated
    # Exactly one is at least one without at least two.
    one, two = (at_least(pops, rate, asked.open_s, lockout) for pops in (1, 2))
    best = best_open_s(rate, lockout, most)
    margin = asked.ghost_margin_stops
    return OpenShutterAnswered(
        **_day(asked, within(rate, asked.open_s, lockout, most)),
        p_none=math.exp(-rate * asked.open_s),
        p_one=one - two,
        p_several=two,
        p_tolerated=within(rate, asked.open_s, lockout, most),
        expected_pops=expected_pops(rate, asked.open_s, lockout),
        best_open_s=best,
        best_p=within(rate, best, lockout, most),
        # Each pop lights the background again, the subject only where it was.
        background_gain_stops=math.log2(most),
        longest_open_s=None
        if margin is None
        # Twice as long open, the room is a stop nearer to the flash.
        else asked.open_s * 2 ** (margin - asked.clear_stops),
    )


def _day(asked: OpenShutterAsked, tolerated: float) -> dict[str, Any]:
    """What the wanted good ones take: openings, hours and cards. The count is negative binomial."""
    unknown = ("frames", "frames_range", "frames_with_pops", "hours", "cards")
    # A share that nobody has counted leaves the day open, rather than ended by a guess.
    good = tolerated * (asked.keep_share or 0.0)
    if good * _MOST_FRAMES < asked.wanted:
        return dict.fromkeys(unknown)
    # On average; single days differ, and the range beside it says by how much.
    frames = asked.wanted / good
    low, high = (
        # The distribution counts the failures before the last good one.
        int(nbinom.ppf(share, asked.wanted, good)) + asked.wanted
        for share in (0.05, 0.95)
    )
    return {
        "frames": round(frames),
        "frames_range": (low, high),
        # Openings without a visit cost time and card, and no light.
        "frames_with_pops": frames * -math.expm1(-asked.visits_per_s * asked.open_s),
        "hours": frames * (asked.open_s + asked.between_s) / 3600,
        "cards": max(math.ceil(frames * asked.frame_mb / 1000 / asked.card_gb), 1),
    }


def says(asked: OpenShutterAsked, answer: OpenShutterAnswered) -> str:
    """The answer in one sentence."""
    if asked.pops_tolerated == 1:
        wanted = "one pop"
    else:
        wanted = f"one to {asked.pops_tolerated} pops"
    text = (
        f"Open for {format_time(asked.open_s)}, {format_percent(answer.p_tolerated)} of the frames hold {wanted} "
        f"and {format_percent(answer.p_none)} none; {format_time(answer.best_open_s)} is best, "
        f"with {format_percent(answer.best_p)}"
    )
    limit = answer.longest_open_s
    if limit is not None and limit < max(answer.best_open_s, asked.open_s):
        text += f", but beyond {format_time(limit)} the room trails"
    # One pop gains nothing: then there is nothing to be said.
    if answer.background_gain_stops:
        text += f"; a background gains {format_number(answer.background_gain_stops, 2)} stops by all of them"
    return f"{text}."


def lists(
    asked: OpenShutterAsked, answer: OpenShutterAnswered
) -> list[tuple[str, list[str]]]:
    """What the day comes to, and what to try before it."""
    day = ["How many of these are good is not known: count ten frames, and say it."]
    if (
        answer.frames is not None
        and answer.frames_range is not None
        and answer.hours is not None
    ):
        low, high = answer.frames_range
        cards = f"{answer.cards} {'card' if answer.cards == 1 else 'cards'}"
        day = [
            f"{asked.wanted} good ones take about {answer.frames} openings ({low} to {high} on nine days of ten), "
            f"{round(answer.frames_with_pops or 0)} of them with a pop.",
            f"That is {format_minutes(answer.hours * 60)} and {cards} of {asked.card_gb:g} GB.",
        ]
    return [
        ("The day", day),
        (
            "Dry run",
            [
                "Stick test: a stick through the beam at the subject's height pops the light, all along its way.",
                "A target set where the subject passes, focused by hand; the distance written down.",
                "Each light answers by itself, then all together.",
                "Recharged before the trigger is armed again: its lock-out is longer than the slowest light takes.",
                "A black frame of the whole opening without any pop: as dark as the look wants.",
            ],
        ),
    ]


def from_scene(scene: Scene, evaluation: Evaluation) -> dict[str, float]:
    """The opening of a scene [s], how far its room is under the flash [stops], and how long its unit is deaf [s]."""
    given = {
        "open_s": scene.exposure.shutter_s,
        "clear_stops": scene.ambient.clear_stops,
    }
    # (not given where no unit says it)
    deaf = lockout_s(scene)
    if deaf is not None:
        given["lockout_s"] = deaf
    if evaluation.ghost_margin_stops is not None:
        given["ghost_margin_stops"] = evaluation.ghost_margin_stops
    return given


def table(asked: OpenShutterAsked) -> tuple[list[str], list[list[float]]]:
    """Chances [0 … 1] over the opening [s], from a tenth of the best one to six times it."""
    rate, lockout, most = asked.visits_per_s, asked.lockout_s, asked.pops_tolerated
    best = best_open_s(rate, lockout, most)
    rows = []
    for open_s in map(
        # From where hardly any frame has a pop to where nearly all have too many.
        float,
        np.geomspace(best / 10, max(best * 6, asked.open_s * 1.2), 81),
    ):
        one, two = (at_least(pops, rate, open_s, lockout) for pops in (1, 2))
        rows.append(
            [open_s, 1 - one, one - two, two, within(rate, open_s, lockout, most)]
        )
    return ["open_s", "p_none", "p_one", "p_several", "p_tolerated"], rows


OPEN_SHUTTER = Tool(
    slug="open-shutter",
    title="Open shutter",
    purpose="The shutter stands open in the dark and the subject fires the flash: how long should it stay open?",
    asks=OpenShutterAsked,
    answers=OpenShutterAnswered,
    beginning={"visits_per_s": 0.1, "open_s": 10.0},
    solve=solve,
    says=says,
    from_scene=from_scene,
    table=table,
    lists=lists,
)
