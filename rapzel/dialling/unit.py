"""A trigger unit over its line protocol (docs/trigger-unit.md). Every wait has an end, and every failure its words."""

import re
import socket
import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager

CONNECT_S = 1.0
ANSWER_S = 1.5
SLOW_S = 0.3
_MOST_NOISE = 200  # lines that are no answers
_LONGEST_LINE = 2000

# ASCII digits alone: what other programs also read as numbers (1_0, digits of other scripts) is none here.
_FIGURE = re.compile(r"[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d{1,3})?", re.ASCII)

Pairs = dict[str, str]


class TriggerUnitError(Exception):
    """The unit did not do what was asked; str() is fit to show. `kind` is one word for the page."""

    def __init__(self, kind: str, says: str) -> None:
        self.kind = kind
        super().__init__(says)


class Unit:
    """A connection to one unit."""

    def __init__(self, connection: socket.socket) -> None:
        self._socket, self._rest, self._number, self._noise = connection, b"", 0, 0
        self.slowest_s = 0.0

    def ask(self, request: str) -> Pairs:
        """The key=value pairs of the unit's answer. Raises TriggerUnitError where it refuses, is silent, or babbles."""
        self._number += 1
        begin = time.monotonic()
        try:
            self._socket.sendall(f"{self._number} {request}\n".encode())
            said = self._answer(begin + ANSWER_S)
        except TimeoutError:
            raise TriggerUnitError(
                "silent",
                f"The unit is connected but says nothing: no answer to {request.split(maxsplit=1)[0]} within "
                f"{ANSWER_S:g} s. Switch it off and on, then fire again.",
            ) from None
        except OSError:
            raise TriggerUnitError(
                "broke off", "The unit broke off. Check its cable, then fire again."
            ) from None
        self.slowest_s = max(self.slowest_s, time.monotonic() - begin)
        return self._pairs(request, said)

    def tell(self, line: str) -> None:
        """A line without an answer."""
        try:
            self._socket.sendall(f"{line}\n".encode())
        except OSError:
            raise TriggerUnitError(
                "broke off", "The unit broke off. Check its cable, then fire again."
            ) from None

    def _answer(self, until: float) -> str:
        begins = f"{self._number} "
        while True:
            line = self._line(until)
            # An answer bears the number of its question; what else comes is noise, or late.
            if line.startswith(begins):
                return _printable(line[len(begins) :])
            self._noise += 1
            if self._noise > _MOST_NOISE:
                raise TriggerUnitError(
                    "babbling",
                    "The unit talks without being asked, and does not answer. Something else uses its "
                    "line, or its speed is set wrong.",
                )

    def _line(self, until: float) -> str:
        while b"\n" not in self._rest:
            left = until - time.monotonic()
            if left <= 0:
                raise TimeoutError
            # One patience for the whole answer: a unit that drips a byte a second must not hold the
            # page.
            self._socket.settimeout(left)
            more = self._socket.recv(4096)
            if not more:
                raise ConnectionError
            self._rest += more
            if b"\n" not in self._rest and len(self._rest) > _LONGEST_LINE:
                raise TriggerUnitError(
                    "babbling", "The unit sends a line without an end."
                )
        line, _, self._rest = self._rest.partition(b"\n")
        return line[:_LONGEST_LINE].decode("utf-8", "replace").strip()

    @staticmethod
    def _pairs(request: str, said: str) -> Pairs:
        word, _, rest = said.partition(" ")
        if word == "OK":
            return dict(part.partition("=")[::2] for part in rest.split())
        if rest.startswith("asleep"):
            raise TriggerUnitError(
                "asleep", "The unit is asleep: wake it, then fire again."
            )
        raise TriggerUnitError(
            "refused", f"The unit refuses “{request[:80]}”: {rest[:160] or said[:160]}."
        )


def _printable(said: str) -> str:
    """An answer as it is. Raises TriggerUnitError where it holds what no text of the protocol does."""
    if said.isprintable():
        return said
    raise TriggerUnitError(
        "babbling",
        "The unit's answer holds control characters, which its protocol does not know. "
        "Check its cable and the speed of its line, then fire again.",
    )


@contextmanager
def connected(address: str) -> Iterator[Unit]:
    """A unit at host:port. Raises TriggerUnitError where nothing answers there."""
    host, _, port = address.rpartition(":")
    try:
        connection = socket.create_connection((host, int(port)), timeout=CONNECT_S)
    except (OSError, ValueError):
        raise TriggerUnitError(
            "dead",
            "The trigger unit does not answer. Is it on, its cable in? script/server starts a simulated one.",
        ) from None
    with connection:
        yield Unit(connection)


def figure(pairs: Mapping[str, str], key: str) -> float | None:
    """A number of an answer; None for `-`. Raises TriggerUnitError for what is none."""
    text = pairs.get(key, "-")
    if text == "-":
        return None
    if _FIGURE.fullmatch(text):
        value = float(text)
    else:
        value = float("nan")
    # Written so that nan fails, too.
    if not abs(value) < 1e5:
        raise TriggerUnitError(
            "babbling", f"The unit's answer makes no sense: {key} is “{text[:40]}”."
        )
    return value
