"""Tools by keyboard, beside a scene, and the draft of the picture while a value is stepped."""

import re
from functools import partial

from playwright.sync_api import Locator, Page, expect

from rapzel.core.advice import advise_pairs
from tests.browser.hands import Held, hold_steps, until
from tests.browser.slow import ANSWERS
from tests.patience import ANSWER_S


def test_a_tool_answers_as_one_types_and_is_pinned_to_the_scene(lunge: Page) -> None:
    lunge.locator("#fold-tools").focus()
    lunge.keyboard.press("Enter")
    lunge.get_by_role("link", name="Open a tool with this scene").press("Enter")
    lunge.get_by_role("link", name="Open shutter").press("Enter")
    expect(lunge.locator("#id_open_s")).to_have_value("5 ms")
    visits = lunge.get_by_label("Visits a second")
    visits.fill("0.2")
    lunge.get_by_label("Shutter open").fill("5 s")
    expect(lunge.locator("#tool-answer .sentence")).to_contain_text(
        "Open for 5 s, 37 %"
    )
    lunge.reload()
    (
        expect(lunge.get_by_label("Shutter open")).to_have_value("5 s"),
        "what was typed stands in the address",
    )
    visits = lunge.get_by_label("Visits a second")
    visits.fill("often")
    expect(lunge.locator("#tool-answer")).to_contain_text("is not a plain number")
    visits.fill("0.4")
    expect(lunge.locator("#tool-answer .sentence")).to_contain_text("2.5 s is best")
    lunge.get_by_role("button", name="Pin to the scene").press("Enter")
    expect(lunge.locator(".notices")).to_contain_text("Pinned to “Lunge on black”")
    lunge.get_by_role("link", name="Lunge on black").click()
    expect(lunge.locator("#s-tools")).to_have_text("1 pinned")


DRAFT, WHOLE = re.compile(r"&draft=1$"), re.compile(r"\?v=\w+$")


def picture(page: Page) -> Locator:
    return page.locator("#rehearsal")


def rests(page: Page) -> None:
    """The whole picture is there, and it is the one of the scene as it stands."""
    expect(picture(page)).to_have_attribute("src", WHOLE)
    expect(page.locator("figure.rehearsal")).not_to_contain_class("waiting")
    expect(picture(page)).to_have_js_property("naturalWidth", 960)


def test_a_draft_comes_while_a_key_is_held_and_the_picture_when_it_is_let_go(
    lunge: Page,
) -> None:
    """Answers are held back by two seconds each, longer than any pause between two presses of a key."""
    ANSWERS.begin("", 2.0, 2.0, only=("/step/", "plan.jpg"))
    field = lunge.locator("#f-lights-light-1-power")
    field.focus()
    lunge.keyboard.down("ArrowUp")
    expect(field).to_have_value("1/32 −0.7")
    expect(picture(lunge)).to_have_attribute("src", DRAFT)
    lunge.keyboard.down("ArrowUp")  # the key repeats
    expect(field).to_have_value("1/32 −0.3")
    lunge.keyboard.up("ArrowUp")
    rests(lunge)
    ANSWERS.end()


def test_a_draft_comes_while_another_answer_is_on_its_way(lunge: Page) -> None:
    """Presses that come more quickly than answers: the first answer comes while the second press is on its way."""
    field = lunge.locator("#f-lights-light-1-power")
    steps = hold_steps(lunge, field)
    field.press("ArrowUp")
    with lunge.expect_request("**/step/"):
        steps.let_go()
    expect(picture(lunge)).to_have_attribute("src", DRAFT)
    steps.let_go()
    expect(field).to_have_value("1/32 −0.3")
    rests(lunge)


def test_a_draft_comes_where_pictures_take_longer_than_changes(lunge: Page) -> None:
    """The whole picture of the first press has not come when the second is answered: it is given up for a draft."""
    wholes = Held(lunge, re.compile(r"plan\.jpg\?v=\w+$"))
    field = lunge.locator("#f-lights-light-1-power")
    field.press("ArrowUp")
    until(lambda: len(wholes.routes) == 1, lunge)
    field.press("ArrowUp")
    expect(picture(lunge)).to_have_attribute("src", DRAFT)
    until(lambda: len(wholes.routes) == 2, lunge)
    given_up, last = wholes.routes
    until(lambda: given_up.request.failure is not None, lunge)
    last.continue_()
    rests(lunge)


def test_two_changes_are_looked_for_where_one_cannot_do_it(
    lunge: Page, monkeypatch
) -> None:
    patient = partial(advise_pairs, within_s=ANSWER_S)
    monkeypatch.setattr("rapzel.workbench.answer.advise_pairs", patient)
    lunge.locator("#f-lights-light-1-power").fill("1/16")
    lunge.locator("#f-lights-light-2-power").fill("1/16")
    lunge.locator("#fold-exposure").click()
    lunge.locator("#f-exposure-iso").fill("200")
    expect(lunge.locator("#s-exposure")).to_contain_text("ISO 200")
    pairs = lunge.locator("#pairs")
    expect(pairs).to_contain_text("with ISO 640")
    pairs.get_by_role("button").first.click()
    expect(lunge.locator("[data-margin=freeze]")).not_to_contain_text("does not work")
