"""The figures of a thing of the kit: stored together as JSON, known by the class that says what they are."""

import copy
from collections.abc import Callable, Iterable
from typing import Any, ClassVar, Protocol, TypeVar

from pydantic.fields import FieldInfo
from pydantic_core import PydanticUndefined

from rapzel.core.shared.part import Part
from rapzel.kit.parts import figures_of

Usual = dict[str, Any]


class HasFigures(Protocol):
    """A model with figures: the class that describes them, and what a new row has."""

    PART: ClassVar[type[Part]]
    USUAL: ClassVar[Usual]


Row = TypeVar("Row", bound=type[HasFigures])


def _stored(value: Any) -> Any:
    """A value as JSON holds it."""
    if isinstance(value, tuple):
        return list(value)
    return value


def usual_of(part: type[Part], beginning: Usual) -> Usual:
    """What a new thing has: what the kind begins with, else what its class takes where nothing is said."""
    usual = {}
    for name in figures_of(part):
        default = part.model_fields[name].default
        known = None if default is PydanticUndefined else _stored(default)
        usual[name] = beginning.get(name, known)
    return usual


def _is_of_decimals(info: FieldInfo) -> bool:
    """Whether a whole number that is stored stands for a figure with decimals."""
    return info.annotation is not int and "float" in str(info.annotation)


def _figure(name: str, info: FieldInfo) -> property:
    """One figure as an attribute of a row; one that came later than the row is what a new thing has."""
    decimals = _is_of_decimals(info)

    def get(row: Any) -> Any:
        # The usual value is copied: a list that two rows share would change in both.
        value = row.figures[name] if name in row.figures else copy.copy(row.USUAL[name])
        # JSON has one kind of number: 60.0 comes back as 60.
        if decimals and isinstance(value, int) and not isinstance(value, bool):
            return float(value)
        return value

    def put(row: Any, value: Any) -> None:
        # A new object, so that Django sees that the column has changed.
        row.figures = {**row.figures, name: _stored(value)}

    return property(get, put, doc=info.description)


def with_figures(part: type[Part], **beginning: Any) -> Callable[[Row], Row]:
    """For a model: its figures are those of the class, each an attribute; a new row begins with those that are named.

    A new figure is a line in the class: rows that are stored have what the class takes for it, until it is said.
    """

    def dressed(model: Row) -> Row:
        model.PART = part
        model.USUAL = usual_of(part, beginning)
        for name in figures_of(part):
            setattr(model, name, _figure(name, part.model_fields[name]))
        return model

    return dressed


def columns_of(part: type[Part], names: Iterable[str]) -> set[str]:
    """The columns in which these are stored: all figures share one."""
    own = figures_of(part)
    return {"figures" if name in own else name for name in names}
