"""The simulated instrument: its line protocol, its refusals, and pops asked for from the page."""

import threading

import pytest
from django.urls import reverse

from rapzel.bench import instrument
from rapzel.bench.models import Trace
from simulators.instrument import Refused, Server, answer
from simulators.light import FAULTS, Settings


@pytest.fixture
def bench():
    server = Server(0)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"127.0.0.1:{server.port}"
    server.shutdown()
    server.server_close()


def test_a_pop_over_the_line_protocol(bench) -> None:
    text = instrument.pop(bench, "Hot-shoe 60", 1 / 8, "none", 2)
    assert text.count("Time (s),Light (V),Trigger (V)") == 2
    with instrument.connected(bench) as line:
        assert "Hot-shoe 60" in line.ask("LIST")
        assert "power 0.0625" in line.ask("GET")
        with pytest.raises(instrument.InstrumentError, match="power lies between"):
            line.ask("SET power 7")
    with pytest.raises(instrument.InstrumentError, match="does not answer"):
        instrument.pop("127.0.0.1:1", "Hot-shoe 60", 0.5, "none", 1)


@pytest.mark.parametrize(
    "line",
    [
        "",
        "HELLO",
        "SET",
        "SET fault magic",
        "SET volts many",
        "SET colour red",
        "POP 99",
    ],
)
def test_the_bench_refuses_in_words(line: str) -> None:
    with pytest.raises(Refused):
        answer(Settings(), line)


def test_the_bench_knows_every_fault() -> None:
    for fault in FAULTS:
        assert answer(Settings(), f"SET fault {fault}")[0].fault == fault


def test_pops_from_the_page(visitor, kit, bench, settings) -> None:
    assert (
        visitor.post(
            reverse("bench:pop"), {"strobe": "Hot-shoe 60", "power": "1/8"}
        ).status_code
        == 404
    )
    settings.BENCH_SIMULATOR = bench
    visitor.post(
        reverse("bench:pop"),
        {"strobe": "Hot-shoe 60", "power": "1/8", "pops": "2", "fault": "none"},
    )
    trace = Trace.objects.get()
    assert (trace.name, trace.strobe.name, trace.power) == (
        "Hot-shoe 60 at 1/8",
        "Hot-shoe 60",
        1 / 8,
    )
    typed = {"strobe": "Hot-shoe 60", "power": "loud", "pops": "7", "fault": "drift"}
    text = visitor.post(reverse("bench:pop"), typed, follow=True).content.decode()
    assert "is not a power" in text
    for kept in (
        "<option selected>Hot-shoe 60",
        'name="power" value="loud"',
        'value="7"',
        'value="drift" selected',
    ):
        assert kept in text, "nothing typed is lost to a refusal"
    assert Trace.objects.count() == 1
