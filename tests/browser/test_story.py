"""The whole story: from the door to three logged takes, first by mouse, then by keyboard alone."""

import pytest
from playwright.sync_api import Page, expect

from rapzel.accounts.models import User
from rapzel.kit.models import Strobe
from rapzel.shoots.models import Scene
from rapzel.takes.models import Take
from tests.browser.hands import Held, mark, until
from tests.browser.worlds import EMPTY


def row(page: Page, number: int | str):
    """The log's row of one take."""
    return page.locator(
        "tr", has=page.get_by_role("rowheader", name=str(number), exact=True)
    )


def test_from_the_demo_to_three_takes_by_mouse(
    page: Page, live_server, watch, transactional_db
) -> None:
    page.goto(live_server.url)
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("link", name="Season brochure").click()
    page.get_by_role("link", name="Lunge on black").click()
    lunge = page
    expect(lunge.locator(".sentence")).to_contain_text(
        "Frozen to 1.8 px, no ghost, but 0.8 stop short of light"
    )
    lunge.locator("#f-lights-light-1-power").fill("1/32")
    expect(lunge.locator(".sentence")).to_contain_text("smeared over 2.4 px")
    strip = lunge.locator("#steps")
    strip.get_by_role("link", name="Compare").click()
    lunge.get_by_label("Name of the snapshot").fill("More key")
    lunge.get_by_role("button", name="Pin it as it is now").click()
    expect(lunge.get_by_role("region", name="More key")).to_be_visible()
    strip.get_by_role("link", name="Run sheet").click()
    expect(lunge.locator(".sheet")).to_contain_text("Black frame")
    expect(lunge.locator(".sheet")).to_contain_text("many sports forbid flash")
    with lunge.expect_download() as started:
        lunge.get_by_role("link", name="PDF").click()
    assert started.value.path().read_bytes().startswith(b"%PDF")
    strip.get_by_role("link", name="Takes 14").click()
    for number, outcome in enumerate(("Smear", "Late", "Keep"), start=15):
        lunge.get_by_label("Note").fill(f"Try {number}")
        lunge.get_by_role("button", name=outcome).click()
        expect(row(lunge, f"{number}")).to_contain_text(f"Try {number}")
    expect(lunge.locator(".totals")).to_contain_text("5 of 17 kept")
    expect(row(lunge, "15")).to_contain_text("Key Power 1/64 → 1/32")


def test_a_take_is_logged_by_one_key_and_a_note_by_three(lunge: Page) -> None:
    lunge.locator("body").press("t")
    lunge.get_by_role("heading", name="Takes").wait_for()
    lunge.locator("body").press("g")
    expect(row(lunge, "15")).to_contain_text("Ghost")
    lunge.keyboard.press("n")
    expect(lunge.get_by_label("Note")).to_be_focused()
    lunge.keyboard.type("keep the b and m keys quiet here")
    lunge.keyboard.press("Escape")
    lunge.keyboard.press("k")
    expect(row(lunge, "16")).to_contain_text("keep the b and m keys quiet here")
    assert list(
        Take.objects.filter(number__gt=14)
        .order_by("number")
        .values_list("outcome", flat=True)
    ) == [
        "ghost",
        "keep",
    ]
    lunge.get_by_role("button", name="Remove take 16").click()
    expect(lunge.locator(".notice")).to_contain_text("Take 16 was removed.")
    lunge.get_by_role("button", name="Undo").click()
    expect(row(lunge, "16")).to_be_visible()


def test_a_note_survives_a_reload_and_a_dropped_connection(lunge: Page, watch) -> None:
    lunge.locator("body").press("t")
    lunge.get_by_label("Note").fill("half written")
    lunge.reload()
    expect(lunge.get_by_label("Note")).to_have_value("half written")
    lunge.route("**/takes/add/", lambda route: route.abort())
    lunge.get_by_role("button", name="Keep").click()
    expect(lunge.locator(".take-form")).to_contain_text("1 waiting to be logged")
    expect(lunge.locator(".waiting li")).to_contain_text("half written")
    expect(lunge.get_by_label("Note")).to_have_value("")
    lunge.reload()
    expect(lunge.locator(".waiting li")).to_contain_text("half written")
    watch.found.clear()
    lunge.unroute("**/takes/add/")
    expect(row(lunge, "15")).to_contain_text("half written")
    expect(lunge.locator(".waiting li")).to_have_count(0)
    watch.found.clear()


def test_a_browser_without_a_database_asks_for_the_page_to_stay_open(
    lunge: Page, watch
) -> None:
    lunge.add_init_script(
        "Object.defineProperty(window, 'indexedDB', {value: undefined})"
    )
    lunge.reload()
    lunge.locator("body").press("t")
    again = Held(lunge, "**/takes/add/")
    lunge.route("**/takes/add/", lambda route: route.abort(), times=1)
    lunge.get_by_role("button", name="Keep").click()
    form = lunge.locator(".take-form")
    expect(form).to_contain_text("1 waiting to be logged: this browser has no room")
    expect(lunge.locator(".waiting li")).to_contain_text("not kept in this browser")
    again.let_go()
    expect(lunge.locator(".waiting li")).to_have_count(0)
    assert Take.objects.filter(number__gt=14).count() == 1
    watch.found.clear()


