"""Deciding: which method, which lights, which settings, from the scene to the set-up and back."""

import copy
import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from rapzel.accounts.models import User
from rapzel.core.document.places import changed
from rapzel.core.search.limits import Limits
from rapzel.finding import services as finding
from rapzel.shoots.models import Scene, Shoot
from rapzel.shoots.services import NEW_SCENE, add_scene, change_scene
from rapzel.ui.lanes import LANE
from tests.browser.hands import settled
from tests.core.rehearsal.test_cutout import png, two_squares

MOVING = {"kind": "steady", "speed_m_s": 3.0}
GLOBAL = {
    "camera.shutter": "global", "camera.curtain_travel_s": None, "camera.fastest_shutter_s": 1 / 80000,
    "camera.sync_speed_s": 1 / 80000,
}  # fmt: skip


def scene_with(values: dict[str, Any], name: str, **limits: Any) -> Scene:
    """A scene of the demo's owner, with limits of its own."""
    owner = User.objects.get(username="demo")
    shoot = Shoot.objects.visible_to(owner).first()
    assert shoot is not None
    document = changed(
        copy.deepcopy(NEW_SCENE), {"criterion": {"kind": "print"}, **values}
    )
    scene = add_scene(shoot, document, name)
    finding.make_own(owner, scene)
    finding.keep_limits(owner, scene, Limits(**limits))
    return scene


def column(page: Page, title: str) -> Any:
    return page.locator(".methods thead th", has_text=title)


def open_page(page: Page, scene: Scene, name: str) -> None:
    page.goto(
        re.sub(r"^(https?://[^/]+).*", rf"\1/scenes/{scene.pk}/{name}/", page.url)
    )


def test_a_hall_whose_light_is_wanted_is_decided_and_taken_over(demo: Page) -> None:
    """Moving parts that the room lights as well: only a slit or a fast shutter alone stops them."""
    look = {"room": "lit", "room_stops": -1.5, "trail_m": None}
    hall = scene_with(
        {"motion": MOVING, "ambient.ev100": 8.0, "look": look},
        "Hall",
        iso=(100, 12800),
        f_number=(1.8, 8),
        lights=3,
    )
    open_page(demo, hall, "methods")
    expect(column(demo, "High-speed sync")).to_be_visible()
    expect(demo.locator("th.best")).to_have_text(re.compile("High-speed sync|No flash"))
    expect(column(demo, "Short pulse, at")).to_contain_text("not within these limits")
    demo.get_by_role("button", name="High-speed sync: make it the scene").click()
    expect(demo.locator("[data-margin=room]")).to_contain_text("wanted −1.5")
    expect(demo.locator(".margin.fails", has_text="Ghost")).to_have_count(0)
    demo.get_by_role("button", name="Undo").click()
    expect(demo.locator("#s-lights")).to_have_text("none yet")


def test_a_portrait_at_noon_wide_open_compares_a_filter_with_the_slit(
    demo: Page,
) -> None:
    look = {"room": "lit", "room_stops": -1.0, "trail_m": None}
    still = {"kind": "steady", "speed_m_s": 0.2}
    noon = scene_with(
        {
            "motion": still,
            "ambient.ev100": 15.0,
            "look": look,
            "exposure.f_number": 1.2,
        },
        "Noon",
        f_number=(1.2, 1.2),
        iso=(100, 400),
        lights=2,
    )
    open_page(demo, noon, "methods")
    expect(column(demo, "Short pulse, at")).to_contain_text("not within these limits")
    for title in ("ND filter", "High-speed sync"):
        expect(column(demo, title)).to_have_text(re.compile("recommended|works"))
    expect(demo.locator(".methods tr", has_text="Aperture").last).to_contain_text(
        "f/1.2"
    )


def test_a_small_light_outshines_the_sun_on_a_global_shutter(demo: Page) -> None:
    sun = scene_with(
        {
            "motion": {"kind": "steady", "speed_m_s": 8.0},
            "ambient.ev100": 15.0,
            **GLOBAL,
        },
        "Sun",
        strobes=("Hot-shoe 60",),
        lights=1,
        distance_m=(0.5, 2.0),
        f_number=(2, 16),
    )
    open_page(demo, sun, "methods")
    expect(demo.locator("th.best")).to_contain_text("Global shutter")
    expect(demo.locator(".methods")).to_contain_text("1 × Hot-shoe 60")


def test_weak_lights_replace_a_strong_one(demo: Page) -> None:
    """A light that is short asks how many of it would do; the fewest stand first, and become the scene."""
    scene = Scene.objects.get(name="Lunge on black")
    open_page(demo, scene, "find")
    demo.get_by_role("button", name="Change them for this scene only").click()
    demo.locator(".pick summary").first.click()
    for name in ("Monobloc 600 quenched", "Bank pack 2400", "Old voltage monobloc 500"):
        with demo.expect_response(lambda answer: "word=strobes" in answer.url):
            demo.get_by_role("checkbox", name=name).uncheck()
        settled(demo)
    demo.locator(".pick summary").first.click()
    for label, value in (
        ("Nearest lights", "3 m"),
        ("Highest ISO", "400"),
        ("Lights at most", "8"),
    ):
        field = demo.get_by_label(label)
        field.fill(value)
        with demo.expect_response(lambda answer: "word=" in answer.url):
            field.press("Tab")
        settled(demo)
    demo.get_by_label("Order").select_option("lights")
    first = demo.locator("table.found tbody tr").first
    expect(first).to_contain_text(re.compile(r"[2-8] × Hot-shoe 60"))
    first.get_by_role("link").click()
    expect(demo.locator("h1")).to_contain_text("× Hot-shoe 60")
    demo.get_by_role("button", name="Make it the scene").click()
    expect(demo.locator(".sentence")).to_contain_text(re.compile("bright enough"))
    expect(demo.locator("#s-lights")).to_contain_text("Key ×")


