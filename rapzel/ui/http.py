"""What the views of every app need: files in, files out, and a deletion that can be undone."""

import json
import re
from collections.abc import Iterable
from typing import Any, Protocol

from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.http.request import RawPostDataException
from django.shortcuts import render
from django.utils.text import slugify
from django_htmx.http import reswap, retarget

from rapzel.core.shared.errors import CoreError, DocumentError, Problem

LARGEST_DOCUMENT = 5 * 2**20


def read_text(upload: UploadedFile | None) -> str:
    """The text of an uploaded file; raises DocumentError for none, one too large, or one that is not UTF-8."""
    if upload is None:
        raise DocumentError([Problem("", "choose a file first")])
    if (upload.size or 0) > LARGEST_DOCUMENT:
        raise DocumentError(
            [Problem("", "the file is larger than 5 MB, far beyond any such document")]
        )
    try:
        # Spreadsheets begin their files with a mark that is no part of the text.
        return upload.read().decode("utf-8-sig")
    except UnicodeDecodeError:
        raise DocumentError([Problem("", "the file is not text in UTF-8")]) from None


def body_of(request: HttpRequest) -> str:
    """The body of a request that is one document. Raises DocumentError for a form, which was read in its parts."""
    try:
        return request.body.decode("utf-8", "replace")
    except RawPostDataException:
        said = (
            "this is a form; send the JSON document itself as the body of the request"
        )
        raise DocumentError([Problem("", said)]) from None


def _no_constants(name: str) -> Any:
    raise ValueError(f"{name} is not a number")


def parse_json(text: str) -> Any:
    """A JSON value; raises DocumentError with line and column, also for NaN and Infinity."""
    try:
        return json.loads(text, parse_constant=_no_constants)
    except json.JSONDecodeError as error:
        said = f"not JSON: {error.msg} in line {error.lineno}, column {error.colno}"
        raise DocumentError([Problem("", said)]) from None
    except (ValueError, RecursionError) as error:
        raise DocumentError([Problem("", f"not JSON: {error}")]) from None


def download(
    content: str | bytes, name: str, kind: str, content_type: str
) -> HttpResponse:
    """A file to keep, named after what it holds."""
    response = HttpResponse(content, content_type=content_type)
    response["Content-Disposition"] = (
        f'attachment; filename="{slugify(name) or "rapzel"}.{kind}"'
    )
    return response


def table(csv: str, name: str) -> HttpResponse:
    """A CSV file to keep."""
    return download(csv, name, "csv", "text/csv; charset=utf-8")


def json_file(document: Any, name: str) -> HttpResponse:
    """A JSON document to keep, indented and with its own letters."""
    text = json.dumps(document, indent=2, ensure_ascii=False, allow_nan=False)
    return download(text + "\n", name, "json", "application/json; charset=utf-8")


def schema(document: dict[str, Any]) -> JsonResponse:
    """A published JSON Schema."""
    return JsonResponse(document, json_dumps_params={"indent": 2})


def is_htmx(request: HttpRequest) -> bool:
    """Whether a part of a page is asked for, by htmx."""
    return bool(getattr(request, "htmx", False))


LARGEST_KEY = 2**63 - 1  # of a row


def keys_of(texts: Iterable[str]) -> list[int]:
    """The row keys among what was sent; what cannot be one is left out, as it could not find a row either."""
    found = [
        int(text)
        for text in texts
        # Other scripts have digits too, which the database does not read.
        if text.isascii() and text.isdigit() and len(text) < 20
    ]
    return [key for key in found if key <= LARGEST_KEY]


_NUMBER = re.compile(r"[-+]?\d{1,20}(\.\d{0,20})?(e[-+]?\d{1,2})?", re.ASCII)


def number_of(text: str) -> float | None:
    """A number as a page of ours writes it in a hidden field; None for what is none."""
    if _NUMBER.fullmatch(text):
        return float(text)
    return None


class Removable(Protocol):
    """A row that can be put away and taken back."""

    def put_away(self) -> None: ...


def put_away(request: HttpRequest, row: Removable, undo_url: str) -> None:
    """Puts a row away and offers on the next page to take it back."""
    row.put_away()
    say_undo(request, f"“{row}” was removed.", undo_url)


def notice(request: HttpRequest, says: str, status: int = 422) -> HttpResponse:
    """A refusal as a notice on the page that asked, whose parts stay as they are."""
    response = render(request, "ui/_notice.html", {"says": says}, status=status)
    return reswap(retarget(response, "#notices"), "beforeend")


def say_undo(request: HttpRequest, text: str, undo_url: str) -> None:
    """A notice on the next page with a button that takes a deletion back."""
    messages.info(request, text, extra_tags=undo_url)


def say_problems(request: HttpRequest, heading: str, error: CoreError) -> None:
    """A notice on the next page that lists everything wrong with what was brought."""
    if isinstance(error, DocumentError):
        lines = [str(problem) for problem in error.problems]
    else:
        lines = [str(error)]
    # A page of problems is read to its end; a book of them is not.
    shown = lines[:30] + ([f"… and {len(lines) - 30} more"] if len(lines) > 30 else [])
    messages.error(request, "\n".join([heading, *shown]))
