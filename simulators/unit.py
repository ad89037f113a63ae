"""The simulated trigger unit: a process on loopback with the line protocol of docs/trigger-unit.md.

python -m simulators.unit [PORT] [--one] [--slow]

Prints the port it listens on; 0 takes a free one. --one: one unit with one state for all who talk to it, as a real one
is; else each name that is asked for has its own. --slow: every answer takes its time.
"""

import argparse
import contextlib
import random
import re
import socketserver
import threading
import time
from collections import OrderedDict
from dataclasses import dataclass, field, replace
from typing import Any

from simulators.loopback import Loopback, run
from simulators.rig import (
    FAULTS,
    STEP_S,
    Event,
    Settings,
    played,
    settled_s,
    with_fault,
)

_SLOW_S = 0.6
_UNITS = 500  # kept at most; the one that was asked longest ago goes first
# ASCII and short: a line is a request or noise, and never anything to be guessed at.
_REQUEST = re.compile(r"(\d{1,6}) ([A-Z]{2,10})(?: (.{0,400}))?", re.ASCII)
_NUMBER = re.compile(r"[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d{1,3})?", re.ASCII)
_RANGES = {
    "channel": (1, 16), "flash_channel": (1, 16), "delay_s": (0, 60), "second_s": (0, 60), "unit_jitter_s": (0, 0.1),
    "seed": (0, 2**31), "late_within_s": (0, 1), "jitter_s": (0, 1),
}  # fmt: skip
_WHOLE = ("channel", "flash_channel", "seed")
_IN_STEPS = ("delay_s", "second_s")


class Refused(ValueError):
    """A request that is not done; str() says what would be."""


@dataclass
class Unit:
    """One unit: what is set, which shot it waits for, and what the last ones did."""

    name: str
    settings: Settings = field(default_factory=Settings)
    fault: str = "none"
    armed: str = ""
    fired: "OrderedDict[str, Event]" = field(default_factory=OrderedDict)

    @property
    def state(self) -> str:
        """One word."""
        if self.fault == "asleep":
            # Asleep goes before armed: a unit that sleeps fires nothing, whatever it was told.
            return "asleep"
        if self.armed:
            return "armed"
        return "idle"

    def answer(self, verb: str, rest: str) -> str:
        """What it says to a request, without its number. Raises Refused."""
        # What a sleeping unit still hears (docs/trigger-unit.md).
        if self.fault == "asleep" and verb not in ("HELLO", "STATE", "WAKE", "FAULT"):
            raise Refused("asleep; WAKE first")
        done = getattr(self, f"_{verb.lower()}", None)
        if done is None:
            raise Refused(
                "no such request; known: HELLO STATE SET GET ARM DISARM REPORT WAKE EVENT FAULT"
            )
        return str(done(rest))

    def _hello(self, rest: str) -> str:
        variation = f"jitter_s={self.settings.unit_jitter_s!r}"
        return (
            f"unit=simulated-trigger protocol=1 step_s={STEP_S!r} {variation} plays=yes"
        )

    def _state(self, rest: str) -> str:
        return f"state={self.state} token={self.armed or '-'}"

    def _set(self, rest: str) -> str:
        if self.armed:
            raise Refused("armed; DISARM first")
        given: dict[str, Any] = {}
        for part in rest.split():
            key, _, text = part.partition("=")
            # All of them are checked before one is set, so that a refused line changes nothing.
            given[key] = _value(key, text)
        self.settings = with_fault(replace(self.settings, **given), self.fault)
        return ""

    def _get(self, rest: str) -> str:
        s = self.settings
        if s.second_s is None:
            second = "-"
        else:
            second = repr(s.second_s)
        return f"channel={s.channel} delay_s={s.delay_s!r} second_s={second}"

    def _arm(self, rest: str) -> str:
        if not re.fullmatch(r"[\w-]{1,40}", rest):
            raise Refused("a token of letters, digits and dashes")
        # A token that was fired is not fired again: an ARM whose answer was lost may be repeated.
        if rest not in self.fired:
            self.armed = rest
        return ""

    def _disarm(self, rest: str) -> str:
        self.armed = ""
        return ""

    def _event(self, rest: str) -> str:
        """The stand-in's own: it plays the event itself."""
        if self.armed:
            # By unit and token: the same shot comes out the same, however often it is played.
            draw = random.Random(f"{self.name} {self.armed}")
            self.fired[self.armed] = played(self.settings, self.fault, draw)
            self.armed = ""
            while len(self.fired) > 20:
                self.fired.popitem(last=False)
        return ""

    def _report(self, rest: str) -> str:
        event = self.fired.get(rest)
        if event is None:
            # “Unknown” is said of any other token; silence would leave the asker waiting.
            return f"state={'armed' if self.armed == rest else 'unknown'}"
        if event.second_s is None:
            second = "-"
        else:
            second = f"{event.second_s:.7f}"
        if event.again_s is None:
            again = "-"
        else:
            again = f"{event.again_s:.7f}"
        return (
            f"state=fired pulses={event.pulses} flash_s={event.flash_s:.7f} second_s={second} again_s={again} "
            f"channel={self.settings.channel} answered={'yes' if event.answered else 'no'} "
            f"rig_late_s={event.rig_late_s:.7f} rig_second_late_s={event.rig_second_late_s:.7f}"
        )

    def _wake(self, rest: str) -> str:
        if self.fault == "asleep":
            self.fault = "none"
        return f"state={self.state}"

    def _fault(self, rest: str) -> str:
        if rest not in FAULTS:
            raise Refused(f"a fault is one of: {' '.join(FAULTS)}")
        # The fault is that it listens on the wrong channel; away with it, it listens on the first.
        if self.fault == "channel":
            self.settings = replace(self.settings, channel=1)
        self.fault, self.armed = rest, ""
        return ""


