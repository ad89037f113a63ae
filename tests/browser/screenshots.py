"""Makes docs/screenshots/*.png from the demo world; run by script/screenshots, not part of the tests."""

import os
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from rapzel.bench.models import ColourRun, Trace
from rapzel.kit.models import Strobe
from rapzel.shoots.models import Scene, Shoot
from tests.apps.units import standing_in
from tests.browser.test_dialling import fire
from tests.browser.worlds import BENCH

TARGET = Path(os.environ.get("RAPZEL_SCREENSHOTS", "docs/screenshots"))
pytestmark = pytest.mark.looks_at_pictures
PLAIN = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}


def shoot(page: Page, name: str) -> None:
    page.wait_for_load_state("networkidle")
    page.evaluate("() => document.fonts.ready")
    page.wait_for_function("() => [...document.images].every((each) => each.complete)")
    page.screenshot(path=TARGET / f"{name}.png")


@pytest.fixture
def at(demo: Page, live_server):
    def go(address: str, **ids: int) -> Page:
        demo.goto(live_server.url + address.format(**ids))
        return demo

    return go


def test_main_views(at, demo: Page) -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    scene = {each.name: each.pk for each in Scene.objects.all()}
    lunge = scene["Lunge on black"]
    demo.set_viewport_size(PLAIN)
    at("/begin/")
    shoot(demo, "begin")
    at("/shoots/{pk}/", pk=Shoot.objects.get().pk)
    shoot(demo, "shoot")
    at("/scenes/{pk}/", pk=lunge)
    shoot(demo, "workbench")
    at("/scenes/{pk}/methods/", pk=lunge)
    shoot(demo, "methods")
    at("/scenes/{pk}/find/", pk=lunge)
    shoot(demo, "find")
    at("/scenes/{pk}/compare/", pk=lunge)
    shoot(demo, "compare")
    at("/scenes/{pk}/run-sheet/", pk=lunge)
    shoot(demo, "run-sheet")
    at("/scenes/{pk}/takes/", pk=lunge)
    shoot(demo, "takes")
    at("/scenes/{pk}/timing/", pk=scene["Arrow leaving the bow"])
    shoot(demo, "timing")
    at("/scenes/{pk}/tools/drops/", pk=scene["Wax drops above water"])
    shoot(demo, "drops")
    at("/practice/")
    shoot(demo, "practice")
    at("/kit/")
    shoot(demo, "kit")
    at("/kit/strobes/{pk}/", pk=Strobe.objects.get(name="Monobloc 600 quenched").pk)
    shoot(demo, "strobe")


@pytest.mark.parametrize("world", [BENCH])
def test_bench_and_kit(at, demo: Page) -> None:
    demo.set_viewport_size(PLAIN)
    at("/bench/")
    shoot(demo, "bench")
    at(
        "/bench/traces/{pk}/",
        pk=Trace.objects.get(name="Monobloc 600 quenched 1-16").pk,
    )
    demo.wait_for_function(
        "() => Number(document.querySelector('.plot').dataset.points) > 100"
    )
    shoot(demo, "trace")
    at("/bench/colour/{pk}/", pk=ColourRun.objects.get().pk)
    shoot(demo, "colour")
    at("/kit/compare/?t=1/6000")
    shoot(demo, "compare-strobes")


def test_dial_in(at, demo: Page, settings) -> None:
    """Four tries into a dial-in of the glass, with the picture of the last shot, in set mode."""
    demo.set_viewport_size(PLAIN)
    with standing_in() as settings.TRIGGER_UNIT:
        settings.TRIGGER_UNIT_PLAYS = True
        at("/scenes/{pk}/dial-in/", pk=Scene.objects.get(name="A glass that breaks").pk)
        demo.get_by_role("button", name="Dial in: Flash delay").click()
        demo.locator("#dial-form").wait_for()
        for tries, key in enumerate("elel", start=1):
            fire(demo)
            demo.keyboard.press(key)
            expect(demo.locator("input[name=seen]")).to_have_value(str(tries))
        fire(demo)
        demo.keyboard.press("d")
        shoot(demo, "dial-in")


def test_phone(at, demo: Page) -> None:
    lunge = Scene.objects.get(name="Lunge on black").pk
    demo.set_viewport_size(PHONE)
    at("/scenes/{pk}/", pk=lunge)
    shoot(demo, "workbench-phone")
