"""The way through: strip, folds of a narrow screen, go to or do, words in place, the first page."""

import re

from playwright.sync_api import Page, expect

from rapzel.shoots.models import Scene
from tests.browser.hands import settled

TITLES = [
    "Plan",
    "Methods",
    "Find",
    "Timing",
    "Dial in",
    "Run sheet",
    "Takes",
    "Compare",
]


def test_a_whole_job_is_walked_by_the_last_line_of_each_page(lunge: Page) -> None:
    """From the plan the next link leads through every page of the strip, without a word of explanation."""
    strip = lunge.locator("#steps a[aria-current=page]")
    expect(strip).to_contain_text("Plan")
    for title in TITLES[1:7]:
        lunge.locator("#next a").click()
        expect(strip).to_contain_text(title)
    lunge.locator("#next a").click()
    expect(lunge.locator("#scene-name")).to_have_text("Rice from a drumhead")


def test_keys_lead_through_the_strip_and_to_the_next_look(lunge: Page) -> None:
    for key, title in (
        ("m", "Methods"),
        ("t", "Takes"),
        ("c", "Compare"),
        ("w", "Plan"),
    ):
        lunge.keyboard.press(key)
        expect(lunge.locator("#steps a[aria-current=page]")).to_contain_text(title)
    lunge.keyboard.press("]")
    expect(lunge.locator("#scene-name")).to_have_text("Rice from a drumhead")
    lunge.keyboard.press("[")
    expect(lunge.locator("#scene-name")).to_have_text("Lunge on black")


def test_typing_goes_to_an_input_and_opens_the_folds_about_it(lunge: Page) -> None:
    lunge.keyboard.press("Control+k")
    typed = lunge.get_by_role("combobox", name="Go to or do")
    expect(typed).to_be_focused()
    typed.fill("curtain travel")
    expect(lunge.locator("#go-list li").first).to_contain_text("Curtain travel")
    typed.press("Enter")
    expect(lunge.locator("#f-camera-curtain-travel-s")).to_be_focused()


def test_typing_leads_from_any_page_to_an_input_of_the_scene(lunge: Page) -> None:
    lunge.keyboard.press("m")
    expect(lunge.locator("#steps a[aria-current=page]")).to_contain_text("Methods")
    lunge.keyboard.press("/")
    lunge.get_by_role("combobox", name="Go to or do").fill("sync speed")
    lunge.locator("#go-list li", has_text="Sync speed").first.click()
    expect(lunge.locator("#f-camera-sync-speed-s")).to_be_focused()


def test_typing_does_what_the_page_can_do(lunge: Page) -> None:
    lunge.keyboard.press("/")
    typed = lunge.get_by_role("combobox", name="Go to or do")
    typed.fill("on-set screen")
    expect(lunge.locator("#go-list li").first).to_contain_text("On-set screen")
    typed.press("Enter")
    expect(lunge.locator("html")).to_have_attribute("data-theme", "set")


def test_a_label_says_what_it_means_in_place(lunge: Page) -> None:
    mark = lunge.get_by_role("button", name="What is: light loss?").first
    mark.focus()
    mark.press("Enter")
    note = lunge.locator("#word")
    expect(note).to_contain_text("Stops lost on the way to the subject")
    expect(mark).to_have_attribute("aria-expanded", "true")
    lunge.keyboard.press("Escape")
    expect(note).to_be_hidden()
    expect(mark).to_be_focused()


def test_on_a_phone_one_line_is_left_and_the_rest_folds(lunge: Page) -> None:
    lunge.set_viewport_size({"width": 390, "height": 844})
    settled(lunge)
    bars = lunge.locator(".bars")
    box = bars.bounding_box()
    assert box is not None
    assert box["height"] <= 56
    lunge.get_by_role("button", name="Plan").click()
    for title in TITLES:
        expect(lunge.locator("#steps").get_by_role("link", name=title)).to_be_visible()
    expect(lunge.locator("#house").get_by_role("link", name="Kit")).to_be_visible()
    lunge.locator("#steps").get_by_role("link", name="Takes").click()
    expect(lunge.get_by_role("button", name="Takes 14")).to_be_visible()


def test_the_first_page_answers_to_a_slider_without_an_account(
    page: Page, live_server, watch, transactional_db
) -> None:
    page.goto(live_server.url)
    power = page.get_by_role("slider", name="Both strobes are set to")
    expect(page.locator("#power-says")).to_have_text("1/8")
    before = page.locator("#live-answer .sentence").inner_text()
    power.focus()
    for _ in range(6):
        power.press("ArrowRight")
    expect(page.locator("#power-says")).to_have_text("1/32")
    expect(page.locator("#live-answer .sentence")).not_to_have_text(before)
    expect(page.locator("#live-picture")).to_have_attribute(
        "src", re.compile(r"/14/15\.jpg")
    )


def test_the_plan_stays_in_two_lines_at_every_width(lunge: Page) -> None:
    name = "A very long name of a scene that somebody has typed to tell it from another"
    Scene.objects.filter(name="Lunge on black").update(name=name)
    for width in (900, 1024, 1280, 1920):
        lunge.set_viewport_size({"width": width, "height": 800})
        lunge.reload()
        box = lunge.locator(".bars").bounding_box()
        assert box is not None
        assert box["height"] <= 80, width


def test_a_thumb_steps_as_the_arrow_keys_do(lunge: Page) -> None:
    """Distances by a third of a stop: 1.8 m × 2^(1/6), and once more."""
    field = lunge.locator("#f-lights-light-1-distance-m")
    less, more = lunge.locator("[data-steps=f-lights-light-1-distance-m]").all()
    field.focus()
    more.click()
    more.click()
    expect(field).to_have_value("2.27 m")
    less.click()
    expect(field).to_have_value("2.02 m")
    expect(field).to_be_focused()
    expect(lunge.locator("#s-lights")).to_contain_text("Key 1/64")
    field.press("ArrowUp")
    expect(field).to_have_value("2.27 m")


def test_there_is_nothing_to_step_from_while_nothing_is_said(lunge: Page) -> None:
    lunge.locator("#fold-exposure").click()
    burst = lunge.locator("[data-steps=f-exposure-frames-per-s]").first
    expect(burst).to_be_hidden()
    lunge.locator("#f-exposure-frames-per-s").fill("5")
    expect(burst).to_be_visible()