def _value(key: str, text: str) -> int | float | None:
    if key not in _RANGES:
        raise Refused(f"no such setting; known: {' '.join(_RANGES)}")
    if key == "second_s" and text == "-":
        return None
    low, high = _RANGES[key]
    # float() would take “nan”, “1_0” and digits of other scripts.
    if not _NUMBER.fullmatch(text) or (key in _WHOLE and not text.isdigit()):
        raise Refused(f"{key} is a number in digits from 0 to 9")
    value = int(text) if key in _WHOLE else float(text)
    if not low <= value <= high:
        raise Refused(f"{key} lies between {low} and {high}")
    return settled_s(value) if key in _IN_STEPS else value


class _Talk(socketserver.StreamRequestHandler):
    server: "Server"

    def handle(self) -> None:
        # Whoever names no unit speaks to the one that has none.
        unit = self.server.unit("-")
        with contextlib.suppress(OSError):
            for raw in self.rfile:
                line = raw[:500].decode("utf-8", errors="replace").strip()
                # the stand-in's own: one process plays many units
                if line.startswith("UNIT "):
                    unit = self.server.unit(line[5:45])
                    continue
                self._say(unit, line)

    def _say(self, unit: Unit, line: str) -> None:
        found = _REQUEST.fullmatch(line)
        with self.server.lock:
            fault = unit.fault
            said = self._said(unit, found)
        if found is not None and found[2] == "FAULT":
            fault = "none"  # however it is, a fault can be taken away
        if fault == "silent":
            return
        if fault == "slow" or self.server.slow:
            time.sleep(_SLOW_S)
        # Until the asker hangs up: its reader must bear a line that never makes sense.
        while fault == "babbling":
            self.wfile.write(b"* 7f 7f 00 41 noise on the line\n" * 20)
            time.sleep(0.002)
        self.wfile.write(f"{said}\n".encode())

    @staticmethod
    def _said(unit: Unit, found: "re.Match[str] | None") -> str:
        if found is None:
            return "0 ERR a request is a number, a verb, and what it takes"
        number, verb, rest = found.groups()
        try:
            return f"{number} OK {unit.answer(verb, (rest or '').strip())}".rstrip()
        except Refused as error:
            return f"{number} ERR {error}"


class Server(Loopback):
    """Units are called by name and keep their state between connections; `one` plays the same for every name."""

    def __init__(self, port: int = 0, one: bool = False, slow: bool = False) -> None:
        self.lock = threading.Lock()
        self.one, self.slow = one, slow
        self._units: OrderedDict[str, Unit] = OrderedDict()
        super().__init__(_Talk, port)

    def unit(self, name: str) -> Unit:
        """The unit of a name, made when it is first asked for."""
        if self.one:
            name = "-"
        with self.lock:
            # Taken out and put back last, so that the first is the one that was asked longest ago.
            unit = self._units.pop(name, None) or Unit(name)
            self._units[name] = unit
            while len(self._units) > _UNITS:
                self._units.popitem(last=False)
            return unit

    def handle_error(self, request: Any, client_address: Any) -> None:
        """An asker that went away is nothing to tell of."""


def _asked() -> argparse.Namespace:
    parser = argparse.ArgumentParser(description="The simulated trigger unit.")
    parser.add_argument("port", nargs="?", type=int, default=0)
    parser.add_argument(
        "--one", action="store_true", help="one state for all who talk to it"
    )
    parser.add_argument(
        "--slow", action="store_true", help="every answer takes its time"
    )
    return parser.parse_args()


if __name__ == "__main__":
    asked = _asked()
    run(Server(asked.port, asked.one, asked.slow))
