"""What a document's reader refuses, in sentences that say what would be accepted; and texts that can be stored."""

import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from rapzel.core.shared.errors import DocumentError, Problem

MOST_PROBLEMS = 100  # told of one document; nobody reads more, and each costs time
# of the keys that begin with x-, which are kept unread
_EXTRA_CHARACTERS, _EXTRA_DEPTH = 4000, 16

_NUMBERS = "must be a number"
_SENTENCES: dict[str, Callable[[Mapping[str, Any]], str]] = {
    "missing": lambda limits: "is missing",
    "greater_than": lambda limits: f"must be above {limits['gt']:g}",
    "greater_than_equal": lambda limits: f"must be {limits['ge']:g} or more",
    "less_than": lambda limits: f"must be below {limits['lt']:g}",
    "less_than_equal": lambda limits: f"must be {limits['le']:g} or less",
    "finite_number": lambda limits: "must be a finite number",
    "float_type": lambda limits: _NUMBERS,
    "float_parsing": lambda limits: _NUMBERS,
    "int_type": lambda limits: "must be a whole number",
    "int_parsing": lambda limits: "must be a whole number",
    "int_from_float": lambda limits: "must be a whole number",
    "bool_type": lambda limits: "must be true or false",
    "string_type": lambda limits: "must be a text",
    "string_too_long": lambda limits: (
        f"must have at most {limits['max_length']} characters"
    ),
    "string_too_short": lambda limits: "must not be empty",
    "string_pattern_mismatch": lambda limits: f"must look like {limits['pattern']}",
    "too_long": lambda limits: f"must hold at most {limits['max_length']}",
    "too_short": lambda limits: f"must hold at least {limits['min_length']}",
    "literal_error": lambda limits: f"must be one of {limits['expected']}",
    "union_tag_invalid": lambda limits: (
        f"must have a kind that is one of {limits['expected_tags']}"
    ),
    "union_tag_not_found": lambda limits: "must have a kind",
    "model_type": lambda limits: "must be an object",
    "model_attributes_type": lambda limits: "must be an object",
    "dict_type": lambda limits: "must be an object",
    "tuple_type": lambda limits: "must be a list",
    "list_type": lambda limits: "must be a list",
}


def sentence(error: ErrorDetails) -> str:
    """What is wrong with one value, and what came: 'must be above 0 (given: -1)'."""
    write = _SENTENCES.get(error["type"])
    if write:
        said = write(error.get("ctx") or {})
    else:
        said = error["msg"].removeprefix("Value error, ")
    said = f"{said[:1].lower()}{said[1:]}"
    given = error["input"]
    # Of a whole object that was refused nobody wants to read the text.
    if error["type"] in ("missing", "value_error") or not isinstance(
        given, int | float | str | None
    ):
        return said
    shown = repr(given)
    return f"{said} (given: {shown if len(shown) <= 60 else f'{shown[:57]}…'})"


def spoken(text: str) -> str:
    """A reason as a sentence of its own; t.1 and t.5 keep their small letter."""
    if text.startswith("t."):
        begun = text
    else:
        begun = f"{text[:1].upper()}{text[1:]}"
    if begun.endswith((".", "?")):
        return begun
    return f"{begun}."


Places = Iterable[tuple[str, ...]]


def path_of(location: Iterable[int | str], unions: Places = ()) -> str:
    """`lights[0].power`. pydantic puts the chosen kind of a union into the location; the document has no such level.

    unions: the places of unions in the document, `*` for any position in a list.
    """
    text = ""
    above: tuple[str, ...] = ()
    for key in location:
        if above in unions and isinstance(key, str):
            # the chosen kind: a level that the document has not, after which nothing else is a
            # union
            above = ()
            continue
        text += f"[{key}]" if isinstance(key, int) else f".{key}" if text else str(key)
        above = (*above, "*" if isinstance(key, int) else key)
    return text


def refused(
    error: ValidationError, unions: Places = (), within: str = ""
) -> DocumentError:
    """The reader's refusal as problems with their paths, the first hundred of them."""
    problems = []
    # A hostile document can break every rule a million times.
    for each in error.errors(include_url=False)[:MOST_PROBLEMS]:
        path = path_of(each["loc"], tuple(unions))
        problems.append(
            Problem(
                f"{within}.{path}" if within and path else within or path,
                sentence(each),
            )
        )
    return DocumentError(problems)


_NOT_STORABLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff]")


def storable(text: str) -> bool:
    """Whether a text can be stored and shown: no control characters but line ends and tabs, no half of a pair."""
    return not _NOT_STORABLE.search(text)


def cleaned(text: str) -> str:
    """A text without what cannot be stored."""
    return _NOT_STORABLE.sub("", text)


def must_be_storable(text: str) -> str:
    """A validator of texts. Raises ValueError."""
    if not storable(text):
        raise ValueError("must not hold control characters or halves of characters")
    return text


def must_be_small(key: str, value: Any) -> None:
    """A validator of what is kept unread. Raises ValueError where it is deep, long, or cannot be stored."""
    left, layer = _EXTRA_CHARACTERS, [value]
    for _ in range(_EXTRA_DEPTH):
        below: list[Any] = []
        for each in layer:
            # A number is stored in about as many bytes.
            left -= len(each) if isinstance(each, str) else 8
            if isinstance(each, str):
                must_be_storable(each)
            elif isinstance(each, Mapping):
                below += [*each.keys(), *each.values()]
            elif isinstance(each, list | tuple):
                below += each
            if left < 0 or len(below) > _EXTRA_CHARACTERS:
                raise ValueError(
                    f"{key} is too large: keys that begin with x- hold up to {_EXTRA_CHARACTERS} characters"
                )
        if not below:
            return
        layer = below
    raise ValueError(f"{key} is nested too deeply: {_EXTRA_DEPTH} levels are kept")
