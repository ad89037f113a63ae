"""Inputs: how one writes to a place of the document, and how it is read and shown.

Which inputs there are stands in `groups`; a place in the document that is not there cannot be set.
"""

import re
from collections.abc import Container
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from rapzel.core.document.places import Document, get
from rapzel.core.document.present import present
from rapzel.core.shared.errors import UnitError
from rapzel.core.shared.part import Part, inputs_of
from rapzel.core.shared.refusals import cleaned
from rapzel.ui.inputs import QUANTITIES
from rapzel.ui.words import Word, word_of_input
from rapzel.workbench.look import trail_m

Choices = tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Field:
    """One input: where it writes, how it is read and shown."""

    path: str
    label: str
    quantity: str = ""
    choices: Choices = ()
    optional: bool = False
    check: bool = False
    member: str = ""  # of a list of chosen words, for a check box
    text: str = ""
    hint: str = ""
    # least, most and step of a slider beside it
    slide: tuple[float, float, float] | None = None
    at: float | None = None  # where the slider stands
    empty: str = ""  # what holds while nothing is written

    @cached_property
    def key(self) -> str:
        """The field in an HTML id."""
        base = re.sub(r"[^A-Za-z0-9]+", "-", self.path)
        if self.member:
            return f"{base}-{self.member}"
        return base

    @property
    def word(self) -> Word | None:
        """What explains its label."""
        return word_of_input(self.path)

    @property
    def checked(self) -> bool:
        return self.text == "1"

    @property
    def structural(self) -> bool:
        """Whether other inputs come or go with it."""
        return not self.quantity

    def read(self, text: str, document: Document, imperial: bool) -> Any:
        """The value for the document from what was typed; raises UnitError with what is accepted."""
        if self.member:
            chosen = [
                word for word in get(document, self.path, []) if word != self.member
            ]
            if text == "1":
                return [*chosen, self.member]
            return chosen
        if self.check:
            return text == "1"
        if self.choices:
            if text not in dict(self.choices):
                raise UnitError(
                    text,
                    "a choice offered here",
                    ", ".join(key or "none" for key, _ in self.choices),
                )
            return text or None
        if self.optional and not text.strip():
            return None
        if not self.quantity:
            return cleaned(text).strip()[:200]
        return self._measured(text, document, imperial)

    def _measured(self, text: str, document: Document, imperial: bool) -> Any:
        if self.quantity == "trail":
            return trail_m(text, document, imperial)
        value = QUANTITIES[self.quantity].parse(text, imperial)
        if self.quantity == "count":
            return int(value)
        return value

    def stepped(self, value: float, direction: int) -> float:
        """The value one step up (+1) or down (-1)."""
        return QUANTITIES[self.quantity].step(value, direction)


@dataclass(frozen=True)
class Section:
    """Fields that belong together; one light, one link, or the whole of a group."""

    fields: list[Field]
    title: str = ""
    note: str = ""
    kind: str = ""  # light or link, for the buttons that go with it
    item: str = ""  # the identity of the light or link
    more: list[Field] = field(default_factory=list)  # folded away: what is set once

    @property
    def key(self) -> str:
        """The section's fold in the page."""
        return f"{self.kind}-{self.item}"


@dataclass(frozen=True)
class Group:
    """One step of the job: its name, its state in words, and its inputs."""

    key: str
    title: str
    state: str
    sections: list[Section] = field(default_factory=list)
    pickers: tuple[str, ...] = ()


class Reader:
    """Reads a document into fields that show its values."""

    def __init__(self, document: Document, imperial: bool) -> None:
        self.document, self.imperial = present(document), imperial

    def quantity(
        self,
        path: str,
        label: str,
        quantity: str,
        optional: bool = False,
        hint: str = "",
    ) -> Field:
        text = QUANTITIES[quantity].show(get(self.document, path), self.imperial)
        return Field(path, label, quantity, optional=optional, text=text, hint=hint)

    def slider(
        self,
        path: str,
        label: str,
        slide: tuple[float, float, float],
        as_is: float | None,
    ) -> Field:
        """Optional stops with a slider beside the input; unset it stands where things are."""
        value, text = get(self.document, path), QUANTITIES["stops"].show
        low, high, _ = slide
        if value is None:
            shown = as_is
        else:
            shown = value
        if isinstance(shown, int | float):
            at = min(max(shown, low), high)
        else:
            at = (low + high) / 2
        if as_is is None:
            empty = "as it is"
        else:
            empty = f"as it is, {text(as_is, self.imperial)}"
        return Field(
            path,
            label,
            "stops",
            optional=True,
            text=text(value, self.imperial),
            slide=slide,
            at=at,
            empty=empty,
            hint=f"empty: {empty}",
        )

    def choice(self, path: str, label: str, choices: Choices) -> Field:
        return Field(path, label, choices=choices, text=get(self.document, path) or "")

    def check(self, path: str, label: str) -> Field:
        return Field(
            path, label, check=True, text="1" if get(self.document, path) else "0"
        )

    def member(self, path: str, word: str, label: str) -> Field:
        return Field(
            path,
            label,
            check=True,
            member=word,
            text="1" if word in get(self.document, path, []) else "0",
        )

    def words(self, path: str, label: str) -> Field:
        return Field(path, label, text=get(self.document, path) or "")

    def part(
        self, path: str, part: type[Part], leave_out: Container[str] = ()
    ) -> list[Field]:
        """The inputs that a part of the document brings along: its fields with a label, in their order."""
        return [
            self.quantity(
                f"{path}.{asked.name}",
                asked.label,
                asked.quantity,
                asked.default is None,
                asked.hint,
            )
            for asked in inputs_of(part)
            if asked.name not in leave_out
        ]


def in_words(each: Field) -> str:
    """What an input shows, as a sentence would say it."""
    if each.check:
        if each.checked:
            return "yes"
        return "no"
    return dict(each.choices).get(each.text, each.text)
