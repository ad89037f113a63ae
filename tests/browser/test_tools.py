"""Tools by keyboard, beside a scene, and the draft of the picture while a value is stepped."""

from playwright.sync_api import Page, expect


def test_a_tool_answers_as_one_types_and_is_pinned_to_the_scene(lunge: Page) -> None:
    lunge.locator("#fold-tools").focus()
    lunge.keyboard.press("Enter")
    lunge.get_by_role("link", name="Open a tool with this scene").press("Enter")
    lunge.get_by_role("link", name="Open shutter").press("Enter")
    expect(lunge.locator("#id_open_s")).to_have_value("5 ms")
    visits = lunge.get_by_label("Visits a second")
    visits.fill("0.2")
    lunge.get_by_label("Shutter open").fill("5 s")
    expect(lunge.locator("#tool-answer .sentence")).to_contain_text("Open for 5 s, 37 %")
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


def test_a_draft_comes_while_a_value_is_stepped_and_the_picture_when_it_rests(lunge: Page) -> None:
    asked: list[str] = []
    lunge.on("request", lambda request: asked.append(request.url))
    field = lunge.locator("#f-lights-light-1-power")
    field.focus()
    for _ in range(3):
        field.press("ArrowUp")
        expect(lunge.locator(".rehearsal")).not_to_have_class("waiting")
    expect(field).to_have_value("1/32")
    lunge.wait_for_function(
        """() => {
          const { src, dataset, naturalWidth } = document.getElementById("rehearsal");
          return dataset.wanted && src.endsWith(dataset.wanted) && !src.includes("draft") && naturalWidth === 960;
        }"""
    )
    pictures = [url for url in asked if "rehearsal.jpg" in url]
    assert any(url.endswith("&draft=1") for url in pictures), pictures
    assert not pictures[-1].endswith("&draft=1"), "the last one is the picture itself"


def test_two_changes_are_looked_for_where_one_cannot_do_it(lunge: Page) -> None:
    lunge.locator("#f-lights-light-1-power").fill("1/16")
    lunge.locator("#f-lights-light-2-power").fill("1/16")
    lunge.locator("#fold-exposure").click()
    lunge.locator("#f-exposure-iso").fill("200")
    expect(lunge.locator("#s-exposure")).to_contain_text("ISO 200")
    pairs = lunge.locator("#pairs")
    expect(pairs).to_contain_text("with ISO 640")
    pairs.get_by_role("button").first.click()
    expect(lunge.locator("[data-margin=freeze]")).not_to_contain_text("does not work")
