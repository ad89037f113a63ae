"""What is done before the page's scripts have come is done when they are there: on a slow line nothing is lost."""

import re
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Page, expect

from rapzel.shoots.models import Scene
from rapzel.takes.models import Take
from tests.browser.hands import Held

SCRIPTS = re.compile(r"/vendor/(htmx|alpine)\.js")


def scene() -> Scene:
    return Scene.objects.get(name="Lunge on black")


@contextmanager
def without_scripts(page: Page, address: str) -> Iterator[None]:
    """The page as it is shown before its scripts have come, which then do."""
    scripts = Held(page, SCRIPTS)
    page.goto(address, wait_until="commit")
    yield
    for _ in ("htmx", "alpine"):
        scripts.let_go()


def test_a_take_is_logged_once_with_its_note(demo: Page, live_server) -> None:
    with without_scripts(demo, f"{live_server.url}/scenes/{scene().pk}/takes/"):
        demo.get_by_label("Note").fill("before the scripts")
        for _ in range(2):  # pressed again, as nothing seems to happen
            demo.get_by_role("button", name="Smear").click()
    row = demo.locator("tr", has=demo.get_by_role("rowheader", name="15", exact=True))
    expect(row).to_contain_text("before the scripts")
    expect(demo.get_by_label("Note")).to_be_empty()
    assert (
        Take.objects.filter(scene=scene(), outcome="smear", number__gte=15).count() == 1
    )


def test_a_key_logs_a_take(demo: Page, live_server) -> None:
    with without_scripts(demo, f"{live_server.url}/scenes/{scene().pk}/takes/"):
        expect(demo.get_by_role("button", name="Smear")).to_be_visible()
        for _ in range(2):  # pressed again, as nothing seems to happen
            demo.keyboard.press("s")
    expect(demo.get_by_role("rowheader", name="15", exact=True)).to_be_visible()
    demo.keyboard.press("k")  # comes after whatever was kept
    expect(demo.locator("#log tbody tr").first).to_contain_text("Keep")
    expect(demo.locator("#log tbody tr").first).to_contain_text("16")


def test_inputs_of_a_scene_are_set_and_folds_open(demo: Page, live_server) -> None:
    with without_scripts(demo, f"{live_server.url}/scenes/{scene().pk}/"):
        demo.locator("#f-lights-light-1-power").fill("1/32")
        demo.locator("#fold-motion").click()
    expect(demo.locator(".sentence")).to_contain_text("smeared over 2.4 px")
    expect(demo.locator("#f-motion-kind")).to_be_visible()
    assert abs(scene().document["lights"][0]["power"] - 1 / 32) < 1e-6


def test_each_step_is_made(demo: Page, live_server) -> None:
    with without_scripts(demo, f"{live_server.url}/scenes/{scene().pk}/"):
        for _ in range(2):
            demo.locator("#f-lights-light-1-power").press("ArrowUp")
    expect(demo.locator("#f-lights-light-1-power")).to_have_value("1/32 −0.3")


def test_a_limit_is_chosen(demo: Page, live_server) -> None:
    with without_scripts(demo, f"{live_server.url}/scenes/{scene().pk}/methods/"):
        demo.get_by_label("Lights at most").fill("1")
        demo.get_by_label("Lights at most").press("Tab")
    # as it is while three are allowed
    expect(demo.locator("#found")).not_to_contain_text("two up to")
    expect(demo.locator("#found")).to_contain_text("Lights reach: one up to")


def test_fields_take_what_is_done_in_them_and_links_lead_on(
    demo: Page, live_server
) -> None:
    with without_scripts(demo, f"{live_server.url}/kit/compare/"):
        box = demo.get_by_role("checkbox").first
        before = box.is_checked()
        box.click()
        assert box.is_checked() is not before
        demo.get_by_role("link", name="Bench").click()
        expect(demo).to_have_url(re.compile("/bench/"))
