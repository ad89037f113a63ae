"""What might stop a motion: the apex, less power, a shorter mode, another strobe, or a faster shutter."""

from collections.abc import Iterator

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.gear import Light, lowest_power
from rapzel.core.document.scene import Scene
from rapzel.core.methods import METHODS, method_of
from rapzel.core.physics.ratios import equal_powers
from rapzel.core.pulse import pulse_at
from rapzel.core.shared.units import SHUTTERS_S, format_power, format_shutter
from rapzel.core.verdict.change import Change, Values, dial_until, named

_BY_PULSE: Values = (
    ("exposure.method", METHODS["pulse"].word),
    ("trigger.fires", "camera"),
)


def for_freeze(
    scene: Scene, now: Evaluation, imperial: bool = False
) -> Iterator[Change]:
    """The apex of a leap, less power on what is too slow, another strobe in its place, or a faster shutter."""
    limit = now.freeze_limit_s or 0.0
    if scene.motion.kind == "leap" and scene.motion.from_apex_s > 0:
        yield Change("freeze", "caught at the apex", (("motion.from_apex_s", 0.0),))
    if not method_of(scene).room_apart:
        # A shutter that stops the motion draws no trail, and hardly any streaks.
        if scene.look.room in ("trail", "streaks"):
            yield Change("freeze", METHODS["pulse"].title, _BY_PULSE)
            return
        mark = dial_until(
            scene.exposure.shutter_s, -1, SHUTTERS_S, lambda mark: mark <= limit
        )
        if mark is not None:
            yield Change(
                "freeze", format_shutter(mark), (("exposure.shutter_s", mark),)
            )
        return
    slow = [
        place
        for place, lit in enumerate(now.lights)
        if lit.share > 0 and lit.stopping_s > limit
    ]
    # Ratios by distance first: they cost no light of the key and make every pulse as short as its.
    equal = equal_powers(scene)
    if equal:
        yield Change("freeze", "equal powers, ratio by distance", equal)
    # All that are too slow together, then each alone: one that is faint may be left as it is.
    powers = {place: power_fast_enough(scene.lights[place], limit) for place in slow}
    enough = {place: power for place, power in powers.items() if power is not None}
    if slow and len(enough) == len(slow):
        yield _at_powers(scene, enough)
    for place, power in enough.items() if len(slow) > 1 else ():
        yield _at_powers(scene, {place: power})
    yield from _other_mode(scene, slow, limit)
    yield from _other_strobe(scene, slow, limit)


def _at_powers(scene: Scene, powers: dict[int, float]) -> Change:
    says = " and ".join(
        f"{named(scene.lights[place])} at {format_power(power)}"
        for place, power in powers.items()
    )
    return Change(
        "freeze",
        says,
        tuple((f"lights[{place}].power", power) for place, power in powers.items()),
    )


def _other_mode(scene: Scene, slow: list[int], limit_s: float) -> Iterator[Change]:
    """The lights that are too slow in a shorter mode of their own, at the highest power that is fast enough."""
    changes = [_in_its_shorter_mode(scene, place, limit_s) for place in slow]
    able = [change for change in changes if change is not None]
    # All that are too slow together, then each alone: one that is faint may be left as it is.
    if slow and len(able) == len(slow):
        says = " and ".join(change.says for change in able)
        together = tuple(value for change in able for value in change.values)
        yield Change("freeze", says, together)
    if len(slow) > 1:
        yield from able


def _in_its_shorter_mode(scene: Scene, place: int, limit_s: float) -> Change | None:
    """One light in the mode in which it may stay at the highest power; None where no mode is fast enough."""
    light, found = scene.lights[place], []
    for mode in light.strobe.modes:
        if mode.durations == light.table:
            continue
        moved = light.model_copy(update={"mode": mode.name, "power": light.power})
        # Its present power first, then a third less and less.
        power = light.power
        if pulse_at(light.strobe.circuit, moved.table, power).t01_s > limit_s:
            lower = power_fast_enough(moved, limit_s)
            if lower is None:
                continue
            power = lower
        found.append((power, mode.name))
    if not found:
        return None
    power, name = max(found)
    at = f"lights[{place}]"
    says = f"{named(light)} in {name} mode at {format_power(power)}"
    return Change("freeze", says, ((f"{at}.mode", name), (f"{at}.power", power)))


def _other_strobe(scene: Scene, slow: list[int], limit_s: float) -> Iterator[Change]:
    """The strobe of another light of the scene in the place of a slow one, at a power that is fast enough."""
    for place in slow:
        for other in scene.lights:
            if other.strobe == scene.lights[place].strobe:
                continue
            swapped = scene.lights[place].model_copy(
                update={"strobe": other.strobe, "mode": other.mode}
            )
            power = power_fast_enough(swapped, limit_s, from_full=True)
            if power is not None:
                says = f"{other.strobe.name or 'another strobe'} at {format_power(power)} for {named(swapped)}"
                at, strobe = f"lights[{place}]", other.strobe.model_dump(mode="json")
                yield Change(
                    "freeze",
                    says,
                    (
                        (f"{at}.strobe", strobe),
                        (f"{at}.mode", other.mode),
                        (f"{at}.power", power),
                    ),
                )
                break


def power_fast_enough(
    light: Light, limit_s: float, from_full: bool = False
) -> float | None:
    """The highest power in thirds of a stop below the light's own at which t.1 is within a limit; None if none is."""
    lowest = lowest_power(light.strobe)
    if from_full:
        # The loop takes a third off before it looks, so it begins a third above full.
        power = 2 ** (1 / 3)
    else:
        power = light.power
    while (power := power * 2 ** (-1 / 3)) >= lowest * 0.999:
        tried = min(max(power, lowest), 1.0)
        if pulse_at(light.strobe.circuit, light.table, tried).t01_s <= limit_s:
            return tried
    return None
