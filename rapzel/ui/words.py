"""The words of the interface: what each means, and which inputs and tiles it explains."""

import re
import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path

_FILE = Path(__file__).with_name("words.toml")


@dataclass(frozen=True)
class Word:
    """A term with its meaning. inputs: paths of the scene that it explains, `[]` for any item; margin: its tile."""

    key: str
    term: str
    says: str
    inputs: tuple[str, ...] = ()
    margin: str = ""


@cache
def words() -> dict[str, Word]:
    """All words by their keys, in the order of the file."""
    rows = tomllib.loads(_FILE.read_text("utf-8"))["word"]
    read = (Word(**{**row, "inputs": tuple(row.get("inputs", ()))}) for row in rows)
    return {word.key: word for word in read}


@cache
def _by_input() -> dict[str, Word]:
    return {path: word for word in words().values() for path in word.inputs}


@cache
def _by_margin() -> dict[str, Word]:
    return {word.margin: word for word in words().values() if word.margin}


def word_of_input(path: str) -> Word | None:
    """The word that explains an input; None where none does."""
    # An item is called by its identity or its place: lights[light-1].power.
    return _by_input().get(re.sub(r"\[[^\]]*\]", "[]", path))


def word_of_margin(name: str) -> Word | None:
    """The word that explains a tile."""
    return _by_margin().get(name)