def test_a_take_that_waited_in_the_store_of_before_is_logged(
    lunge: Page, watch
) -> None:
    """As versions up to 0.7 kept it: a list a scene in localStorage."""
    scene = Scene.objects.get(name="Lunge on black")
    take = {
        "key": "kept-before",
        "at": "2027-05-10T09:30:00.000Z",
        "url": f"/scenes/{scene.pk}/takes/add/",
        "outcome": "late",
        "note": "from the basement",
    }
    lunge.evaluate(
        "([scene, take]) => localStorage.setItem("
        "`rapzel:takes:${document.body.dataset.user}:${scene}`, JSON.stringify([take]))",
        [scene.pk, take],
    )
    lunge.locator("body").press("t")
    expect(row(lunge, "15")).to_contain_text("from the basement")
    until(lambda: not waits_in_the_old_store(lunge), lunge)


def waits_in_the_old_store(page: Page) -> bool:
    return page.evaluate(
        "Object.keys(localStorage).some((name) => name.startsWith('rapzel:takes:'))"
    )


def test_a_take_whose_answer_was_lost_is_logged_once(lunge: Page, watch) -> None:
    """Its second sending, which comes by itself, is held back until the page has been seen to wait for it."""
    lunge.locator("body").press("t")
    lost: list[int] = []

    def lose(route) -> None:
        lost.append(route.fetch().status)  # it arrives, and its answer does not
        route.abort()

    again = Held(lunge, "**/takes/add/")
    lunge.route("**/takes/add/", lose, times=1)
    lunge.get_by_role("button", name="Late").click()
    expect(lunge.locator(".waiting li")).to_have_count(1)
    again.let_go()
    expect(lunge.locator(".waiting li")).to_have_count(0)
    assert lost == [200]
    assert Take.objects.filter(number__gt=14).count() == 1
    watch.found.clear()


def test_keys_are_listed_and_do_nothing_behind_the_list(lunge: Page) -> None:
    lunge.locator("body").press("?")
    dialog = lunge.get_by_role("dialog")
    expect(dialog).to_contain_text("Undo the last change")
    expect(dialog).to_contain_text("View: Shutter")
    address = lunge.url
    lunge.keyboard.press("t")
    mark(lunge)
    assert lunge.url == address
    expect(dialog).to_be_visible()
    lunge.keyboard.press("Escape")
    expect(dialog).to_be_hidden()


def test_set_mode_and_paper_are_remembered(lunge: Page) -> None:
    with lunge.expect_response("**/preferences/"):
        lunge.locator("body").press("d")
    expect(lunge.locator("html")).to_have_attribute("data-theme", "set")
    heights = lunge.eval_on_selector_all(
        ".workbench .tab, .inputs summary",
        "all => all.map(each => each.getBoundingClientRect().height)",
    )
    assert min(height for height in heights if height) >= 44
    brightest = lunge.evaluate(
        "() => Math.max(...[...document.querySelectorAll('body, .group, .entry')].flatMap(each => "
        "getComputedStyle(each).backgroundColor.match(/[\\d.]+/g).slice(0, 3).map(Number)))"
    )
    assert brightest < 50, "no area lights the black frame"
    lunge.reload()
    expect(lunge.locator("html")).to_have_attribute("data-theme", "set")
    lunge.get_by_role("button", name="Plan").click()
    lunge.get_by_role("button", name="demo").click()
    lunge.get_by_role("button", name="Paper").click()
    expect(lunge.locator("html")).to_have_attribute("data-theme", "paper")


@pytest.mark.parametrize("world", [EMPTY])
def test_a_newcomer_finds_the_way_from_nothing(
    page: Page, live_server, watch, transactional_db
) -> None:
    page.goto(live_server.url)
    page.locator("main").get_by_role("link", name="Sign up").click()
    page.get_by_label("Username").fill("newcomer")
    page.get_by_label("Password", exact=True).fill("seven moths at dusk")
    page.get_by_label("Password confirmation").fill("seven moths at dusk")
    page.get_by_role("button", name="Make the account").click()
    expect(page.locator("main")).to_contain_text("A shoot holds the scenes")
    page.get_by_role("link", name="Begin a shoot").click()
    page.get_by_role("button", name="A leap").click()
    expect(page.locator(".sentence")).to_contain_text("Frozen to")
    expect(page.locator(".notices")).to_contain_text("these are the starter")
    page.get_by_role("link", name="Kit", exact=True).click()
    page.get_by_role("button", name="Copy the starter kit").click()
    expect(page.get_by_role("link", name="Hot-shoe 60")).to_be_visible()
    page.get_by_role("link", name="Shoots").click()
    page.get_by_role("link", name="Begin a shoot").click()
    page.get_by_placeholder("Name of an empty shoot").fill("Harbour dance")
    page.get_by_role("button", name="Begin an empty one").click()
    page.get_by_role("link", name="First scene").first.click()
    expect(page.locator(".sentence")).to_contain_text("No light yet: add one")
    page.get_by_label("Add a light").select_option(label="Monobloc 600 quenched")
    expect(page.locator(".sentence")).not_to_contain_text("No light yet: add one")
    assert User.objects.get().username == "newcomer"


def test_the_kit_is_saved_as_it_is_changed(demo: Page, watch) -> None:
    watch.expected.add(422)
    demo.get_by_role("link", name="Kit").click()
    demo.get_by_role("link", name="Hot-shoe 60").click()
    demo.get_by_label("t.1").first.fill("3 ms")
    demo.get_by_label("t.1").first.press("Tab")
    expect(demo.locator("#kit-answer")).to_contain_text("Saved.")
    assert Strobe.objects.get(name="Hot-shoe 60").settings.first().t01_s == 0.003
    demo.get_by_label("Guide number").fill("large")
    demo.get_by_label("Guide number").press("Tab")
    expect(demo.locator("#kit-answer")).to_contain_text(
        "“large” is not a length. Accepted: 2.5 m"
    )
    expect(demo.get_by_label("Guide number")).to_have_value("large")
