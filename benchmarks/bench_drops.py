"""Drops scrubbed and solved, a knob's next value, and pages beside a unit that is dead or silent."""

import itertools
import socket

import pytest
from django.test import Client
from django.urls import reverse

from rapzel.accounts.models import User
from rapzel.core.tools import TOOLS
from rapzel.core.trigger.dial import Knob, Try, dialled
from rapzel.dialling.models import Shot
from rapzel.shoots.models import Scene, Shoot
from rapzel.shoots.services import add_scene
from tests.apps.dial_plans import DROPS
from tests.apps.units import behaving, wait_for_conversations


@pytest.fixture
def scene(transactional_db) -> Scene:
    owner = User.objects.create_user("busy", password="a long enough one")
    return add_scene(Shoot.objects.create(owner=owner, name="Shoot"), DROPS)


@pytest.fixture
def client_of(scene: Scene) -> Client:
    client = Client()
    client.force_login(scene.shoot.owner)
    return client


def test_time_is_dragged_along_the_drops(
    client_of, scene, benchmark, report, median_ms
) -> None:
    """The whole request of one step: inputs read, the kept plan taken, sentence, lists and drawing written."""
    url, instants = (
        reverse("tools:for_scene", args=[scene.pk, "drops"]),
        itertools.count(200),
    )

    def once() -> None:
        asked = {"shown_s": f"{next(instants)} ms"}
        assert (
            client_of.get(url, asked, headers={"HX-Request": "true"}).status_code == 200
        )

    benchmark.pedantic(once, rounds=40, iterations=1, warmup_rounds=3)
    report("a step of time along the drops", median_ms(benchmark), "ms", 50)


def test_drops_are_solved_anew(benchmark, report, median_ms) -> None:
    tool, heights = TOOLS["drops"], itertools.count(30_000)
    benchmark.pedantic(
        lambda: tool.solve(tool.read({**tool.beginning, "meet_height_m": next(heights) * 1e-6})),
        rounds=40, iterations=1, warmup_rounds=3,
    )  # fmt: skip
    report("drops solved with their spread", median_ms(benchmark), "ms", 40)


def test_the_next_value_of_a_knob(benchmark, report, median_ms) -> None:
    tries = [
        Try(0.2 + place * 0.001, "early" if place % 2 else "late")
        for place in range(10)
    ]
    # another knob each time: what was worked out once is kept
    jitters = itertools.count(2000)

    def once() -> None:
        dialled(Knob(1e-4, next(jitters) * 1e-6), tries)

    benchmark.pedantic(once, rounds=30, iterations=1, warmup_rounds=2)
    report("the next value after ten tries", median_ms(benchmark), "ms", 40)


@pytest.mark.parametrize("unit", ["dead", "silent"])
def test_a_page_beside_a_unit_that_does_not_answer(
    client_of, scene, settings, benchmark, report, median_ms, unit: str
) -> None:
    """Fire, and ask how far it is: what a person waits for, whatever the unit does."""

    def silent(connection: socket.socket) -> None:
        while connection.recv(1000):
            pass

    fire, look = (
        reverse(f"dialling:{name}", args=[scene.pk]) for name in ("fire", "unit")
    )

    def once() -> None:
        Shot.objects.all().delete()
        assert client_of.post(fire, {"channel": "1"}).status_code == 200
        assert client_of.get(look).status_code == 200

    with behaving(silent) as address:
        settings.TRIGGER_UNIT = "127.0.0.1:1" if unit == "dead" else address
        settings.TRIGGER_UNIT_PLAYS = True
        benchmark.pedantic(once, rounds=8, iterations=1, warmup_rounds=1)
        wait_for_conversations()
    report(f"two pages beside a {unit} unit", median_ms(benchmark), "ms", 400)
