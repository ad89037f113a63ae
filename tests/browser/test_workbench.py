"""The scene page by mouse and by keyboard."""

import json
import re

import pytest
from playwright.sync_api import Page, expect

from rapzel.shoots.models import Scene


def stored() -> dict:
    return Scene.objects.get(name="Lunge on black").document


def power(page: Page, light: int = 0):
    return page.locator(f"#f-lights-light-{light + 1}-power")


def test_a_change_is_answered_at_once_without_losing_focus_or_caret(
    lunge: Page,
) -> None:
    field = power(lunge)
    field.click()
    field.press("Control+A")
    field.type("1/8")
    expect(lunge.locator(".sentence")).to_contain_text(
        "smeared over 6.2 px by Key where 2 are allowed"
    )
    expect(field).to_be_focused()
    assert field.evaluate("each => each.selectionStart") == 3
    expect(lunge.locator("#s-lights")).to_contain_text("Key 1/8")
    expect(lunge.locator("[data-margin=freeze] .number")).to_have_text("−1.6")
    expect(lunge.locator("#rehearsal-says")).to_contain_text("smear 6.2 px")
    assert stored()["lights"][0]["power"] == 1 / 8


@pytest.mark.looks_at_pictures
def test_the_picture_follows_the_numbers(lunge: Page) -> None:
    picture = lunge.locator("#rehearsal")
    before = picture.get_attribute("src")
    lunge.locator("summary", has_text="Exposure").click()
    lunge.locator("#f-exposure-iso").fill("1600")
    expect(picture).not_to_have_attribute("src", before or "")
    lunge.wait_for_function(
        "() => document.getElementById('rehearsal').naturalWidth === 960"
    )
    assert "Rehearsal: Field 2.84 m wide" in (picture.get_attribute("alt") or "")


def test_a_wrong_entry_is_explained_kept_and_harms_nothing(lunge: Page, watch) -> None:
    watch.expected.add(422)
    field = power(lunge)
    field.fill("1/512")
    error = lunge.locator("#e-lights-light-1-power")
    expect(error).to_contain_text(
        "1/512 is below the strobe's range, which ends at 1/256"
    )
    expect(field).to_have_attribute("aria-invalid", "true")
    expect(lunge.locator(".sentence")).to_contain_text(
        "Frozen to 1.8 px, no ghost, but 0.8 stop short of light"
    )
    lunge.reload()
    expect(field).to_have_value("1/64"), "what was refused is not the value"
    (
        expect(lunge.locator("#d-lights-light-1-power")).to_contain_text(
            "You had typed “1/512”."
        ),
        "and not lost either",
    )
    field.fill("1/128")
    expect(error).to_be_empty()
    expect(lunge.locator("#s-lights")).to_contain_text("Key 1/128")
    assert stored()["lights"][0]["power"] == 1 / 128


def test_arrow_keys_step_by_thirds_even_when_pressed_quickly(lunge: Page) -> None:
    field = power(lunge)
    field.focus()
    for _ in range(3):
        field.press("ArrowUp")
    expect(field).to_have_value("1/32")
    assert abs(stored()["lights"][0]["power"] - 1 / 32) < 1e-6
    lunge.locator("summary", has_text="Shutter").focus()
    lunge.keyboard.press("Enter")
    shutter = lunge.locator("#f-exposure-shutter-s")
    expect(shutter).to_be_visible()  # a fold that is not open yet takes no keys
    shutter.press("ArrowDown")
    expect(shutter).to_have_value("1/250")


def test_focus_stays_where_one_went_while_an_answer_was_put_into_the_page(
    lunge: Page,
) -> None:
    power(lunge).focus()
    # The answer's swap and its settling are apart by a moment; somebody quick leaves the input in between.
    lunge.evaluate(
        """() => {
          window.settled = new Promise((done) => {
            const leave = () => document.getElementById("fold-exposure").focus();
            document.addEventListener("htmx:afterSwap", leave, { once: true });
            document.addEventListener("htmx:afterSettle", () => setTimeout(() => setTimeout(done)));
          });
        }"""
    )
    power(lunge).press("ArrowUp")
    lunge.evaluate("() => window.settled")
    expect(lunge.locator("#fold-exposure")).to_be_focused()


def test_arrow_keys_step_from_what_is_typed(lunge: Page) -> None:
    field = power(lunge)
    field.fill("1/8")
    field.press("ArrowUp")
    field.press("ArrowUp")
    expect(field).to_have_value("1/4 −0.3")
    expect(lunge.locator("#s-lights")).to_contain_text("Key 1/4 −0.3")


def test_the_ribbon_is_dragged_along_the_lights_own_curve(lunge: Page) -> None:
    bar = lunge.locator("[data-drag='lights[#light-1].power']")
    bar.scroll_into_view_if_needed()
    box = bar.bounding_box()
    assert box
    lunge.mouse.move(box["x"] + box["width"] - 2, box["y"] + 5)
    lunge.mouse.down()
    lunge.mouse.move(box["x"] + box["width"] + 60, box["y"] + 5, steps=6)
    lunge.mouse.up()
    expect(power(lunge)).to_have_value(re.compile("1/(16|8)"))
    # as it is stored
    expect(lunge.locator("#s-lights")).to_contain_text(re.compile("Key 1/(16|8)"))
    expect(lunge.locator("[data-margin=freeze]")).to_contain_text("does not work")
    assert stored()["lights"][0]["power"] > 1 / 32


