"""What is typed is neither lost nor sent behind one's back: drafts, tabs, dropped connections, ended sessions."""

import re

import pytest
from django.contrib.sessions.models import Session
from playwright.sync_api import Page, expect

from rapzel.shoots import history, light_services, services
from rapzel.shoots.models import Scene
from rapzel.takes.models import Take
from tests.browser.hands import Held, hold_steps, mark, nothing_is_sent, until


def stored(name: str = "Lunge on black") -> dict:
    return Scene.objects.get(name=name).document


def iso(page: Page):
    if not page.locator("#g-exposure").evaluate("each => each.open"):
        page.locator("#fold-exposure").click()
    return page.locator("#f-exposure-iso")


def test_a_refused_draft_is_offered_and_never_sends_itself(lunge: Page, watch) -> None:
    watch.expected.add(422)
    lunge.clock.install()
    iso(lunge).fill("4oo")
    expect(lunge.locator("#e-exposure-iso")).to_contain_text(
        "“4oo” is not an ISO speed"
    )
    lunge.reload()
    expect(iso(lunge)).to_have_value("400")
    draft = lunge.locator("#d-exposure-iso")
    expect(draft).to_contain_text("You had typed “4oo”. Use it Forget it")
    services.change_scene(
        Scene.objects.get(name="Lunge on black"), {"exposure.iso": 800.0}
    )
    with nothing_is_sent(lunge):
        lunge.reload()
        expect(iso(lunge)).to_have_value("800")
        expect(draft).to_contain_text("the value has changed since")
        expect(draft.get_by_role("button", name="Use it")).to_have_count(0)
    assert stored()["exposure"]["iso"] == 800
    draft.get_by_role("button", name="Forget it").click()
    lunge.reload()
    expect(iso(lunge)).to_have_value("800")
    expect(draft).to_be_empty()


def test_a_draft_is_used_when_asked_for(lunge: Page, watch) -> None:
    lunge.route("**/set/", lambda route: route.abort())
    iso(lunge).fill("1600")
    expect(lunge.locator("#e-exposure-iso")).to_contain_text("Not saved yet")
    lunge.reload()
    iso(lunge)
    assert stored()["exposure"]["iso"] == 400
    lunge.unroute("**/set/")
    lunge.locator("#d-exposure-iso").get_by_role("button", name="Use it").click()
    expect(lunge.locator("#s-exposure")).to_contain_text("ISO 1600")
    expect(lunge.locator("#d-exposure-iso")).to_be_empty()
    watch.found.clear()


def test_what_is_typed_offline_and_left_stays_until_it_is_acknowledged(
    lunge: Page, watch
) -> None:
    field = iso(lunge)
    lunge.context.set_offline(True)
    field.fill("1600")
    field.press("Tab")
    expect(lunge.locator("#e-exposure-iso")).to_contain_text("Not saved yet")
    expect(field).to_have_value("1600")
    lunge.locator("#f-exposure-f-number").focus()
    expect(field).to_have_value("1600"), "nothing restores it while it waits"
    lunge.context.set_offline(False)
    expect(lunge.locator("#e-exposure-iso")).to_be_empty()
    expect(lunge.locator("#s-exposure")).to_contain_text("ISO 1600")
    assert stored()["exposure"]["iso"] == 1600
    watch.found.clear()


def test_after_the_session_ended_one_logs_in_again_and_goes_on(
    lunge: Page, live_server, watch
) -> None:
    watch.expected.add(401)
    Session.objects.all().delete()
    iso(lunge).fill("1600")
    door = lunge.locator("#logged-out")
    expect(door).to_contain_text("You are logged out. What you typed stays here.")
    (
        expect(lunge.locator(".sentence")).to_contain_text("Frozen to 1.8 px"),
        "no other page is swapped into this one",
    )
    assert stored()["exposure"]["iso"] == 400
    other = lunge.context.new_page()
    other.goto(f"{live_server.url}/account/login/")
    other.get_by_role("button", name="Open the demo").click()
    other.get_by_role("heading", name="Shoots").wait_for()
    lunge.bring_to_front()
    lunge.evaluate("() => window.dispatchEvent(new Event('focus'))")
    expect(lunge.locator("#s-exposure")).to_contain_text("ISO 1600")
    expect(door).to_be_hidden()
    assert stored()["exposure"]["iso"] == 1600


def test_a_change_reaches_the_light_it_was_typed_for(lunge: Page, watch) -> None:
    """The first light goes in another tab; the rim light is then the first one, and still the rim light."""
    light_services.remove_light(Scene.objects.get(name="Lunge on black"), "light-1")
    lunge.locator("#f-lights-light-2-power").fill("1/128")
    expect(lunge.locator(".notice")).to_contain_text(
        "Changed in another tab meanwhile: removing a light."
    )
    expect(lunge.locator("#f-lights-light-1-power")).to_have_count(0)
    expect(lunge.locator("#f-lights-light-2-power")).to_be_focused()
    (light,) = stored()["lights"]
    assert (light["name"], light["power"]) == ("Rim", 1 / 128)


