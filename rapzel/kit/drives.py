"""A camera's drive modes as lines of text: one mode a line, its terms apart by semicolons, in any order.

`High; 12/s; focal plane; 1/8000 to 1/60; no HSS; formats compressed raw; lens with fast motor; focus priority`
"""

import re
from collections.abc import Iterable, Mapping
from typing import Any

from django import forms
from pydantic import ValidationError

from rapzel.core.document.gear import Drive
from rapzel.core.shared import units
from rapzel.core.shared.errors import UnitError
from rapzel.core.shared.refusals import refused, spoken
from rapzel.ui import inputs

_KINDS = {
    "focal plane": "focal_plane",
    "leaf": "leaf",
    "rolling": "rolling",
    "global": "global",
}
_RATE = re.compile(r"([\d.]+)\s*(?:/s|fps|frames/s|frames a second)", re.IGNORECASE)
_FLAGS = {
    "no flash": ("flash", False),
    "no hss": ("hss", False),
    "focus priority": ("focus_priority", True),
}
_EXAMPLE = "High; 12/s; focal plane; 1/8000 to 1/60; no HSS; formats compressed raw"
_MOST = 20


def dressed(drives: Iterable[Mapping[str, Any]]) -> str:
    """The lines that say these drives."""
    return "\n".join(_line(Drive.model_validate(drive)) for drive in drives)


def _line(drive: Drive) -> str:
    # What is written can be read again, to the letter.
    words = {kind: says for says, kind in _KINDS.items()}
    parts = [
        drive.name,
        f"{drive.frames_per_s:g}/s",
        *(words[kind] for kind in drive.shutters),
    ]
    if drive.fastest_s is not None or drive.slowest_s is not None:
        ends = (
            units.format_shutter(end) if end else "any"
            for end in (drive.fastest_s, drive.slowest_s)
        )
        parts.append(" to ".join(ends))
    parts += [
        says for says, (name, value) in _FLAGS.items() if getattr(drive, name) is value
    ]
    parts += [
        f"{name} {text}"
        for name in ("formats", "lens")
        if (text := getattr(drive, name))
    ]
    return "; ".join(parts).replace("no hss", "no HSS")


def parsed(text: str) -> list[dict[str, Any]]:
    """The drives that lines say; raises UnitError with the line at fault and what is accepted."""
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > _MOST:
        raise UnitError(f"{len(lines)} lines", f"at most {_MOST} drive modes", _EXAMPLE)
    return [_drive(line) for line in lines]


def _drive(line: str) -> dict[str, Any]:
    # The name stands first; what follows is told by its look, in any order.
    name, *terms = (part.strip() for part in line.split(";"))
    drive: dict[str, Any] = {"name": name}
    for term in filter(None, terms):
        drive |= _term(term, drive, line)
    if not name or "frames_per_s" not in drive:
        raise UnitError(line, "a drive mode with its name and rate", _EXAMPLE)
    try:
        # The class has the last word on bounds, as everywhere.
        return Drive.model_validate(drive).model_dump(mode="json")
    except ValidationError as error:
        reasons = "; ".join(spoken(str(problem)) for problem in refused(error).problems)
        raise UnitError(line, f"a drive mode ({reasons})", _EXAMPLE) from None


def _term(term: str, drive: Mapping[str, Any], line: str) -> dict[str, Any]:
    """What one term says."""
    low = term.lower()
    if low in _FLAGS:
        return dict([_FLAGS[low]])
    if low in _KINDS:
        # A mode may be had with several shutters, each a term of its own.
        return {"shutters": [*drive.get("shutters", []), _KINDS[low]]}
    rate = _RATE.fullmatch(term)
    if rate:
        return {"frames_per_s": float(rate[1])}
    for name in ("formats", "lens"):
        if low.startswith(f"{name} "):
            return {name: term[len(name) :].strip()}
    if " to " in low:
        ends = [part.strip() for part in low.split(" to ", maxsplit=1)]
        fast, slow = (
            None if end == "any" else inputs.read("duration", end) for end in ends
        )
        return {"fastest_s": fast, "slowest_s": slow}
    raise UnitError(term, f"a term of a drive mode (in “{line[:60]}”)", _EXAMPLE)


class DrivesField(forms.CharField):
    """A form field for drive modes: the cleaned value is a list of drives."""

    widget = forms.Textarea(
        attrs={"rows": 4, "autocomplete": "off", "spellcheck": "false"}
    )

    def prepare_value(self, value: Any) -> str:
        if isinstance(value, list):
            return dressed(value)
        return value or ""

    def clean(self, value: Any) -> Any:
        try:
            return parsed(super().clean(value) or "")
        except UnitError as error:
            raise forms.ValidationError(str(error)) from error

    def has_changed(self, initial: Any, data: Any) -> bool:
        return self.prepare_value(initial) != (data or "").strip().replace("\r\n", "\n")
