"""Quantities as fields show and take them: people's units stop here, SI goes in and comes out."""

from collections.abc import Callable
from dataclasses import dataclass

from rapzel.core.shared import units
from rapzel.ui.inputs import person

Stepper = Callable[[float, int], float]


def _dial(marks: tuple[float, ...]) -> Stepper:
    return lambda value, direction: units.next_mark(value, direction, marks)


def _thirds(first: float, factor: float = 2.0) -> Stepper:
    """Thirds of a stop; a field that is 0 steps up to the first value that is worth setting."""
    steps = units.third_of_a_stop(factor)

    def step(value: float, direction: int) -> float:
        if value == 0:
            if direction > 0:
                return first
            return 0.0
        return steps(value, direction)

    return step


def _adding(step: float) -> Stepper:
    return lambda value, direction: round(value + direction * step, 6)


@dataclass(frozen=True, slots=True)
class Quantity:
    """How one kind of quantity is read, shown and stepped; lengths and speeds also know feet and miles."""

    read: Callable[[str], float]
    dress: Callable[[float], str]
    step: Stepper
    read_imperial: Callable[[str], float] | None = None
    dress_imperial: Callable[[float], str] | None = None

    def parse(self, text: str, imperial: bool | None = None) -> float:
        """SI from what a person wrote; raises UnitError with what is accepted.

        imperial: whether a bare number is feet or miles; as the person likes it where it is not said.
        """
        if self.read_imperial is not None and _is_imperial(imperial):
            return self.read_imperial(text)
        return self.read(text)

    def show(self, value: float | None, imperial: bool | None = None) -> str:
        """The text for a field; nothing for None."""
        if value is None:
            return ""
        if self.dress_imperial is not None and _is_imperial(imperial):
            return self.dress_imperial(value)
        return self.dress(value)


def _is_imperial(said: bool | None) -> bool:
    return person.likes_feet() if said is None else said


def _percent(value: float) -> str:
    # As it was said: a share that is shown rounded would be stored so by the next who leaves the field.
    return f"{round(value * 100, 6):g} %"


def _plain_stops(value: float) -> str:
    return units.format_number(value)


QUANTITIES: dict[str, Quantity] = {
    "duration": Quantity(units.parse_duration, units.format_time, _thirds(1e-4)),
    "delay": Quantity(units.parse_duration, units.format_set_time, _thirds(1e-4)),
    "shutter": Quantity(
        units.parse_duration, units.format_shutter, _dial(units.SHUTTERS_S)
    ),
    "f_number": Quantity(
        units.parse_f_number, units.format_f_number, _dial(units.F_NUMBERS)
    ),
    "iso": Quantity(
        units.parse_iso, lambda value: f"{value:g}", _dial(units.ISO_SPEEDS)
    ),
    "power": Quantity(
        units.parse_power,
        units.format_power,
        lambda v, d: min(units.third_of_a_stop()(v, d), 1.0),
    ),
    "share": Quantity(units.parse_share, _percent, _adding(0.05)),
    "stops": Quantity(units.parse_stops, _plain_stops, _adding(1 / 3)),
    "ev": Quantity(units.parse_stops, _plain_stops, _adding(1 / 3)),
    "length": Quantity(
        units.parse_length,
        units.format_length,
        _thirds(0.1, 2**0.5),
        lambda text: units.parse_length(text, bare="ft"),
        lambda value: units.format_length(value, imperial=True),
    ),
    # As a length; in pixels and by parts of the body it is read where the scene is at hand.
    "trail": Quantity(  # also read in pixels, which takes a scene
        units.parse_length,
        units.format_length,
        _thirds(0.1),
        lambda text: units.parse_length(text, bare="ft"),
        lambda value: units.format_length(value, imperial=True),
    ),
    "speed": Quantity(
        units.parse_speed,
        units.format_speed,
        _thirds(0.1),
        lambda text: units.parse_speed(text, bare="mph"),
        lambda value: units.format_speed(value, imperial=True),
    ),
    "angle": Quantity(
        units.parse_angle, lambda value: f"{units.format_number(value)}°", _adding(5)
    ),
    "temperature": Quantity(
        units.parse_temperature,
        lambda value: f"{units.format_number(value)} °C",
        _adding(1),
    ),
    "rate": Quantity(
        units.parse_rate, lambda value: f"{units.format_number(value)} /s", _thirds(1.0)
    ),
    "number": Quantity(
        units.parse_number, lambda value: units.format_number(value, 6), _thirds(1.0)
    ),
    "clock": Quantity(units.parse_clock, units.format_clock, _adding(0.25)),
    "count": Quantity(
        lambda text: float(round(units.parse_number(text))),
        lambda value: f"{value:.0f}",
        _adding(1),
    ),
}


def read(quantity: str, text: str) -> float:
    """A quantity in SI from what a person wrote, in the units that they like. Raises UnitError."""
    return QUANTITIES[quantity].parse(text)


def shown(quantity: str, value: float | None) -> str:
    """A quantity as its input shows it to that person; nothing for None."""
    return QUANTITIES[quantity].show(value)
