"""Numbers dressed for eyes. Exports, charts and tests use the number itself."""

import re
from collections.abc import Callable, Iterable
from datetime import datetime
from functools import lru_cache
from html import escape
from typing import Any
from zoneinfo import ZoneInfo

from django import template
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.html import format_html, format_html_join
from django.utils.safestring import SafeString, mark_safe

from rapzel.core.methods import of_word
from rapzel.core.shared import units
from rapzel.core.shared.working import Step
from rapzel.ui import zones

register = template.Library()
NOTHING = "–"


def _dressed(name: str, dress: Any) -> None:
    def dressed(value: float | None, option: Any = None) -> str:
        if value is None:
            return NOTHING
        return str(dress(value) if option is None else dress(value, option))

    dressed.__doc__ = dress.__doc__
    register.filter(name, dressed)


_dressed("time", units.format_time)
_dressed("set_time", units.format_set_time)
_dressed("fraction", units.format_fraction)
_dressed("shutter", units.format_shutter)
_dressed("exposure", units.format_exposure)
_dressed("power", units.format_power)
_dressed("stops", units.format_stops)
_dressed("f_number", units.format_f_number)
_dressed("distance", units.format_length)
_dressed("speed", units.format_speed)
_dressed("percent", units.format_percent)
_dressed("figure", units.format_number)


_DRESSED_UNITS: dict[str, Callable[[float], str]] = {
    "s": units.format_time,
    "m": units.format_length,
    "m/s": units.format_speed,
}


@register.filter
def bound(text: str) -> str:
    """A sentence in which no line ends between a figure and its unit."""
    return re.sub(
        r"(?<=\d) (?=%|px\b|stops?\b|frames?\b|[µm]?s\b|c?m\b)", "\u00a0", text
    )


@register.filter
def day(at: datetime | None, zone: str = "") -> str:
    """A day as it is there, or in a zone that is named: `7 Dec 2026`."""
    if at is None:
        return ""
    if zone:
        there = ZoneInfo(zone)
    else:
        there = None
    return date_format(timezone.localtime(at, there), "j M Y")


@register.filter
def moment(at: datetime | None, fine: str = "") -> str:
    """A moment on the clock there: `7 Dec, 14:03`, with `seconds` as fine `7 Dec, 14:03:22`."""
    if at is None:
        return ""
    return date_format(
        timezone.localtime(at), "j M, H:i:s" if fine == "seconds" else "j M, H:i"
    )


@register.filter
def moment_and_offset(at: datetime | None) -> str:
    """The same with its year and offset, for what leaves the page: `7 Dec 2026, 14:03 (UTC+1)`."""
    if at is None:
        return ""
    return (
        f"{date_format(timezone.localtime(at), 'j M Y, H:i')} ({zones.offset_says(at)})"
    )


@register.simple_tag
def clock() -> str:
    """Whose clock the times of this page are read on."""
    return zones.clock_says()


@register.simple_tag
def clock_place() -> str:
    """Where that clock stands, for times of other seasons: their offset is not that of today."""
    return timezone.get_current_timezone_name().replace("_", " ")


@register.simple_tag
def clock_name() -> str:
    """The zone of that clock as scripts name it."""
    return timezone.get_current_timezone_name()


@register.filter
def lateness(value_s: float) -> str:
    """0.005 -> '5 ms late', −0.002 -> '2 ms early'."""
    if value_s == 0:
        return "on time"
    return f"{units.format_time(abs(value_s))} {'late' if value_s > 0 else 'early'}"


# Rows of tables are written here and not by loops of templates: a page has a hundred, which took half of its time.


@register.filter
def table_rows(rows: Iterable[Iterable[str]]) -> SafeString:
    """Rows of plain cells."""
    written = "".join([f"<tr>{_cells(row)}</tr>" for row in rows])
    return mark_safe(written)  # noqa: S308


def _cells(row: Iterable[str]) -> str:
    """Cells with their texts escaped."""
    return "".join([f"<td>{escape(str(cell))}</td>" for cell in row])


@register.filter
def working_rows(working: Iterable[Step]) -> SafeString:
    """The lines of a figure's working as rows: symbol, value, formula, source, provenance."""
    return format_html_join("", "{}", ((_working_row(step),) for step in working))


@lru_cache(maxsize=2048)
def _working_row(step: Step) -> SafeString:
    """One of them, kept: a change of a scene leaves most of them as they were."""
    return format_html(
        '<tr><th scope="row">{}</th><td class="num">{}</td><td>{}</td><td>{}</td><td>{}</td></tr>\n',
        step.symbol,
        step_value(step),
        step.formula,
        step.source,
        step.provenance or "",
    )


def step_value(step: Step) -> str:
    """A line of working's value with its unit: times and lengths in the unit that suits them."""
    if step.value is None:
        return NOTHING
    if step.unit in _DRESSED_UNITS:
        return _DRESSED_UNITS[step.unit](step.value)
    if step.unit == "stops":
        return f"{units.format_stops(step.value)} stops"
    return f"{units.format_number(step.value)} {step.unit}".strip()


@register.filter
def far_distance(value_m: float | None, imperial: bool = False) -> str:
    """A distance up to which something holds: None is without an end."""
    if value_m is None:
        return "∞"
    return units.format_length(value_m, imperial)


@register.filter
def item(mapping: dict[str, Any], key: str) -> Any:
    """The value of a key in a mapping."""
    return mapping.get(key)


@register.filter
def method_words(word: str) -> str:
    """How the camera is set for a method of the document."""
    return of_word(word).on_the_body