def test_margins_open_their_working_by_keyboard_and_keep_it_open(lunge: Page) -> None:
    margin = lunge.locator("[data-margin=freeze]")
    margin.focus()
    lunge.keyboard.press("Enter")
    working = lunge.get_by_role("region", name="Working of Freeze")
    expect(working).to_contain_text("f / (u − f), f = 50 mm, u = 4 m")
    expect(working).to_contain_text("measured")
    power(lunge).fill("1/16")
    expect(lunge.locator(".sentence")).to_contain_text("smeared")
    expect(working).to_be_visible()
    expect(working).to_contain_text("ISO 2827")


def test_one_press_closes_a_margin_and_one_key_takes_it_back(lunge: Page) -> None:
    lunge.get_by_role("button", name="ISO 800").click()
    expect(lunge.locator(".sentence")).to_contain_text(
        "Frozen to 1.8 px, no ghost and probably bright enough"
    )
    expect(lunge.locator("#s-exposure")).to_have_text("f/8, ISO 800, no ND")
    lunge.locator("body").press("u")
    expect(lunge.locator(".sentence")).to_contain_text("0.8 stop short of light")


def test_views_are_chosen_by_number_and_remembered(lunge: Page) -> None:
    for key, words in (
        ("3", "Every row gets all of the light"),
        ("4", "stops from correct exposure"),
        ("5", "after the event"),
    ):
        lunge.locator("body").press(key)
        expect(lunge.locator("#view figcaption")).to_contain_text(words)
    lunge.locator("#view summary").click()
    expect(lunge.locator("#view table")).to_contain_text("Finger")
    lunge.reload()
    expect(lunge.get_by_role("button", name="Trigger chain")).to_have_attribute(
        "aria-pressed", "true"
    )


def test_structure_changes_bring_and_take_inputs(lunge: Page) -> None:
    lunge.locator("#fold-motion").click()
    lunge.locator("#f-motion-kind").select_option("leap")
    expect(lunge.locator("#f-motion-from-apex-s")).to_be_visible()
    expect(lunge.locator("#f-motion-speed-m-s")).to_have_count(0)
    lunge.get_by_label("Add a light").select_option(label="Hot-shoe 60")
    powers = lunge.locator("#inputs").get_by_label("Power", exact=True)
    expect(powers).to_have_count(3)
    lunge.locator("summary", has_text="More of Fill").click()
    lunge.get_by_role("button", name="Remove Fill").click()
    expect(powers).to_have_count(2)
    lunge.locator("body").press("u")
    expect(powers).to_have_count(3)
    lunge.locator("body").press("U")
    expect(powers).to_have_count(2)
    lunge.locator("summary", has_text="Cautions").click()
    lunge.get_by_label("glass", exact=True).check()
    expect(lunge.locator(".cautions")).to_contain_text("Eye protection for everybody")


def test_a_dropped_connection_loses_nothing(lunge: Page, watch) -> None:
    lunge.route("**/set/", lambda route: route.abort())
    power(lunge).fill("1/16")
    error = lunge.locator("#e-lights-light-1-power")
    expect(error).to_contain_text("Not saved yet")
    watch.found.clear()  # the aborted request is in the console, as it should be
    lunge.unroute("**/set/")
    expect(error).to_be_empty()
    expect(lunge.locator(".sentence")).to_contain_text("smeared")
    watch.found.clear()
    assert stored()["lights"][0]["power"] == 1 / 16


def test_a_second_tab_does_not_undo_the_first(lunge: Page) -> None:
    other = lunge.context.new_page()
    other.goto(lunge.url)
    power(lunge).fill("1/128")
    expect(lunge.locator("#s-lights")).to_contain_text("Key 1/128")
    power(other, 1).fill("1/32")
    expect(other.locator("#s-lights")).to_contain_text("Key 1/128, Rim 1/32")
    expect(power(other)).to_have_value("1/128")


def test_scenes_leave_and_come_in_by_file_and_by_drop(lunge: Page, tmp_path) -> None:
    with lunge.expect_download() as started:
        lunge.get_by_role("link", name="Scene JSON").click()
    document = json.loads(started.value.path().read_text())
    document["name"] = "Brought back"
    file = tmp_path / "scene.json"
    file.write_text(json.dumps(document))
    lunge.get_by_role("link", name="Season brochure").click()
    lunge.locator("#scene-file").set_input_files(file)
    expect(lunge.locator(".notice")).to_contain_text("Imported: Brought back.")
    lunge.wait_for_load_state()  # a drop is taken once the page's scripts have come
    dropped = json.dumps({**document, "name": "Dropped here"})
    transfer = lunge.evaluate_handle(
        "text => { const data = new DataTransfer(); data.items.add(new File([text], 'scene.json')); return data; }",
        dropped,
    )
    lunge.dispatch_event(".page", "drop", {"dataTransfer": transfer})
    expect(lunge.locator(".notice")).to_contain_text("Imported: Dropped here.")
    lunge.get_by_role("link", name="Dropped here").click()
    expect(lunge.locator(".sentence")).to_contain_text(
        "Frozen to 1.8 px, no ghost, but 0.8 stop short of light"
    )
