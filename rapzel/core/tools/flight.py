"""Falling and thrown things: when they are where, counted from their release or from their impact."""

import math
from typing import Any, Literal

from pydantic import Field

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.motion import Fall, Leap
from rapzel.core.motion.flight import Flight, Sphere, fly
from rapzel.core.shared import constants
from rapzel.core.shared.part import Part, shown
from rapzel.core.shared.units import format_length, format_speed, format_time
from rapzel.core.tools.tool import Tool, ToolAnswer


class FlightAsked(Part):
    """One fall, throw or leap, and where on its way the picture is wanted."""

    release_m: float = shown(
        ..., "Released at", "length", "above the ground", ge=0, le=1e4
    )
    up_m_s: float = shown(
        0.0, "Thrown up at", "speed", "negative: down; 0: dropped", ge=-1000, le=1000
    )
    along_m_s: float = shown(0.0, "Thrown along at", "speed", ge=0, le=1000)
    wanted_m: float = shown(
        ..., "Wanted at", "length", "above the ground", ge=0, le=1e5
    )
    leg: Literal["down", "up", "apex"] = shown(
        "down",
        "On its way",
        "choice",
        choices={"down": "down", "up": "up", "apex": "at the top, whatever its height"},
    )
    event: Literal["release", "impact"] = shown(
        "release",
        "The trigger senses",
        "choice",
        choices={"release": "the release", "impact": "the impact on the ground"},
    )
    diameter_m: float | None = shown(
        None, "Diameter", "length", "of a ball or drop; empty: no drag", ge=1e-5, le=10
    )
    # Most of what falls in front of a camera is water, or weighs like it.
    mass_kg: float | None = shown(
        None, "Mass, kg", "number", "empty: as heavy as water", ge=1e-12, le=1e4
    )
    release_sd_m: float = shown(0.0, "Releases spread by", "length", "sd", ge=0, le=100)
    lag_s: float = shown(
        0.0, "Event to light", "duration", "without any delay", ge=0, le=3600
    )


class FlightAnswered(ToolAnswer):
    """Times from the release and from the event [s]; None where it never is there."""

    wanted_s: float | None = Field(description="from the release")
    delay_s: float | None = Field(
        description="to set after the event; None: never, or too late"
    )
    too_late_s: float | None
    speed_m_s: float | None
    along_m: float | None
    lands_s: float
    impact_m_s: float
    apex_s: float
    apex_m: float
    terminal_m_s: float | None
    drag_later_s: float | None = Field(description="by how much drag delays it")
    spread_s: float | None = Field(
        description="sd of its time by the spread of releases"
    )
    spread_m: float | None = Field(
        description="the same as a spread of place at the light"
    )
    slow_s: float = Field(
        description="for how long its vertical speed stays under 0.5 m/s about the top"
    )


_SLOW_M_S = 0.5
_WATER_KG_M3 = 998.2  # at 20 °C, CRC Handbook; checked against CoolProp


def sphere_of(asked: FlightAsked) -> Sphere | None:
    """The ball or drop; None without drag."""
    if asked.diameter_m is None:
        return None
    # The mass of a sphere of water of that diameter.
    water = _WATER_KG_M3 * math.pi / 6 * asked.diameter_m**3
    return Sphere(asked.diameter_m, asked.mass_kg or water)


def flight_of(asked: FlightAsked) -> Flight:
    """The way of the usual try."""
    return fly(asked.release_m, asked.up_m_s, asked.along_m_s, sphere_of(asked))


def _wanted_s(asked: FlightAsked, flight: Flight) -> float | None:
    if asked.leg == "apex":
        return flight.apex_s
    # A thrown ball passes each height twice.
    return flight.reaches_s(asked.wanted_m, rising=asked.leg == "up")


def solve(asked: FlightAsked) -> FlightAnswered:
    """The time of the wanted place by integration, and what of it is left for a delay."""
    flight, sphere = flight_of(asked), sphere_of(asked)
    wanted = _wanted_s(asked, flight)
    apex = flight.at(flight.apex_s)[1]
    # All of it stays unknown where it never gets there.
    along = speed = delay = late = drag = spread = None
    if wanted is not None:
        along, _, speed = flight.at(wanted)
        # Counted from what the trigger senses: after an impact, only what bounces is still to come.
        left = (
            wanted - (flight.lands_s if asked.event == "impact" else 0.0) - asked.lag_s
        )
        if left >= 0:
            delay, late = (left, 0.0)
        else:
            delay, late = (None, -left)
        spread = _spread_s(asked, wanted)
        # The same throw without air, to tell what drag does to it.
        bare = _wanted_s(
            asked, fly(asked.release_m, asked.up_m_s, asked.along_m_s, None)
        )
        if sphere is None or bare is None:
            drag = None
        else:
            drag = wanted - bare
    return FlightAnswered(
        wanted_s=wanted,
        delay_s=delay,
        too_late_s=late,
        speed_m_s=speed,
        along_m=along,
        lands_s=flight.lands_s,
        impact_m_s=float(flight.speed_m_s[-1]),
        apex_s=flight.apex_s,
        apex_m=apex,
        terminal_m_s=None if sphere is None else sphere.terminal_m_s,
        drag_later_s=drag,
        spread_s=spread,
        spread_m=None if spread is None or speed is None else spread * speed,
        # About the top drag is next to nothing, so free fall is exact enough.
        slow_s=2 * _SLOW_M_S / constants.GRAVITY_M_S2,
    )


