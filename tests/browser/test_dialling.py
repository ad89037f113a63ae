"""Dialling in by keyboard with the simulated unit, its faults on the screen, and a collision from logged frames."""

import io
from datetime import UTC, datetime

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from rapzel.core.drops.jet import Jet
from rapzel.dialling.models import DialStep, Shot, UnitHold
from rapzel.shoots.models import Scene
from rapzel.takes.models import Take
from rapzel.workbench.answer import answered
from tests.apps.units import be_patient, in_turn, standing_in
from tests.browser.hands import drag

NEXT_YEAR = datetime(2100, 1, 1, tzinfo=UTC)


def a_frame() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (60, 40), (90, 90, 90)).save(out, "PNG")
    return out.getvalue()


@pytest.fixture
def unit(settings, transactional_db, monkeypatch):
    """The simulated unit; it ends before the database is another one."""
    be_patient(monkeypatch)
    in_turn(monkeypatch)
    with standing_in() as settings.TRIGGER_UNIT:
        settings.TRIGGER_UNIT_PLAYS = True
        yield


@pytest.fixture
def at(unit, insider: Page, live_server):
    def go(scene: str) -> Page:
        pk = Scene.objects.get(name__contains=scene).pk
        insider.goto(f"{live_server.url}/scenes/{pk}/dial-in/")
        return insider

    return go


def fire(page: Page) -> Shot:
    """Fires by its key and waits for what the unit reports."""
    before = page.locator("#unit").get_attribute("data-shot") or ""
    page.keyboard.press("f")
    expect(page.locator("#unit")).not_to_have_attribute("data-shot", before)
    expect(page.locator("#unit input[name=shot]")).to_have_count(1)
    expect(page.locator("#unit .shot img")).to_be_visible()
    return Shot.objects.order_by("-pk")[0]


def _off_s(shot: Shot) -> float:
    """How late the light of a shot was, which the person sees in its picture."""
    needed = answered(shot.document).physics.timing.needed_delay_s
    assert needed is not None
    return float(shot.report["flash_s"]) - needed - float(shot.report["rig_late_s"])


def _dial(page: Page, right_s: float, rounds: int = 12) -> int:
    """Fires, looks and presses e, o or l until it is in; how many tries that took."""
    for tries in range(1, rounds):
        off = _off_s(fire(page))
        page.keyboard.press("o" if abs(off) <= right_s else "e" if off < 0 else "l")
        expect(page.locator("input[name=seen]")).to_have_value(str(tries))
        if page.locator(".dial-figure.there").count():
            return tries
    return rounds


@pytest.mark.looks_at_pictures
def test_a_whole_dial_in_by_keyboard_in_set_mode(at) -> None:
    page = at("glass")
    page.keyboard.press("d")
    page.get_by_role("button", name="Dial in: Flash delay").press("Enter")
    expect(page.locator(".dial-figure")).to_have_text("1\u00a0ms")
    # where the button was, nothing is lost
    expect(page.locator(".dial-name")).to_be_focused()
    tries = _dial(page, 0.001)
    assert tries <= 10
    expect(page.locator(".dial-says")).to_contain_text("Dialled in")
    last = Shot.objects.order_by("-pk")[0]
    expected = answered(last.document).physics.timing.needed_delay_s
    scene = Scene.objects.get(name__contains="glass")
    truth = expected + float(last.report["rig_late_s"])
    assert scene.document["trigger"]["set_delay_s"] == pytest.approx(truth, abs=0.002)
    takes = Take.objects.filter(scene=scene, step__isnull=False)
    assert takes.count() == tries
    assert all(take.picture.image for take in takes)
    page.keyboard.press("u")
    expect(page.locator("input[name=seen]")).to_have_value(str(tries - 1))
    page.keyboard.press("x")
    expect(page.get_by_role("heading", name="Which knob?")).to_be_visible()


