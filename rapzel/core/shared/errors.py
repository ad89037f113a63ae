"""What the core refuses, in words that are fit to show a user."""

from collections.abc import Iterable
from typing import NamedTuple


class CoreError(Exception):
    """The root of every refusal of the core. str() of it is fit to show a user."""


class OutOfRange(CoreError, ValueError):
    """A figure lies where its formula does not hold."""

    def __init__(self, field: str, value: float, allowed: str, hint: str = "") -> None:
        self.field, self.value, self.allowed = field, value, allowed
        super().__init__(
            f"{field} is {value:g}, but must be {allowed}. {hint}".rstrip()
        )


class UnitError(CoreError, ValueError):
    """A text that a person wrote is not a quantity of the wanted kind."""

    def __init__(self, text: str, wanted: str, accepted: str) -> None:
        self.text, self.wanted, self.accepted = text, wanted, accepted
        if text.strip():
            said = f"“{text.strip()}” is not {wanted}"
        else:
            said = f"This needs {wanted}"
        super().__init__(f"{said}. Accepted: {accepted}.")


class Problem(NamedTuple):
    """One thing wrong with a document: where it stands and why it is refused."""

    path: str
    reason: str

    def __str__(self) -> str:
        if self.path:
            return f"{self.path}: {self.reason}"
        return self.reason


class DocumentError(CoreError, ValueError):
    """A document breaks its schema or describes something impossible."""

    def __init__(self, problems: Iterable[Problem]) -> None:
        self.problems = list(problems)
        super().__init__("\n".join(str(problem) for problem in self.problems))


def require_positive(**figures: float) -> None:
    """Raises OutOfRange for the first figure that is not above 0."""
    for field, value in figures.items():
        if not value > 0:
            raise OutOfRange(field, value, "a number above 0")
