"""Devices of a watch as lines of text, there and back, and what is no device."""

import pytest
from django.urls import reverse

from rapzel.core.shared.errors import UnitError
from rapzel.core.tools import TOOLS
from rapzel.tools.devices import dressed, parsed


def test_devices_there_and_back() -> None:
    devices = TOOLS["watch"].beginning["devices"]
    lines = dressed(devices)
    assert lines.splitlines()[1] == "Receiver; 2 AA; 25 mA; by day"
    assert dressed(parsed(lines)) == lines
    assert parsed("Flash; 2x4 aa nimh 2000 mAh; 0.004 A; 3 As") == [
        {
            "name": "Flash",
            "cells": {
                "kind": "AA",
                "series": 4,
                "parallel": 2,
                "chemistry": "nimh",
                "capacity_mah": 2000.0,
            },
            "standby_ma": 4.0,
            "event_mas": 3000.0,
        }
    ]


@pytest.mark.parametrize(("line", "says"), [
    ("", "one to 20 devices"),
    ("Flash", "with its cells and what it takes"),
    ("Flash; 4 AA", "with its cells and what it takes"),
    ("Flash; 4 AAAA; 4 mA", "“4 AAAA” is not a term of a device"),
    ("Flash; 4 AA; 1.2.3 mA", "is not a number"),
    ("Flash; 4 AA 1..2 mAh; 4 mA", "is not a charge"),
    ("\n".join(["Flash; 4 AA; 4 mA"] * 21), "one to 20 devices"),
])  # fmt: skip
def test_what_is_no_device_is_explained(line: str, says: str) -> None:
    with pytest.raises(UnitError, match=says):
        parsed(line)


@pytest.mark.parametrize("sent", [
    {"devices": "x" * 100_000}, {"devices": "Flash; 4 AA; 4 mA", "wake_s": "1e400 s"}, {"lies": "soup"},
    {"devices": "Flash; 0 AA; 4 mA"}, {"events_per_night": "-3"},
])  # fmt: skip
def test_hostile_inputs_are_words_on_the_page(visitor, sent: dict) -> None:
    slug = "beam" if "lies" in sent else "watch"
    answer = visitor.get(reverse("tools:page", args=[slug]), sent)
    assert answer.status_code == 200
    assert 'class="field-error"' in answer.content.decode()