def test_a_change_for_a_light_that_is_gone_changes_nothing(lunge: Page, watch) -> None:
    watch.expected.add(409)
    light_services.remove_light(Scene.objects.get(name="Lunge on black"), "light-2")
    before = stored()
    lunge.locator("#f-lights-light-2-power").fill("1/128")
    expect(lunge.locator(".notice")).to_contain_text(
        "That input is no longer in this scene; nothing was set."
    )
    expect(lunge.locator("#f-lights-light-2-power")).to_have_count(0)
    assert stored() == before


def test_what_is_typed_before_the_scripts_have_come_is_sent(lunge: Page) -> None:
    """A slow connection: the page is there, its scripts are held back until something has been typed."""
    script = Held(lunge, "**/fields*.js")
    with lunge.expect_request("**/fields*.js"):
        lunge.reload(wait_until="commit")
    field = lunge.locator("#f-lights-light-1-power")
    field.fill("1/128")
    script.let_go()
    expect(lunge.locator("#s-lights")).to_contain_text("Key 1/128")
    assert stored()["lights"][0]["power"] == 1 / 128


def test_what_is_typed_while_steps_are_on_their_way_is_what_counts(lunge: Page) -> None:
    """A slow server: two steps of an arrow key wait for their answers when a value is typed."""
    field = lunge.locator("#f-lights-light-1-power")
    steps = hold_steps(lunge, field)
    field.press("ArrowUp")
    field.fill("1/8")
    field.press("Enter")
    with lunge.expect_request("**/step/"):
        steps.let_go()
    expect(field).to_have_value("1/8")
    steps.let_go()
    expect(lunge.locator("#s-lights")).to_have_text("Key 1/8, Rim 1/64")
    expect(field).to_have_value("1/8")
    assert stored()["lights"][0]["power"] == 1 / 8


def test_what_is_typed_after_a_step_goes_after_it(lunge: Page) -> None:
    """What was typed before the step waits, too; when it leaves at last, the input says something newer already."""
    field = lunge.locator("#f-lights-light-1-power")
    steps = hold_steps(lunge, field)
    field.fill("1/8")
    field.press("Enter")
    field.press("ArrowDown")
    field.fill("1/32")
    field.press("Enter")
    with lunge.expect_request("**/step/"):
        steps.let_go()
    steps.let_go()
    expect(lunge.locator("#s-lights")).to_have_text("Key 1/32, Rim 1/64")
    expect(field).to_have_value("1/32")
    mark(lunge)
    assert stored()["lights"][0]["power"] == 1 / 32


def test_what_is_marked_stays_marked_when_a_step_is_answered(lunge: Page) -> None:
    """So that the next key replaces the value, as it would have a moment before."""
    field = lunge.locator("#f-lights-light-1-power")
    steps = hold_steps(lunge, field)
    field.press("Control+a")
    steps.let_go()
    expect(field).to_have_value("1/32 −0.7")
    lunge.keyboard.type("1/8")
    expect(lunge.locator("#s-lights")).to_have_text("Key 1/8, Rim 1/64")
    expect(field).to_have_value("1/8")


def test_undo_does_not_take_back_the_other_tabs_change_unasked(
    lunge: Page, watch
) -> None:
    watch.expected.add(409)
    scene = Scene.objects.get(name="Lunge on black")
    services.change_scene(scene, {"exposure.iso": 800.0}, "ISO")
    lunge.locator("body").press("u")
    expect(lunge.locator(".notice")).to_contain_text("Nothing was undone")
    expect(lunge.locator("#s-exposure")).to_contain_text("ISO 800")
    assert stored()["exposure"]["iso"] == 800
    lunge.locator("body").press("u")
    expect(lunge.locator("#s-exposure")).to_contain_text("ISO 400")
    assert history.redo(Scene.objects.get(pk=scene.pk)) == "ISO"


def test_focus_stays_after_undo_and_after_a_proposal(lunge: Page) -> None:
    power = lunge.locator("#f-lights-light-1-power")
    power.fill("1/32")
    expect(lunge.locator(".sentence")).to_contain_text("smeared")
    lunge.locator("#undo").focus()
    lunge.keyboard.press("Enter")
    expect(power).to_have_value("1/64")
    expect(lunge.locator("#undo")).to_be_focused()
    fix = lunge.get_by_role("button", name="ISO 800")
    fix.focus()
    lunge.keyboard.press("Enter")
    expect(lunge.locator(".sentence")).to_contain_text("bright enough")
    (
        expect(lunge.locator("#answer")).to_be_focused(),
        "the link is gone; its place is not",
    )