def test_it_goes_on_after_a_reload_and_refuses_a_second_knob(at) -> None:
    page = at("glass")
    page.get_by_role("button", name="Dial in: Flash delay").click()
    expect(page.locator("#dial-form")).to_be_visible()
    page.keyboard.press("n")
    page.keyboard.type("2 ms")
    page.keyboard.press("Enter")  # is no outcome
    page.keyboard.press("Escape")
    page.keyboard.press("l")
    expect(page.locator(".dial-path")).to_contain_text("2 ms late")
    expect(page.locator("input[name=seen]")).to_have_value("1")
    figure = page.locator(".dial-figure").inner_text()
    page.reload()
    expect(page.locator(".dial-figure")).to_have_text(figure)
    scene = Scene.objects.get(name__contains="glass")
    sound = scene.document["trigger"]["links"][0]["id"]
    other = page.context.new_page()  # as somebody does in another tab
    other.goto(page.url.replace("dial-in", "timing"))
    other.locator(f'input[data-path="trigger.links[#{sound}].distance_m"]').fill(
        "1.2 m"
    )
    other.keyboard.press("Tab")
    expect(other.locator("#lanes")).to_contain_text("1.2 m")
    other.close()
    page.reload()
    expect(page.locator(".dial-moved")).to_contain_text("50 cm → 1.2 m")
    page.keyboard.press("b")
    expect(page.locator(".dial-moved")).to_have_count(0)
    page.keyboard.press("e")
    expect(page.locator("input[name=seen]")).to_have_value("2")


def test_what_is_judged_without_a_connection_waits_with_its_note_and_picture(
    at, watch
) -> None:
    """Two tries at the same setting, one with a note and the person's own frame; both count, in their order."""
    page = at("Wax")
    page.get_by_role("button", name="Dial in: Flash delay").click()
    figure = page.locator(".dial-figure").inner_text()
    page.context.set_offline(True)
    page.get_by_label("Note").fill("the drop was torn")
    page.get_by_label("Its picture").set_input_files(
        {"name": "frame.png", "mimeType": "image/png", "buffer": a_frame()}
    )
    page.get_by_role("button", name="Early").click()
    expect(page.locator(".dialling .warning")).to_contain_text("1 waiting to be logged")
    expect(page.get_by_label("Note")).to_have_value("")
    page.get_by_role("button", name="Late").click()
    expect(page.locator(".dialling .warning")).to_contain_text("2 waiting to be logged")
    expect(page.locator(".waiting li").first).to_contain_text(
        "the drop was torn with its picture"
    )
    expect(page.locator(".waiting li").last).not_to_contain_text("picture")
    expect(page.locator(".dial-figure")).to_have_text(figure)
    assert DialStep.objects.filter(take__note__contains="torn").count() == 0
    page.context.set_offline(False)
    expect(page.locator("input[name=seen]")).to_have_value("2")
    expect(page.locator(".waiting li")).to_have_count(0)
    early, late = DialStep.objects.order_by("-pk")[:2][::-1]
    assert (early.outcome, early.take.note) == ("early", "the drop was torn")
    assert early.take.picture.image
    assert (late.outcome, late.value) == ("late", early.value)
    watch.found.clear()


def test_a_try_whose_answer_is_lost_counts_once(at, watch) -> None:
    """The server logs it, the connection breaks off before the answer: it is sent again with its key."""
    page = at("Wax")
    page.get_by_role("button", name="Dial in: Flash delay").click()

    def lose(route) -> None:
        route.fetch()
        route.abort()

    page.route("**/outcome/", lose, times=1)
    page.get_by_role("button", name="Early").click()
    expect(page.locator("input[name=seen]")).to_have_value("1")
    expect(page.locator(".waiting li")).to_have_count(0)
    assert DialStep.objects.filter(dial_in__ended_at=None).count() == 1
    watch.found.clear()


def test_two_scenes_on_one_unit_wait_for_each_other(
    settings, transactional_db, monkeypatch, insider: Page, live_server
) -> None:
    """A unit as a real one is, with one state and slow answers: the second scene is told, and each fires its own."""
    be_patient(monkeypatch)
    settings.TRIGGER_UNIT_PLAYS, settings.TRIGGER_UNIT_EACH = True, False
    glass, wax = (Scene.objects.get(name__contains=name) for name in ("glass", "Wax"))
    first, second = insider, insider.context.new_page()
    with standing_in(one=True, slow=True) as settings.TRIGGER_UNIT:
        for page, scene in ((first, glass), (second, wax)):
            page.goto(f"{live_server.url}/scenes/{scene.pk}/dial-in/")
        hold = UnitHold.objects.create(
            unit=settings.TRIGGER_UNIT,
            token="shot-elsewhere",
            scene=glass,
            until=NEXT_YEAR,
        )
        second.get_by_role("button", name="Fire").click()
        expect(second.locator(".unit-held")).to_contain_text(
            f"your scene “{glass.name}” has had it"
        )
        hold.delete()
        for page, scene in ((first, glass), (second, wax)):
            page.get_by_role("button", name="Fire").click()
            expect(page.locator(".unit-says")).to_contain_text("Fired: flash")
            shot = scene.shots.first()
            assert float(shot.report["flash_s"]) == pytest.approx(
                scene.document["trigger"]["set_delay_s"], abs=3e-4
            )
    second.close()


