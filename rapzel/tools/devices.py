"""The devices of a watch as lines of text: one a line, its terms apart by semicolons, in any order.

`Receiver; 2 AA; 25 mA; by day` · `Flash; 2 × 4 AA NiMH 2000 mAh; 4 mA; 3000 mAs`: two rows of four cells, what it takes
while it waits, and what one event takes.
"""

import re
from collections.abc import Iterable, Mapping
from typing import Any

from django import forms

from rapzel.core.shared.errors import UnitError
from rapzel.core.tools.watch import DeviceAsked

_EXAMPLE = "Flash; 4 AA NiMH; 4 mA; 3000 mAs; by day"
_MOST = 20
_CELLS = re.compile(
    r"(?:(\d{1,3})\s*[x×]\s*)?(\d{1,3})\s*(AAA|AA|C|D|9V)(?:\s+(alkaline|nimh|lithium))?(?:\s+([\d.]{1,9})\s*mAh)?",
    re.IGNORECASE,
)
_STANDBY = re.compile(r"([\d.]{1,12})\s*(mA|µA|uA|A)", re.IGNORECASE)
_EVENT = re.compile(r"([\d.]{1,12})\s*(mAs|As)", re.IGNORECASE)
_MILLI = {"ma": 1.0, "µa": 1e-3, "ua": 1e-3, "a": 1e3, "mas": 1.0, "as": 1e3}


def dressed(devices: Iterable[Mapping[str, Any]]) -> str:
    """The lines that say these devices."""
    return "\n".join(_line(DeviceAsked.model_validate(device)) for device in devices)


def _line(device: DeviceAsked) -> str:
    cells = device.cells
    # One row of cells is what nearly all devices have, and is not said.
    if cells.parallel > 1:
        rows = f"{cells.parallel} × "
    else:
        rows = ""
    chemistry = {"alkaline": "", "nimh": " NiMH", "lithium": " lithium"}[
        cells.chemistry
    ]
    if cells.capacity_mah is None:
        charge = ""
    else:
        charge = f" {cells.capacity_mah:g} mAh"
    parts = [
        device.name,
        f"{rows}{cells.series} {cells.kind}{chemistry}{charge}",
        f"{device.standby_ma:g} mA",
    ]
    parts += [f"{device.event_mas:g} mAs"] if device.event_mas else []
    return "; ".join([*parts, "by day"] if device.by_day else parts)


def parsed(text: str) -> list[dict[str, Any]]:
    """The devices that lines say; raises UnitError with the line at fault and what is accepted."""
    lines = [line for line in text.splitlines() if line.strip()]
    if not 0 < len(lines) <= _MOST:
        raise UnitError("", f"one to {_MOST} devices, one a line", _EXAMPLE)
    return [_device(line) for line in lines]


def _device(line: str) -> dict[str, Any]:
    name, *terms = (part.strip() for part in line.split(";"))
    device: dict[str, Any] = {"name": name[:200]}
    for term in filter(None, terms):
        # A term said twice: the later one counts, as in a sentence.
        device |= _term(term, line)
    if not name or "cells" not in device or "standby_ma" not in device:
        raise UnitError(
            line[:80],
            "a device with its cells and what it takes while it waits",
            _EXAMPLE,
        )
    return device


def _amount(found: "re.Match[str]", line: str) -> float:
    try:
        return float(found[1]) * _MILLI[found[2].lower()]
    except ValueError:
        raise UnitError(found[1], f"a number (in “{line[:60]}”)", _EXAMPLE) from None


def _term(term: str, line: str) -> dict[str, Any]:
    """What one term says."""
    if term.lower() == "by day":
        return {"by_day": True}
    if found := _CELLS.fullmatch(term):
        rows, series, kind, chemistry, charge = found.groups()
        cells: dict[str, Any] = {
            "kind": kind.upper(),
            "series": int(series),
            "parallel": int(rows or 1),
        }
        # Left out it is alkaline, which is what lies in the shop.
        cells |= {"chemistry": chemistry.lower()} if chemistry else {}
        try:
            return {
                "cells": cells | ({"capacity_mah": float(charge)} if charge else {})
            }
        except ValueError:
            raise UnitError(term, f"a charge (in “{line[:60]}”)", _EXAMPLE) from None
    if found := _EVENT.fullmatch(term):
        return {"event_mas": _amount(found, line)}
    if found := _STANDBY.fullmatch(term):
        return {"standby_ma": _amount(found, line)}
    raise UnitError(term[:60], f"a term of a device (in “{line[:60]}”)", _EXAMPLE)


class DevicesField(forms.CharField):
    """A form field for devices: the cleaned value is a list of documents."""

    widget = forms.Textarea(
        attrs={"rows": 5, "autocomplete": "off", "spellcheck": "false"}
    )

    def prepare_value(self, value: Any) -> str:
        if isinstance(value, list | tuple):
            return dressed(value)
        return value or ""

    def clean(self, value: Any) -> Any:
        try:
            return parsed(super().clean(value) or "")
        except UnitError as error:
            raise forms.ValidationError(str(error)) from error
