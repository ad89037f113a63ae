"""Lights against each other: ratios in stops, set by power or by distance, and equal powers (science §9).

Equal powers give lights of a kind equal durations, so that none of them spoils the freeze; the ratio is then made by
distance, a scrim or a modifier.
"""

import math
from typing import Any, Literal

from scipy.optimize import brentq

from rapzel.core.document.gear import Light, lowest_power
from rapzel.core.document.scene import Scene
from rapzel.core.light import guide, tint
from rapzel.core.physics.lights import guide_number_of
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.units import format_length, format_power

Values = tuple[tuple[str, Any], ...]  # by path
By = Literal["power", "distance"]
_NEAREST_M = 0.1


def key_of(scene: Scene) -> int | None:
    """Where the key light stands: the one with that role, else the first on the moving part; None without any."""
    places = range(len(scene.lights))
    # A role that somebody has set counts before the order in which lights were added.
    key = [place for place in places if scene.lights[place].role == "key"]
    on_part = [place for place in places if scene.lights[place].on_moving_part]
    return next(iter([*key, *on_part]), None)


def given_stops(light: Light) -> float:
    """What a light gives where it points, in stops of f-number² at ISO 100, whatever the shutter leaves of it."""
    number, _ = guide_number_of(light)
    power = 2 ** guide.relative_light_stops(light.table, light.power)
    # At ISO 100 and without the shutter: a ratio is between lights, not between settings.
    near = guide.nearness_stops(light.source_size_m, light.distance_m)
    loss = light.loss_stops + near
    bare = float(guide.correct_f_number(number, 100.0, power, light.distance_m, loss))
    return math.log2(light.at_once) + 2 * math.log2(bare)


def against_key_stops(scene: Scene) -> list[float | None]:
    """Each light against the key [stops]; None for the key itself."""
    key = key_of(scene)
    if key is None:
        return [None] * len(scene.lights)
    main = given_stops(scene.lights[key])
    return [
        None if place == key else given_stops(light) - main
        for place, light in enumerate(scene.lights)
    ]


def mired_from_key(scene: Scene) -> list[float | None]:
    """How much warmer each light is than the key [mired, negative is cooler]; None where a colour is not known."""
    key = key_of(scene)
    if key is None:
        return [None] * len(scene.lights)
    tints = [tint.tint_at(light.table, light.power) for light in scene.lights]
    main = tints[key]
    return [
        None
        if place == key or one is None or main is None
        else tint.mired_apart(one, main)
        for place, one in enumerate(tints)
    ]


def with_ratio(scene: Scene, place: int, stops: float, by: By) -> Values:
    """What sets a light so many stops against the key. Raises DocumentError where its power does not reach so far."""
    light, now = scene.lights[place], against_key_stops(scene)[place]
    if now is None:
        raise DocumentError(
            [Problem(f"lights[{place}]", "is the key: the others are set against it")]
        )
    if by == "distance":
        away = _distance_for(light, given_stops(light) + stops - now)
        return ((f"lights[{place}].distance_m", round(max(away, _NEAREST_M), 3)),)
    wanted = guide.relative_light_stops(light.table, light.power) + stops - now
    return (
        (f"lights[{place}].power", _power_for(light, wanted, f"lights[{place}].power")),
    )


def _distance_for(light: Light, wanted_stops: float) -> float:
    """The distance [m] at which a light gives so many stops of f-number²."""
    # By the inverse square two stops are twice the distance; near to a large source they are more.
    guess = light.distance_m * 2 ** ((given_stops(light) - wanted_stops) / 2)
    if not light.source_size_m:
        return guess

    def over(log_distance: float) -> float:
        moved = light.model_copy(update={"distance_m": 2.0**log_distance})
        return given_stops(moved) - wanted_stops

    low, high = math.log2(guess) - 12, math.log2(guess) + 1
    # Nearer than touching, even a large source gives no more: then the nearest place is the best there is.
    if over(low) < 0:
        return _NEAREST_M
    return float(2.0 ** brentq(over, low, high))


def _power_for(light: Light, wanted_stops: float, path: str) -> float:
    """The power at which a light gives so many stops against full."""

    def over(dial: float) -> float:
        return guide.relative_light_stops(light.table, 2.0**dial) - wanted_stops

    lowest = lowest_power(light.strobe)
    # Dials are not true: a measured table may give less or more than its marks say, so the dial is
    # searched.
    least, most = over(math.log2(lowest)), over(0.0)
    if least > 1e-6 or most < -1e-6:
        farther = least > 0
        if farther:
            way = "farther away"
        else:
            way = "closer"
        # What its power cannot do its distance can, and the refusal says at which.
        at = light.distance_m * 2 ** ((least if farther else most) / 2)
        raise DocumentError(
            [
                Problem(
                    path,
                    f"goes from {format_power(lowest)} to full, which is not "
                    f"{'low' if farther else 'high'} enough; {way}, at {format_length(at)}, it would do",
                )
            ]
        )
    if abs(least) <= 1e-6:
        return lowest
    if abs(most) <= 1e-6:
        return 1.0
    return float(2.0 ** brentq(over, math.log2(lowest), 0.0))


def equal_powers(scene: Scene) -> Values:
    """What gives every light of the key's kind the key's power and keeps its ratio by distance; empty: all have it."""
    key = key_of(scene)
    if key is None:
        return ()
    main = scene.lights[key]
    values: list[tuple[str, Any]] = []
    for place, light in enumerate(scene.lights):
        # Other strobes have other durations at the same mark, so equal marks would make nothing
        # equal.
        alike = light.strobe == main.strobe and light.mode == main.mode
        if not alike or math.isclose(light.power, main.power, rel_tol=1e-3):
            continue
        moved = light.model_copy(update={"power": main.power})
        away = _distance_for(moved, given_stops(light))
        values.append((f"lights[{place}].power", main.power))
        values.append((f"lights[{place}].distance_m", round(away, 3)))
    return tuple(values)
