"""The simulated trigger unit by its published lines: what it keeps, fires and reports, and its faults."""

import socket
import threading
from collections.abc import Callable, Iterator

import pytest

from simulators.rig import FAULTS, STUCK_CHANNEL, Settings, played, settled_s
from simulators.unit import Server
from tests.patience import ANSWER_S

Ask = Callable[[str], str]


@pytest.fixture
def ask() -> Iterator[Ask]:
    """One connection to a unit of its own: a request in, the answer's line out."""
    with Server() as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        with socket.create_connection(
            ("127.0.0.1", server.port), timeout=ANSWER_S
        ) as connection:
            file = connection.makefile("rw", newline="\n")
            file.write("UNIT test\n")

            def asked(request: str) -> str:
                file.write(f"{request}\n")
                file.flush()
                return file.readline().rstrip("\n")

            yield asked
        server.shutdown()


def _pairs(answer: str) -> dict[str, str]:
    return dict(part.partition("=")[::2] for part in answer.split()[2:])


def test_a_shot_from_setting_to_report(ask: Ask) -> None:
    assert ask("1 HELLO") == (
        "1 OK unit=simulated-trigger protocol=1 step_s=0.0001 jitter_s=2e-05 plays=yes"
    )
    assert (
        ask("2 SET channel=3 flash_channel=3 delay_s=0.36084 second_s=0.1386") == "2 OK"
    )
    assert _pairs(ask("3 GET")) == {
        "channel": "3",
        "delay_s": "0.3608",
        "second_s": "0.1386",
    }
    assert ask("4 ARM shot-1") == "4 OK"
    assert _pairs(ask("5 STATE")) == {"state": "armed", "token": "shot-1"}
    assert _pairs(ask("6 REPORT shot-1")) == {"state": "armed"}
    assert "armed; DISARM first" in ask("7 SET channel=1")
    ask("8 EVENT")
    report = _pairs(ask("9 REPORT shot-1"))
    assert float(report["flash_s"]) == pytest.approx(0.3608, abs=2e-4)
    assert float(report["second_s"]) == pytest.approx(0.1386, abs=2e-4)
    assert (
        report["state"],
        report["pulses"],
        report["again_s"],
        report["answered"],
    ) == (
        "fired",
        "1",
        "-",
        "yes",
    )


def test_a_token_fires_once(ask: Ask) -> None:
    """A request that is sent again because its answer was lost must not fire again."""
    ask("1 ARM shot-1")
    ask("2 EVENT")
    first = ask("3 REPORT shot-1")[2:]
    ask("4 ARM shot-1")
    assert _pairs(ask("5 STATE"))["state"] == "idle"
    ask("6 EVENT")
    assert ask("7 REPORT shot-1")[2:] == first


@pytest.mark.parametrize(
    ("request_", "says"),
    [
        ("nonsense", "0 ERR a request is a number, a verb"), ("1 FOO", "1 ERR no such request"),
        ("1 SET gain=1", "1 ERR no such setting; known: channel"), ("1 SET channel=17", "1 ERR channel lies between 1"),
        ("1 SET channel=x", "1 ERR channel is a number"), ("1 SET channel=1_0", "1 ERR channel is a number"),
        ("1 SET channel=٣", "1 ERR channel is a number"), ("1 SET delay_s=0_1", "1 ERR delay_s is a number"),
        ("1 SET delay_s=61", "1 ERR delay_s lies between"), ("٣ HELLO", "0 ERR"),
        ("1 SET delay_s=nan", "1 ERR delay_s is a number in digits"),
        ("1 ARM a b", "1 ERR a token"), ("1 FAULT tired", "1 ERR a fault is one of"), ("1 ANSWER x", "1 ERR no such"),
        ("", "0 ERR"), ("1 SET " + "x" * 600, "0 ERR"), ("1 __CLASS__", "0 ERR"),
    ],
)  # fmt: skip
def test_what_it_refuses_it_says(ask: Ask, request_: str, says: str) -> None:
    assert ask(request_).startswith(says)
    assert ask("2 STATE") == "2 OK state=idle token=-"


def test_asleep_it_only_wakes(ask: Ask) -> None:
    ask("1 FAULT asleep")
    assert ask("2 GET") == "2 ERR asleep; WAKE first"
    assert _pairs(ask("3 STATE"))["state"] == "asleep"
    assert _pairs(ask("4 WAKE"))["state"] == "idle"
    assert ask("5 GET").startswith("5 OK")


def test_a_stuck_channel_and_a_double_trigger(ask: Ask) -> None:
    ask("1 FAULT channel")
    ask("2 SET channel=2 flash_channel=2")
    assert _pairs(ask("3 GET"))["channel"] == str(STUCK_CHANNEL)
    ask("4 FAULT double")
    ask("5 SET channel=2")
    ask("6 ARM two")
    ask("7 EVENT")
    report = _pairs(ask("8 REPORT two"))
    assert report["pulses"] == "2"
    assert float(report["again_s"]) > float(report["flash_s"]) + 0.05
    assert report["answered"] == "yes"


def test_its_truth_is_the_sets_and_its_scatter_each_events() -> None:
    """The same seed is the same set: late by one amount, about which events scatter as they were told to."""
    import random  # noqa: PLC0415  for this test alone

    rig = Settings(seed=5, late_within_s=0.01, jitter_s=0.001, delay_s=0.2)
    assert abs(rig.rig_late_s) <= 0.01
    assert (
        Settings(seed=5, late_within_s=0.01).rig_late_s
        == rig.rig_late_s
        != rig.second_late_s
    )
    events = [played(rig, "none", random.Random(draw)) for draw in range(400)]
    late = [event.rig_late_s for event in events]
    assert sum(late) / len(late) == pytest.approx(rig.rig_late_s, abs=2e-4)
    assert max(late) - min(late) > 0.003
    assert all(event.flash_s == pytest.approx(0.2, abs=2e-4) for event in events)


def test_times_are_kept_in_its_steps() -> None:
    assert settled_s(0.123449) == 0.1234
    assert settled_s(0.0) == 0.0
    assert len(FAULTS) == 7


def test_one_unit_for_all_keeps_one_state_whatever_name_is_called() -> None:
    with Server(one=True) as server:
        assert server.unit("scene-1") is server.unit("scene-2")
    with Server() as server:
        assert server.unit("scene-1") is not server.unit("scene-2")