def test_nothing_fits_and_one_step_more_does(demo: Page, watch: Any) -> None:
    watch.expected.add(422)
    fast = {
        "motion": {"kind": "steady", "speed_m_s": 9.0},
        "criterion": {"kind": "pixels", "pixels": 2.0},
    }
    scene = scene_with(fast, "Far", iso=(100, 100), distance_m=(4, 4), lights=1)
    open_page(demo, scene, "find")
    expect(demo.locator("#found .sentence")).to_contain_text(
        "works within these limits"
    )
    expect(demo.locator("table.found")).to_contain_text(
        re.compile("smeared by|short of light by")
    )
    wrong = demo.get_by_label("Lights at most")
    wrong.fill("many")
    wrong.press("Tab")
    expect(demo.locator("#we-lights")).to_contain_text("Accepted")
    expect(wrong).to_have_value("many")
    demo.get_by_role("button", name=re.compile("ISO .* instead of 100")).click()
    expect(demo.locator("#found .sentence")).to_contain_text(
        re.compile("set-ups? (works|are listed)")
    )
    demo.locator(".drawing a").first.click()
    expect(demo.get_by_role("button", name="Pin it as a snapshot")).to_be_visible()


def test_a_comparison_that_takes_long_comes_by_itself(lunge: Page, settings) -> None:
    asked_by_nobody = {"exposure.iso": 137.0}  # or it would be kept
    change_scene(Scene.objects.get(name="Lunge on black"), asked_by_nobody)
    settings.LANE_WAIT_S = 0.0
    with LANE._turn:
        lunge.get_by_role("link", name="Methods").click()
        expect(lunge.get_by_text("Comparing the methods…")).to_be_visible()
    expect(lunge.get_by_role("group", name="The methods")).to_be_visible()
    lunge.get_by_role("button", name=re.compile("pin as a snapshot")).first.click()
    expect(lunge).to_have_url(re.compile("compare"))


def test_an_own_cut_out_is_marked_on_the_picture_and_rehearsed(demo: Page) -> None:
    scene = scene_with({"motion": MOVING}, "Own subject")
    open_page(demo, scene, "cut-out")
    demo.get_by_label("Picture").set_input_files(
        {"name": "own.png", "mimeType": "image/png", "buffer": png(two_squares())}
    )
    demo.get_by_label("Only a part of it moves").check()
    frame = demo.locator(".cutout-frame")
    expect(frame).to_be_visible()
    expect(frame.locator("img")).to_have_js_property("naturalWidth", 400)
    frame.scroll_into_view_if_needed()
    box = frame.bounding_box()
    assert box is not None

    def at(x: float, y: float) -> tuple[float, float]:
        return box["x"] + x * box["width"], box["y"] + y * box["height"]

    demo.mouse.move(*at(0.95, 0.9))
    demo.mouse.down()
    demo.mouse.move(*at(0.5, 0.1), steps=4)
    demo.mouse.up()
    expect(demo.get_by_label("Left, %")).to_have_value(re.compile(r"^(49|50)"))
    expect(demo.get_by_label("Bottom, %")).to_have_value(re.compile(r"^(89|90)"))
    demo.get_by_label("The part turns about a pivot").check()
    demo.get_by_role("button", name="A press marks the pivot").click()
    demo.mouse.click(*at(0.5, 0.5))
    expect(demo.get_by_label("Pivot across, %")).to_have_value(re.compile(r"^(49|50)"))
    demo.get_by_role("button", name="Rehearse with it").click()
    expect(
        demo.get_by_role("status").filter(has_text="your cut-out").first
    ).to_be_visible()
    scene.refresh_from_db()
    assert scene.document["rehearsal"]["subject"] == "cutout"
    assert scene.document["rehearsal"]["cutout"]["pivot"] == pytest.approx(
        [0.5, 0.5], abs=0.02
    )


def test_arrow_keys_step_a_word_of_the_limits_and_stay_on_it(demo: Page) -> None:
    quick = {"strobes": ("Hot-shoe 60",), "lights": 1}  # each step is a search
    scene = scene_with({"motion": MOVING}, "Stepped", iso=(100, 1600), **quick)
    open_page(demo, scene, "find")
    word = demo.get_by_label("Highest ISO")
    word.focus()
    word.press("ArrowUp")
    expect(word).to_have_value("2000")
    expect(word).to_be_focused()
    word.press("ArrowUp")
    expect(word).to_have_value("2500")
    word.press("ArrowDown")
    expect(word).to_have_value("2000")
    assert finding.limits_for(User.objects.get(username="demo"), scene)[0].iso == (
        100,
        2000,
    )
