"""The request that answers a changed input, in a database as full as a busy year leaves it."""

import copy
import gc
import html
import itertools
import re
import sys
import time
from collections.abc import Iterator

import pytest
from django.template.base import Template
from django.test import Client
from django.urls import reverse

from rapzel.accounts.models import User
from rapzel.config.warm import settle
from rapzel.kit.services import copy_starter_kit
from rapzel.shoots.models import Scene, Shoot
from rapzel.takes.models import Take
from tests.plans import LUNGE

SCENES, TAKES = 1000, 20_000


@pytest.fixture(autouse=True)
def templates_as_in_a_web_process(monkeypatch: pytest.MonkeyPatch) -> None:
    """Django's test set-up sends a signal with a copy of the context for each template; a web process does not."""
    monkeypatch.setattr(
        Template, "_render", lambda self, context: self.nodelist.render(context)
    )


@pytest.fixture
def full(db) -> Iterator[tuple[Client, Scene]]:
    owner = User.objects.create_user("busy", password="a long enough one")
    copy_starter_kit(owner)
    shoots = Shoot.objects.bulk_create(
        Shoot(owner=owner, name=f"Shoot {n}") for n in range(50)
    )
    scenes = Scene.objects.bulk_create(
        Scene(
            shoot=shoots[n % 50],
            name=f"Scene {n}",
            position=n,
            document=copy.deepcopy(LUNGE),
        )
        for n in range(SCENES)
    )
    Take.objects.bulk_create(
        (
            Take(
                scene=scenes[n % SCENES],
                number=n // SCENES + 1,
                outcome="keep",
                document=LUNGE,
            )
            for n in range(TAKES)
        ),
        batch_size=1000,
    )
    client = Client()
    client.force_login(owner)
    scene = scenes[SCENES // 2]
    del scenes, shoots
    usual = gc.get_threshold(), sys.getswitchinterval()
    settle()  # as web processes do
    yield client, scene
    gc.unfreeze()
    gc.set_threshold(*usual[0])
    sys.setswitchinterval(usual[1])


def test_recompute(full, benchmark, report, median_ms) -> None:
    client, scene = full
    url = reverse("workbench:set", args=[scene.pk])
    # a scene that was never answered before, so that no cache answers
    isos = itertools.count(101)
    powers = itertools.cycle(["1/8", "1/16", "1/32", "1/64", "1/128"])

    def once() -> None:
        changes = (
            ("exposure.iso", str(next(isos))),
            ("lights[#light-1].power", next(powers)),
        )
        for path, value in changes:
            assert client.post(url, {"path": path, "value": value}).status_code == 200

    benchmark.pedantic(once, rounds=40, iterations=1, warmup_rounds=2)
    report(
        "recompute request, 1000 scenes, 20 000 takes",
        median_ms(benchmark) / 2,
        "ms",
        42,
    )


@pytest.mark.parametrize("name", ["workbench:scene", "takes:list", "workbench:sheet"])
def test_pages(full, benchmark, median_ms, report, name) -> None:
    client, scene = full
    url = reverse(name, args=[scene.pk])
    benchmark.pedantic(
        lambda: client.get(url), rounds=15, iterations=1, warmup_rounds=1
    )
    report(f"page {name}", median_ms(benchmark), "ms", 300)


def test_methods_page_with_its_pictures(full, benchmark, median_ms, report) -> None:
    """First with nothing kept, each time of a scene that nobody has compared; then again as a browser asks.

    A browser keeps the pictures: their addresses carry the fingerprints of what they show.
    """
    client, scene = full
    isos = itertools.count(101)

    def anew() -> None:
        scene.document["exposure"]["iso"] = float(next(isos))
        scene.save(update_fields=["document"])

    def look() -> None:
        body = client.get(reverse("finding:methods", args=[scene.pk])).content.decode()
        pictures = re.findall(r'src="(/scenes/[^"]+\.jpg[^"]*)"', body)
        assert pictures
        for picture in pictures:
            assert client.get(html.unescape(picture)).status_code == 200

    look()
    benchmark.pedantic(look, setup=anew, rounds=10)
    first = median_ms(benchmark)
    began = time.perf_counter()
    for _ in range(10):
        assert (
            client.get(reverse("finding:methods", args=[scene.pk])).status_code == 200
        )
    again = (time.perf_counter() - began) * 100
    report("methods page with its pictures, first", first, "ms", 400)
    report("methods page with its pictures, again", again, "ms", 100)