def test_a_unit_that_sleeps_is_waked_by_a_key(at) -> None:
    page = at("Wax")
    before = Take.objects.count()
    _fire_with(page, "asleep")
    expect(page.locator(".unit-says")).to_contain_text("asleep: wake it")
    expect(page.locator("input[name=seen]")).to_have_value("0")
    assert Take.objects.count() == before
    page.keyboard.press("w")
    expect(page.locator(".unit-says")).to_contain_text("is awake")
    _goes_well(page)


def test_a_unit_that_says_nothing_is_told_of_and_the_next_shot_goes_well(at) -> None:
    page = at("Wax")
    with pytest.MonkeyPatch.context() as hurry:
        hurry.setattr("rapzel.dialling.unit.ANSWER_S", 1.0)
        _fire_with(page, "silent")
        expect(page.locator(".unit-says")).to_contain_text("says nothing")
    _goes_well(page)


def _fire_with(page: Page, fault: str) -> None:
    """A shot of a dial-in with a unit that has a fault."""
    page.get_by_role("button", name="Dial in: Flash delay").click()
    expect(page.locator("#dial-form")).to_be_visible()
    page.get_by_label("The simulated unit is").select_option(label=fault)
    page.keyboard.press("f")


def _goes_well(page: Page) -> None:
    """A shot of a unit without a fault, judged, with its picture."""
    page.get_by_label("The simulated unit is").select_option(label="well")
    fire(page)
    page.keyboard.press("e")
    expect(page.locator("input[name=seen]")).to_have_value("1")
    assert DialStep.objects.order_by("-pk")[0].take.picture.image


def test_a_collision_from_three_logged_frames(demo: Page, live_server) -> None:
    """Frames of a jet that leaves at 310 ms with 1.25 m/s, read to a tenth of a millimetre, written as people do."""
    demo.goto(f"{live_server.url}/tools/drops/")
    demo.get_by_label("Valve above the liquid").fill("30 cm")
    expect(demo.locator("#tool-answer")).to_contain_text("Falls 249 ms")
    demo.get_by_label("They shall meet at").fill("5 cm")
    expect(demo.locator(".sentence")).to_contain_text("they meet at 5 cm")
    jet = Jet(0.31, 1.25)
    lines = [
        f"{ms} ms; {jet.height_m(ms / 1000) * 1000:.1f} mm" for ms in (340, 365, 390)
    ]
    demo.get_by_label("Logged frames").fill("\n".join(lines))
    there = jet.reaches_s(0.05)
    assert there is not None
    expect(demo.locator(".sentence")).to_contain_text(
        f"flash {there * 1000:.1f} ms after"
    )
    expect(demo.locator("#tool-answer")).to_contain_text("Leaves after 310 ms")
    expect(demo.locator("#tool-answer")).to_contain_text("they meet at 5 cm")
    handle = demo.locator('[data-drag="shown_s"]')
    drag(demo, handle, 0, -20)
    expect(demo.locator("#tool-answer")).to_contain_text("first valve: jet")
    assert "ms" in demo.locator('[name="shown_s"]').input_value()
    demo.get_by_label("Logged frames").fill("340 ms; high")
    expect(demo.locator(".field-error")).to_contain_text("360 ms; 41 mm")


def test_drops_of_a_scene_are_solved_and_used(demo: Page, live_server) -> None:
    scene = Scene.objects.get(name__contains="Wax")
    demo.goto(f"{live_server.url}/scenes/{scene.pk}/tools/drops/")
    demo.get_by_label("They shall meet at").fill("4 cm")
    expect(demo.locator("#tool-answer")).to_contain_text("Solved for 4 cm")
    demo.get_by_label("Second release as set").fill("")
    expect(demo.locator(".sentence")).to_contain_text("they meet at 4 cm")
    before = scene.document["trigger"]["set_delay_s"]
    demo.get_by_role("button", name="Use in the scene").click()
    expect(demo.locator(".notice")).to_contain_text("has it now")
    scene.refresh_from_db()
    assert scene.document["drops"]["meet_height_m"] == 0.04
    assert scene.document["trigger"]["set_delay_s"] < before
    assert scene.document["moment"]["at_s"] == pytest.approx(
        scene.document["trigger"]["set_delay_s"], abs=0.0002
    )
