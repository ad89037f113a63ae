"""Accessible by axe, at every width, in every theme; nothing wider than its screen."""

from pathlib import Path

import pytest
from playwright.sync_api import Page

from rapzel.accounts.models import User
from rapzel.bench.models import ColourRun, Trace
from rapzel.dialling import services as dialling
from rapzel.kit.models import Camera, Strobe
from rapzel.shoots.models import Scene, Shoot
from rapzel.shoots.services import change_scene
from rapzel.shoots.workbench import answered
from tests.apps.rows import colour_row, trace_row

AXE = (Path(__file__).resolve().parents[2] / "node_modules/axe-core/axe.min.js").read_text("utf-8")
PAGES = {
    "login": "/account/login/",
    "sign-up": "/account/sign-up/",
    "shoots": "/shoots/",
    "shoot": "/shoots/{shoot}/",
    "scene": "/scenes/{scene}/",
    "takes": "/scenes/{scene}/takes/",
    "compare": "/scenes/{scene}/compare/",
    "run sheet": "/scenes/{scene}/run-sheet/",
    "phone sheet": "/scenes/{scene}/run-sheet/?phone",
    "kit": "/kit/",
    "strobe": "/kit/strobes/{strobe}/",
    "compare strobes": "/kit/compare/",
    "bench": "/bench/",
    "trace": "/bench/traces/{trace}/",
    "confirm": "/bench/traces/{trace}/confirm/",
    "lag": "/bench/traces/{trace}/lag/",
    "colours": "/bench/colour/",
    "colour": "/bench/colour/{run}/",
    "account": "/account/",
    "begin": "/begin/",
    "cut-out": "/scenes/{scene}/cut-out/",
    "methods": "/scenes/{scene}/methods/",
    "find": "/scenes/{scene}/find/",
    "curtains": "/bench/curtains/?shutter1=1/400&dark1=34&shutter2=1/800&dark2=73",
    "camera": "/kit/cameras/{camera}/",
    "tools": "/tools/",
    "tool": "/scenes/{scene}/tools/open-shutter/",
    "watch": "/tools/watch/",
    "beam tool": "/tools/beam/",
    "timing": "/scenes/{scene}/timing/",
    "dial-in": "/scenes/{scene}/dial-in/",
    "dialling": "/scenes/{dialled}/dial-in/",
    "drops": "/tools/drops/",
    "dial tool": "/tools/dial-in/",
    "practice": "/practice/",
    "broken scene": "/scenes/{broken}/",
}


def addresses() -> dict[str, str]:
    owner = User.objects.get(username="demo")
    trace, run = (
        Trace.objects.first() or trace_row(owner),
        ColourRun.objects.first() or colour_row(owner),
    )
    ids = {"trace": trace.pk, "run": run.pk}
    ids |= {
        "shoot": Shoot.objects.get().pk,
        "scene": Scene.objects.first().pk,
        "strobe": Strobe.objects.first().pk,
    }
    ids |= {"dialled": _dialled_scene().pk}
    ids |= {"camera": Camera.objects.first().pk, "broken": _broken_scene().pk}
    return {name: address.format(**ids) for name, address in PAGES.items()}


def _dialled_scene() -> Scene:
    """The drops of the demo, two tries into a dial-in, with another knob moved as well."""
    scene = Scene.objects.get(name__contains="Wax")
    if dialling.open_of(scene) is None:
        dial_in = dialling.begin(scene, "trigger.set_delay_s", by_eye=False)
        for told in ("early", "late"):
            dialling.record(dialling.Dialling(dial_in, scene, answered(scene.document)), told)
        change_scene(scene, {"drops.second_set_s": 0.15})
    return scene


def _broken_scene() -> Scene:
    """The last scene of the demo, as a newer rule would refuse it."""
    scene = Scene.objects.order_by("pk").last()
    assert scene is not None
    document = {**scene.document, "motion": {**scene.document["motion"], "colour": "red"}}
    Scene.objects.filter(pk=scene.pk).update(document=document)
    return scene


EVERYTHING = "{runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']}"
CONTRAST = "{runOnly: {type: 'rule', values: ['color-contrast']}}"  # all that a theme changes


def serious(page: Page, rules: str) -> list[str]:
    page.evaluate(AXE)
    found = page.evaluate(f"() => axe.run(document, {rules})")
    worst = [each for each in found["violations"] if each["impact"] in ("serious", "critical")]
    return [f"{each['id']}: {each['nodes'][0]['html'][:160]}" for each in worst]


@pytest.mark.parametrize("theme", ["dark", "paper", "set"])
def test_axe_finds_nothing_serious(demo: Page, live_server, watch, theme: str) -> None:
    watch.expected.add(422)  # what the broken scene is answered with
    found: dict[str, list[str]] = {}
    for name, address in addresses().items():
        if name in ("login", "sign-up") and theme != "dark":
            continue
        demo.goto(live_server.url + address)
        demo.evaluate("theme => { document.documentElement.dataset.theme = theme; }", theme)
        if name == "scene":
            for summary in demo.locator(".inputs > .group > summary").all():
                if not summary.evaluate("each => each.parentElement.open"):
                    summary.click()
            demo.locator("[data-margin=light]").click()
        problems = serious(demo, EVERYTHING if theme == "dark" else CONTRAST)
        if problems:
            found[name] = problems
    assert found == {}


@pytest.mark.parametrize("width", [390, 1280, 1920])
def test_no_page_is_wider_than_the_screen(demo: Page, live_server, watch, width: int) -> None:
    watch.expected.add(422)  # what the broken scene is answered with
    demo.set_viewport_size({"width": width, "height": 844})
    for name, address in addresses().items():
        demo.goto(live_server.url + address)
        assert demo.evaluate("() => document.documentElement.scrollWidth") <= width, name


def test_text_can_be_doubled_without_losing_the_answer(demo: Page, live_server) -> None:
    demo.goto(live_server.url + addresses()["scene"])
    demo.evaluate("() => { document.documentElement.style.fontSize = '200%'; }")
    assert demo.locator(".sentence").is_visible()
    assert demo.evaluate("() => document.documentElement.scrollWidth") <= 1280