def _spread_s(asked: FlightAsked, wanted_s: float) -> float | None:
    """By how much the time moves with the height of the release, either way, by trying."""
    if not asked.release_sd_m:
        return 0.0
    # By a second flight from one deviation higher: with drag there is no formula for it.
    higher = asked.model_copy(
        update={"release_m": asked.release_m + asked.release_sd_m}
    )
    there = _wanted_s(higher, flight_of(higher))
    if there is None:
        return None
    return abs(there - wanted_s)


def says(asked: FlightAsked, answer: FlightAnswered) -> str:
    """The answer in one sentence."""
    if asked.leg == "apex":
        where = "at the top"
    else:
        where = f"at {format_length(asked.wanted_m)} on its way {asked.leg}"
    if answer.wanted_s is None:
        top, lands = format_length(answer.apex_m), format_time(answer.lands_s)
        return f"It is never {where}: it goes up to {top} and lands after {lands}."
    text = f"It is {where} {format_time(answer.wanted_s)} after the release, at {format_speed(answer.speed_m_s or 0.0)}"
    if answer.delay_s is None:
        if asked.event == "impact":
            why = "an impact is over by then"
        else:
            why = "the chain is too slow"
        return f"{text}: {format_time(answer.too_late_s or 0.0)} too late for a trigger by the {asked.event}, {why}."
    return f"{text}: delay {format_time(answer.delay_s)} after the {asked.event}."


def lists(asked: FlightAsked, answer: FlightAnswered) -> list[tuple[str, list[str]]]:
    """What else is known of its way."""
    steps = [
        f"Top {format_length(answer.apex_m)} at {format_time(answer.apex_s)}; there its vertical speed stays under "
        f"{format_speed(_SLOW_M_S)} for {format_time(answer.slow_s)}.",
        f"Lands after {format_time(answer.lands_s)} at {format_speed(answer.impact_m_s)}.",
    ]
    if answer.terminal_m_s is not None and answer.drag_later_s is not None:
        if answer.drag_later_s >= 0:
            later = "later"
        else:
            later = "sooner"
        steps.append(
            f"Drag makes it {format_time(abs(answer.drag_later_s))} {later}; its terminal speed is "
            f"{format_speed(answer.terminal_m_s)} as a sphere. Large drops flatten and fall slower."
        )
    if answer.spread_m:
        steps.append(
            f"Releases that differ by {format_length(asked.release_sd_m)} move it by {format_length(answer.spread_m)} "
            "at the light."
        )
    if answer.along_m:
        steps.append(f"By then it has gone {format_length(answer.along_m)} along.")
    return [("On its way", steps)]


def from_scene(scene: Scene, evaluation: Evaluation) -> dict[str, Any]:
    """A scene's fall or leap, and its chain."""
    lags = [lag.lag_s for lag in evaluation.timing.lags]
    given: dict[str, Any] = {}
    if all(lag is not None for lag in lags):
        # (not given where a lag is unknown: the sum of the rest would be too short)
        given["lag_s"] = max(sum(lag for lag in lags if lag is not None), 0.0)
    motion = scene.motion
    if isinstance(motion, Fall):
        # A scene's fall ends at the place that the picture is of.
        given |= {"release_m": motion.height_m, "wanted_m": 0.0}
    elif isinstance(motion, Leap):
        # From the rise: v² = 2 g h.
        up = math.sqrt(2 * constants.GRAVITY_M_S2 * motion.rise_m)
        given |= {
            "release_m": 0.0,
            "up_m_s": up,
            "along_m_s": motion.horizontal_m_s,
            "leg": "apex",
            "wanted_m": 0.0,
        }
    return given


def table(asked: FlightAsked) -> tuple[list[str], list[list[float]]]:
    """The way: time [s], along [m], height [m], speed [m/s]."""
    flight = flight_of(asked)
    parts = (flight.time_s, flight.along_m, flight.height_m, flight.speed_m_s)
    rows = [[float(value) for value in row] for row in zip(*parts, strict=True)]
    return ["time_s", "along_m", "height_m", "speed_m_s"], rows[
        :: max(len(rows) // 120, 1)
    ]


FLIGHT = Tool(
    slug="flight",
    title="Falling and thrown",
    purpose="Something falls, is thrown, or leaps: when is it where the picture is wanted?",
    asks=FlightAsked,
    answers=FlightAnswered,
    beginning={"release_m": 1.5, "wanted_m": 0.3, "diameter_m": 0.04, "lag_s": 0.002},
    solve=solve,
    says=says,
    from_scene=from_scene,
    table=table,
    lists=lists,
)
