"""The bench simulator: a process on loopback that plays strobe, photodiode and scope. Protocol: README.md.

python -m simulators.instrument [PORT]     # prints the port it listens on; 0 takes a free one
"""

import socketserver
from dataclasses import fields, replace
from typing import Any

from simulators.light import FAULTS, STROBES, Settings, fitting, series, to_csv
from simulators.loopback import Loopback, port_asked, run

_RANGES = {
    "power": (1 / 512, 1.0), "volts": (0.01, 10.0), "offset_v": (-5.0, 5.0), "noise": (0.0, 0.5),
    "bandwidth_hz": (100.0, 1e9), "sampling_hz": (1000.0, 1e9), "sweep_s": (1e-6, 2.0), "pre_s": (0.0, 1.0),
    "lag_s": (0.0, 1.0), "lag_jitter_s": (0.0, 0.1), "bits": (1, 16), "seed": (0, 2**31),
}  # fmt: skip
_WORDS = {"strobe": tuple(STROBES), "fault": FAULTS}
_MOST_SAMPLES = 2_000_000


class Refused(ValueError):
    """A line that the bench does not understand; str() says what would be accepted."""


def _with(settings: Settings, key: str, value: Any) -> Settings:
    change: dict[str, Any] = {key: value}
    return replace(settings, **change)


def changed(settings: Settings, key: str, text: str) -> Settings:
    """The settings with one of them changed. Raises Refused."""
    if key in _WORDS:
        if text not in _WORDS[key]:
            raise Refused(f"{key} is one of: {', '.join(_WORDS[key])}")
        return _with(settings, key, text)
    if key not in _RANGES:
        raise Refused(f"no such setting; known: {', '.join((*_WORDS, *_RANGES))}")
    # A bench refuses what no such instrument could be set to.
    low, high = _RANGES[key]
    try:
        value = int(text) if key in ("bits", "seed") else float(text)
    except ValueError:
        raise Refused(f"{key} is a number") from None
    if not low <= value <= high:
        raise Refused(f"{key} lies between {low:g} and {high:g}")
    return _with(settings, key, value)


def answer(settings: Settings, line: str) -> tuple[Settings, str]:
    """What the bench says to a line, and its settings afterwards. Raises Refused."""
    verb, _, rest = line.strip().partition(" ")
    if verb == "SET":
        key, _, text = rest.strip().partition(" ")
        return changed(settings, key, text.strip()), "OK"
    if verb == "GET":
        return settings, "\n".join(
            f"{each.name} {getattr(settings, each.name)}" for each in fields(settings)
        )
    if verb == "LIST":
        return settings, "\n".join(STROBES)
    if verb == "FIT":
        return fitting(settings), "OK"
    if verb == "POP":
        if rest.strip().isdigit():
            pops = int(rest)
        else:
            pops = 1
        if not 1 <= pops <= 50:
            raise Refused("POP takes 1 to 50 pops")
        if settings.sweep_s * settings.sampling_hz * pops > _MOST_SAMPLES:
            raise Refused(
                f"that is more than {_MOST_SAMPLES} samples; lower sampling_hz or sweep_s"
            )
        # Each pop draws its own noise, and the whole series can be played again from its first
        # seed.
        return replace(settings, seed=settings.seed + 1), to_csv(
            series(settings, pops), settings
        ).rstrip("\n")
    raise Refused("lines begin with SET, GET, LIST, FIT, POP or QUIT")


class _Bench(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        settings = Settings()
        for raw in self.rfile:
            line = raw.decode("utf-8", errors="replace").strip()
            if line == "QUIT":
                return
            try:
                settings, says = answer(settings, line)
            except Refused as error:
                says = f"ERR {error}"
            self.wfile.write(f"{says}\nEND\n".encode())


class Server(Loopback):
    """Each connection is a bench of its own."""

    def __init__(self, port: int = 0) -> None:
        super().__init__(_Bench, port)


if __name__ == "__main__":
    run(Server(port_asked()))