def test_an_undo_pressed_at_once_is_not_undone_by_a_late_send(lunge: Page) -> None:
    """Leaving the input sends what was typed; the pause after typing would send it again, behind the undo."""
    lunge.clock.install()
    lunge.reload()
    power = lunge.locator("#f-lights-light-1-power")
    power.fill("1/32")
    with lunge.expect_response("**/undo/"):
        lunge.locator("#undo").click()
    with nothing_is_sent(lunge):
        expect(power).to_have_value("1/64")
    expect(power).to_have_value("1/64")
    assert (
        Scene.objects.get(name="Lunge on black").document["lights"][0]["power"]
        == 1 / 64
    )


def test_escape_leaves_a_field(lunge: Page) -> None:
    field = lunge.locator("#f-lights-light-1-power")
    field.focus()
    field.press("Escape")
    expect(field).not_to_be_focused()
    lunge.keyboard.press("t")
    lunge.get_by_role("heading", name="Takes").wait_for()


def test_back_shows_the_scene_as_it_is_now(lunge: Page) -> None:
    lunge.get_by_role("link", name="Run sheet").click()
    services.change_scene(
        Scene.objects.get(name="Lunge on black"), {"exposure.iso": 1250.0}
    )
    lunge.go_back()
    expect(lunge.locator("#s-exposure")).to_contain_text("ISO 1250")
    services.change_scene(
        Scene.objects.get(name="Lunge on black"), {"exposure.iso": 1600.0}
    )
    lunge.evaluate(
        "() => window.dispatchEvent(new PageTransitionEvent('pageshow', {persisted: true}))"
    )
    expect(lunge.locator("#s-exposure")).to_contain_text("ISO 1600")
    expect(iso(lunge)).to_have_value("1600")


def has_worker(page: Page) -> bool:
    """Whether the service worker is at work in this browser."""
    asks = "async () => Boolean(((await navigator.serviceWorker.getRegistration()) || {}).active)"
    return bool(page.evaluate(asks))


def kept_pages(page: Page) -> int:
    """How many pages the service worker keeps in this browser."""
    return page.evaluate(
        "async () => (await caches.has('rapzel-pages')) ? (await (await caches.open('rapzel-pages')).keys())"
        ".filter(each => /takes|run-sheet/.test(each.url)).length : 0"
    )


def reaches_rapzel(page: Page) -> bool:
    """Whether the page's service worker gets an answer from the server."""
    asks = "() => fetch('/healthz').then((answer) => answer.ok, () => false)"
    return bool(page.context.service_workers[-1].evaluate(asks))


class TestOffline:
    @pytest.fixture
    def browser_context_args(self, browser_context_args: dict) -> dict:
        return {**browser_context_args, "service_workers": "allow"}

    def test_sheet_and_log_of_an_opened_scene_work_without_network(
        self, lunge: Page, live_server, watch
    ) -> None:
        until(lambda: has_worker(lunge), lunge)
        # a page that was on its way when the worker came is not answered for by it
        lunge.reload()
        lunge.wait_for_function("() => navigator.serviceWorker.controller !== null")
        until(lambda: kept_pages(lunge) == 3, lunge)
        scene = Scene.objects.get(name="Lunge on black")
        lunge.context.set_offline(True)
        lunge.goto(f"{live_server.url}/scenes/{scene.pk}/run-sheet/?phone")
        expect(lunge.locator(".phone-sheet")).to_contain_text("Black frame")
        lunge.get_by_role("link", name="log the tries").click()
        lunge.get_by_role("heading", name="Takes").wait_for()
        for outcome in ("Late", "Keep"):
            lunge.get_by_role("button", name=outcome).click()
        expect(lunge.locator(".take-form")).to_contain_text("2 waiting to be logged")
        assert Take.objects.filter(scene=scene).count() == 14
        lunge.goto(f"{live_server.url}/kit/")
        expect(lunge.locator("h1")).to_have_text("No connection")
        lunge.context.set_offline(False)
        # The worker, which answers for the page, has its network back a moment after the page has.
        until(lambda: reaches_rapzel(lunge), lunge)
        lunge.goto(f"{live_server.url}/shoots/")
        expect(lunge.get_by_role("heading", name="Shoots")).to_be_visible()
        lunge.goto(f"{live_server.url}/scenes/{scene.pk}/takes/")
        expect(lunge.locator(".waiting li")).to_have_count(0)
        late, keep = Take.objects.filter(scene=scene, number__gt=14).order_by("number")
        assert (late.outcome, keep.outcome) == ("late", "keep")
        assert late.at < keep.at, "the times are those of the tries"
        lunge.get_by_role("button", name="demo", exact=True).click()
        lunge.get_by_role("button", name="Log out").click()
        lunge.get_by_role("heading", name=re.compile("Stop the motion")).wait_for()
        until(lambda: kept_pages(lunge) == 0, lunge)
        watch.found.clear()
