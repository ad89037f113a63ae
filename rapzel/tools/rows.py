"""Rows as lines of text: one a line, its columns in order, apart by semicolons. What is last may be left out.

`120 ms; 34 mm` · `198 ms; early; 5 ms` · `40 ms; 50 drops; 1.6 g`
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from django import forms

from rapzel.core.shared import units
from rapzel.core.shared.errors import UnitError
from rapzel.ui.inputs import read, shown

_MOST = 200
_LATE = re.compile(r"\b(early|late)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Column:
    """One column: the key of its value, how it is read and shown, and whether it must be there."""

    key: str
    read: Callable[[str], Any]
    show: Callable[[Any], str]
    required: bool = True


class RowsField(forms.CharField):
    """A form field for rows: the cleaned value is a list of documents; of one row at most, the document or None."""

    def __init__(
        self,
        columns: tuple[Column, ...],
        example: str,
        single: bool = False,
        **kwargs: Any,
    ) -> None:
        self.columns, self.example, self.single = columns, example, single
        super().__init__(required=False, **kwargs)
        if single:
            self.widget = forms.TextInput()
        else:
            self.widget = forms.Textarea(attrs={"rows": 4})
        # Figures: a browser's suggestions and red lines only stand in the way.
        self.widget.attrs |= {"autocomplete": "off", "spellcheck": "false"}

    def prepare_value(self, value: Any) -> str:
        if isinstance(value, Mapping):
            # A single row is its document, not a list of one.
            rows = [value]
        else:
            rows = value
        if not isinstance(rows, list | tuple):
            return rows or ""
        return "\n".join(self._line(row) for row in rows)

    def _line(self, row: Mapping[str, Any]) -> str:
        cells = [
            column.show(row[column.key])
            for column in self.columns
            # A cell that is not known is left out; only the last ones may be.
            if row.get(column.key) is not None
        ]
        return "; ".join(cells)

    def has_changed(self, initial: Any, data: Any) -> bool:
        """Rows that still show their values have not changed: they keep the digits that are not shown."""
        return (
            # (by lines, since browsers send other line ends than are stored)
            self.prepare_value(initial).splitlines()
            != (data or "").strip().splitlines()
        )

    def clean(self, value: Any) -> Any:
        lines = [
            line for line in (super().clean(value) or "").splitlines() if line.strip()
        ]
        if self.single:
            most = 1
        else:
            most = _MOST
        if len(lines) > most:
            raise forms.ValidationError(f"{len(lines)} lines; up to {most} are taken.")
        try:
            rows = [self._row(line) for line in lines]
        except UnitError as error:
            raise forms.ValidationError(str(error)) from error
        if self.single:
            return rows[0] if rows else None
        return rows

    def _row(self, line: str) -> dict[str, Any]:
        cells = [cell.strip() for cell in line.split(";")]
        # Columns are told by their place, so that a gap in the middle is refused.
        least = sum(column.required for column in self.columns)
        if (
            not least
            <= len(list(filter(None, cells)))
            <= len(cells)
            <= len(self.columns)
        ):
            raise UnitError(
                line[:80], "a row with its columns apart by semicolons", self.example
            )
        row: dict[str, Any] = {}
        for column, cell in zip(self.columns, cells, strict=False):
            if cell:
                try:
                    row[column.key] = column.read(cell)
                except UnitError as error:
                    raise UnitError(
                        line[:80], f"a row: {error}", self.example
                    ) from None
        return row


def _counted(text: str) -> int:
    # The word may stand there or not, as people write it.
    bare = re.sub(r"\s*drops?$", "", text.strip(), flags=re.IGNORECASE)
    if not (bare.isascii() and bare.isdigit()) or len(bare) > 6:
        raise UnitError(text, "how many drops", "50 drops")
    return int(bare)


def _mass(text: str) -> float:
    # A mass needs its unit: grams and milligrams are both usual, and a thousand apart.
    found = re.fullmatch(r"([\d.,]{1,12})\s*(mg|g|kg)", text.strip())
    if not found:
        raise UnitError(text, "what they weigh together", "1.6 g, 850 mg")
    return read("number", found[1]) * {"mg": 1e-6, "g": 1e-3, "kg": 1.0}[found[2]]


def _outcome(text: str) -> str:
    if text.lower() not in ("early", "late", "on"):
        raise UnitError(text, "how it came out", "early, late, on")
    return text.lower()


def _off(text: str) -> float:
    """`5 ms late`, `−3 ms`: seconds, early negative."""
    word = _LATE.search(text)
    bare = _LATE.sub("", text).strip()
    # A hyphen or the true minus sign, or the word: each says early.
    if bare[:1] in "-−" or (word and word[1].lower() == "early"):
        sign = -1.0
    else:
        sign = 1.0
    return sign * read("duration", bare.lstrip("+-− "))


def _name(text: str) -> str:
    return text[:200]


def _late(value: float) -> str:
    return f"{units.format_set_time(abs(value))} {'late' if value > 0 else 'early'}"


def _grams(value: float) -> str:
    return f"{units.format_number(value * 1e3, 6)} g"


_DURATION = (partial(read, "delay"), partial(shown, "delay"))
_LENGTH = (partial(read, "length"), partial(shown, "length"))
_SPEED = (partial(read, "speed"), partial(shown, "speed"))
# By the name of the input: columns, an example, and whether there is one row at most.
ROWS: dict[str, tuple[tuple[Column, ...], str, bool]] = {
    "observations": (
        (Column("flash_delay_s", *_DURATION), Column("height_m", *_LENGTH)), "360 ms; 41 mm", False,
    ),
    "jet": (
        (Column("launch_s", *_DURATION), Column("speed_m_s", *_SPEED)),
        "320 ms; 1.3 m/s", True,
    ),
    "weighings": (
        (
            Column("open_s", *_DURATION), Column("drops", _counted, lambda value: f"{value} drops"),
            Column("mass_kg", _mass, _grams),
        ),
        "40 ms; 50 drops; 1.6 g", False,
    ),
    "others": (
        (
            Column("name", _name, str), Column("height_m", *_LENGTH), Column("wanted_m", *_LENGTH),
            Column("lag_s", *_DURATION, required=False),
        ),
        "Left valve; 40 cm; 10 cm; 4 ms", False,
    ),
    "history": (
        (
            Column("value", *_DURATION), Column("outcome", _outcome, str),
            Column("offset_s", _off, _late, required=False),
        ),
        "198 ms; early; 5 ms early", False,
    ),
}  # fmt: skip
