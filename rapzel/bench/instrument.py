"""The bench's instrument over its line protocol (simulators/README.md), a simulated one for now."""

import socket
from collections.abc import Iterator
from contextlib import contextmanager

_TIMEOUT_S = 10.0


class InstrumentError(Exception):
    """The instrument did not answer, or refused; str() is fit to show."""


class Instrument:
    """A connection to one bench."""

    def __init__(self, connection: socket.socket) -> None:
        self._file = connection.makefile("rw", encoding="utf-8", newline="\n")

    def ask(self, line: str) -> str:
        """The instrument's answer to a line. Raises InstrumentError where it refuses or falls silent."""
        self._file.write(f"{line}\n")
        self._file.flush()
        lines = []
        for answer in self._file:
            if answer == "END\n":
                break
            lines.append(answer)
        else:
            raise InstrumentError("The bench broke off. Start it again and repeat.")
        said = "".join(lines).rstrip("\n")
        if said.startswith("ERR "):
            raise InstrumentError(f"The bench refuses “{line}”: {said[4:]}.")
        return said


@contextmanager
def connected(address: str) -> Iterator[Instrument]:
    """A bench at host:port. Raises InstrumentError where nothing answers there."""
    host, _, port = address.rpartition(":")
    try:
        with socket.create_connection(
            (host, int(port)), timeout=_TIMEOUT_S
        ) as connection:
            yield Instrument(connection)
    except (OSError, ValueError) as error:
        raise InstrumentError(
            "The simulated bench does not answer. script/server starts it."
        ) from error


def pop(address: str, strobe: str, power: float, fault: str, pops: int) -> str:
    """Sweeps of a strobe at a power [share of full], as CSV."""
    with connected(address) as bench:
        for line in (
            f"SET strobe {strobe}",
            f"SET power {power!r}",
            f"SET fault {fault}",
            "FIT",
        ):
            bench.ask(line)
        return bench.ask(f"POP {pops}") + "\n"
