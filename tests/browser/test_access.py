"""Accessible by axe, at every width, in every theme; nothing wider than its screen."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page

from rapzel.accounts.models import User
from rapzel.bench.models import ColourRun, Trace
from rapzel.dialling import services as dialling
from rapzel.dialling.state import Dialling, open_of
from rapzel.kit.models import Camera, Strobe
from rapzel.shoots.models import Scene, Shoot
from rapzel.shoots.services import change_scene
from rapzel.workbench.answer import answered
from tests.apps.rows import colour_row, trace_row
from tests.browser.hands import settled

AXE = (
    Path(__file__).resolve().parents[2] / "node_modules/axe-core/axe.min.js"
).read_text("utf-8")
NARROW = 900  # px; below it pages of a scene have drawings of their own (workbench.js)
PAGES = {
    "login": "/account/login/",
    "sign-up": "/account/sign-up/",
    "help": "/help/",
    "words": "/help/words/",
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
    if open_of(scene) is None:
        dial_in = dialling.begin(scene, "trigger.set_delay_s", by_eye=False)
        for told in ("early", "late"):
            state = Dialling(dial_in, scene, answered(scene.document))
            dialling.record(state, dialling.Judgement(told))
        change_scene(scene, {"drops.second_set_s": 0.15})
    return scene


def _broken_scene() -> Scene:
    """The last scene of the demo, as a newer rule would refuse it."""
    scene = Scene.objects.order_by("pk").last()
    assert scene is not None
    document = {
        **scene.document,
        "motion": {**scene.document["motion"], "colour": "red"},
    }
    Scene.objects.filter(pk=scene.pk).update(document=document)
    return scene


# Only what is wrong is worked out to the end, and shown by its HTML: no selectors are made.
TOLD = "resultTypes: ['violations'], selectors: false"
EVERYTHING = f"{{runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'], {TOLD}}}"
# all that a theme changes
CONTRAST = f"{{runOnly: {{type: 'rule', values: ['color-contrast']}}, {TOLD}}}"
RULES = {"dark": EVERYTHING, "paper": CONTRAST, "set": CONTRAST}
WIDTHS = (390, 1280, 1920)
ROUNDS = 6  # that the pages are shared among, so that every core takes some


def serious(page: Page, rules: str) -> list[str]:
    found = page.evaluate(f"() => axe.run(document, {rules})")
    worst = [
        each
        for each in found["violations"]
        if each["impact"] in ("serious", "critical")
    ]
    return [f"{each['id']}: {each['nodes'][0]['html'][:160]}" for each in worst]


def unfold(page: Page) -> None:
    """Opens every group of inputs, and the working of a margin."""
    for summary in page.locator(".inputs > .group > summary").all():
        if not summary.evaluate("each => each.parentElement.open"):
            summary.click()
    page.locator("[data-margin=light]").click()


def problems_in_themes(page: Page) -> list[str]:
    page.evaluate(AXE)
    found = []
    for theme, rules in RULES.items():
        page.evaluate(
            "theme => { document.documentElement.dataset.theme = theme; }", theme
        )
        found += [f"{theme}: {problem}" for problem in serious(page, rules)]
    return found


def resize(page: Page, width: int) -> None:
    """Another width; a page with drawings of its own for a narrow screen has asked for them and got them."""
    before = page.evaluate("() => window.innerWidth")
    renews = page.locator(".workbench").count() and (before < NARROW) != (
        width < NARROW
    )
    if not renews:
        page.set_viewport_size({"width": width, "height": 844})
        return
    with page.expect_response(re.compile("anew=1")):
        page.set_viewport_size({"width": width, "height": 844})
    settled(page)


def too_wide(page: Page) -> list[str]:
    found = []
    for width in WIDTHS:
        resize(page, width)
        taken = page.evaluate("() => document.documentElement.scrollWidth")
        if taken > width:
            found.append(f"{taken} px wide on a screen of {width}")
    return found


@pytest.mark.parametrize("part", range(ROUNDS))
def test_every_page_is_accessible_in_every_theme_and_fits_every_screen(
    insider: Page, live_server, watch, part: int
) -> None:
    watch.expected.add(422)  # what the broken scene is answered with
    found: dict[str, list[str]] = {}
    for name, address in list(addresses().items())[part::ROUNDS]:
        insider.goto(live_server.url + address)
        if name == "scene":
            unfold(insider)
        problems = problems_in_themes(insider) + too_wide(insider)
        if problems:
            found[name] = problems
    assert found == {}


def test_text_can_be_doubled_without_losing_the_answer(lunge: Page) -> None:
    lunge.evaluate("() => { document.documentElement.style.fontSize = '200%'; }")
    assert lunge.locator(".sentence").is_visible()
    assert lunge.evaluate("() => document.documentElement.scrollWidth") <= 1280
