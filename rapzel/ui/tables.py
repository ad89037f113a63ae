"""Tables as CSV. Every table leaves by this writer, so that none carries a text that a spreadsheet would run."""

import csv
import io
from collections.abc import Iterable
from functools import lru_cache
from typing import Any

# the wide ones are read as the narrow ones by some
_SIGNS = (
    "=",
    "+",
    "-",
    "@",
    "＝",
    "＋",
    "－",
    "＠",
)
# what a spreadsheet skips, or takes as the beginning of another cell
_BEFORE = " \t\r\n\ufeff\u00a0"


def plain_cell(value: Any) -> Any:
    """A cell: nothing for None, a number as it is, and a text that no spreadsheet runs as a formula."""
    if value is None:
        return ""
    if isinstance(value, str) and _runs(value):
        return f"'{value}"
    return value


@lru_cache(maxsize=512)
def _runs(text: str) -> bool:
    """Whether a spreadsheet might run a text; remembered, as most cells of a column say one of a few things."""
    return text.lstrip(_BEFORE).startswith(_SIGNS) or text[:1] in ("\t", "\r", "\n")


def unguarded(text: str) -> str:
    """The text of a cell that `plain_cell` wrote."""
    if text.startswith("'") and _runs(text[1:]):
        return text[1:]
    return text


def to_csv(header: Iterable[str], rows: Iterable[Iterable[Any]]) -> str:
    """A table with its header; numbers with a decimal point, empty cells for None."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([plain_cell(cell) for cell in header])
    writer.writerows([plain_cell(cell) for cell in row] for row in rows)
    return out.getvalue()
