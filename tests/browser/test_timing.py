"""Timing by mouse and keyboard: glass and microphone, arrow and beam, long openings, the night watch, the finger."""

import re
from datetime import UTC, datetime, timedelta
from statistics import mean

import pytest
from playwright.sync_api import Page, expect

from rapzel.practice.models import Drill
from rapzel.shoots.models import Scene
from tests.apps.test_timing import clap
from tests.browser.hands import drag

# Presses the space bar so many milliseconds after each instant, the last one far too late.
OFFSETS_MS = (20, 30, 25, 15, 20, 30, 25, 15, 20, 25, 20, 700)
SCRIPTED_FINGER = """(offsets) => {
  let tries = 0;
  document.addEventListener("rapzel:drill", (event) => {
    const wait = event.detail.instant + offsets[tries++] - performance.now();
    setTimeout(() => document.body.dispatchEvent(new KeyboardEvent("keydown", { key: " ", bubbles: true })), wait);
  });
}"""


@pytest.fixture
def at(insider: Page, live_server):
    def go(address: str, scene: str = "") -> Page:
        pk = Scene.objects.get(name__contains=scene).pk if scene else 0
        insider.goto(f"{live_server.url}{address.format(pk=pk)}")
        return insider

    return go


def stored(name: str) -> dict:
    return Scene.objects.get(name__contains=name).document


def test_glass_and_microphone_by_both_schools(at) -> None:
    page = at("/scenes/{pk}/timing/", "glass")
    chosen = page.locator(".school.chosen")
    expect(chosen).to_contain_text("The shutter stands open")
    expect(page.locator(".school").first).to_contain_text("too late at best")
    page.locator("#school-camera").click()
    expect(chosen).to_contain_text("The trigger fires the camera")
    expect(page.locator("#lanes")).to_contain_text("camera")
    assert stored("glass")["trigger"]["fires"] == "camera"
    late = page.locator(".school.chosen .says")
    expect(late).to_contain_text("88.")
    before = late.text_content()
    page.get_by_role("button", name="Mirror up").click()
    expect(late).not_to_have_text(before or "")
    assert stored("glass")["camera"]["mirror_up"]
    page.locator("#undo").press("Enter")
    expect(late).to_have_text(before or "")


def test_the_microphone_is_dragged_and_a_recording_dropped_in(at) -> None:
    page = at("/scenes/{pk}/timing/", "glass")
    field = page.get_by_label("Distance to the sound")
    expect(field).to_have_value("50 cm")
    drag(page, page.locator("#sensor circle.handle"), 120, 0)
    expect(field).not_to_have_value("50 cm")
    expect(page.locator("#sensor")).to_contain_text(f"microphone {field.input_value()}")
    link = stored("glass")["trigger"]["links"][0]
    assert link["distance_m"] > 0.6
    page.locator("#recording-file").set_input_files(
        {"name": "clap.wav", "mimeType": "audio/wav", "buffer": clap()}
    )
    expect(page.locator("#recording")).to_contain_text("0 false triggers")
    page.get_by_role("button", name="Count it in the chain").click()
    expect(page.locator("#lanes")).to_contain_text("Sound trigger")


def test_arrow_and_beam_by_dragging_and_by_typing(at, watch) -> None:
    watch.expected.add(422)
    page = at("/scenes/{pk}/timing/", "Arrow")
    expect(page.locator(".beam-says")).to_contain_text("of the passes land")
    upstream = page.get_by_label("Upstream")
    drag(page, page.locator("#sensor circle.handle").first, -60, 0)
    expect(upstream).not_to_have_value("40 cm")
    assert stored("Arrow")["trigger"]["links"][0]["distance_m"] > 0.5
    expect(page.locator(".beam-says")).to_contain_text("short of the place")
    upstream.fill("40 cm")
    expect(page.locator("#sensor")).to_contain_text(
        "The beam stands 40 cm before the place"
    )
    drag(page, page.locator("#sensor circle.handle").nth(2), 25, 0)
    expect(page.get_by_label("Turned")).not_to_have_value("0°")
    assert stored("Arrow")["trigger"]["links"][0]["turned_deg"] != 0
    length = page.get_by_label("Its length")
    length.fill("3 m")
    expect(page.locator(".beam-says")).to_contain_text(
        re.compile("9[0-9].% of its length fires at nothing")
    )
    length.fill("as long as it takes")
    expect(
        page.locator("#inputs .field-error", has_text="is not a length")
    ).to_be_visible()
    assert stored("Arrow")["trigger"]["links"][0]["length_m"] == 3.0


def test_lanes_are_dragged(at) -> None:
    page = at("/scenes/{pk}/timing/", "Rice")
    delay = page.get_by_label("Set delay", exact=True)
    expect(delay).to_have_value("30 ms")
    handles = page.locator("#lanes circle.handle")
    drag(page, handles.nth(1), 60, 0)
    expect(delay).not_to_have_value("30 ms")
    assert stored("Rice")["trigger"]["set_delay_s"] > 0.033
    expect(page.locator("#lanes figcaption")).to_contain_text("after the event")


def test_openings_of_eight_seconds_with_four_lights(at) -> None:
    page = at("/scenes/{pk}/tools/open-shutter/", "Hawk-moths")
    assert len(stored("Hawk-moths")["lights"]) == 4
    expect(page.get_by_label("Shutter open")).to_have_value("8 s")
    expect(page.get_by_label("Trigger locked out")).to_have_value("1.5 s")
    page.get_by_label("Visits a second").fill("0.08")
    answer = page.locator("#tool-answer")
    # P(one visit or more) − P(Gamma(2) ≤ 0.08 · 6.5): 1 − e^−0.64 − (1 − 1.52 e^−0.52) = 38 %
    expect(answer.locator(".sentence")).to_contain_text(
        "Open for 8 s, 38 % of the frames"
    )
    page.get_by_label("Good ones of the tolerated").fill("0.1")
    expect(answer).to_contain_text(
        re.compile(r"50 good ones take about 1\d\d\d openings")
    )
    expect(answer).to_contain_text("Stick test")
    page.get_by_role("button", name="Pin to the scene").click()
    expect(page.locator(".notices")).to_contain_text("Pinned")


def test_the_night_watch(at) -> None:
    page = at("/scenes/{pk}/tools/watch/", "Hawk-moths")
    answer = page.locator("#tool-answer")
    expect(answer.locator(".sentence")).to_contain_text("Receiver dies first")
    devices = page.locator("#id_devices")
    devices.fill("Flash; 2 × 4 AA NiMH 2000 mAh; 4 mA; 3000 mAs\nReceiver; 4 D; 25 mA")
    expect(answer.locator(".sentence")).to_contain_text("Flash dies first")
    devices.fill("Flash; a handful of cells; 4 mA")
    expect(answer).to_contain_text("“a handful of cells” is not a term of a device")
    devices.fill("Flash; 4 AA; 4 mA; by day")
    page.get_by_label("Lights awake after").fill("3 s")
    expect(answer.locator(".sentence")).to_contain_text(
        "75 % of the visitors are still there"
    )


def test_a_finger_is_measured_and_used(at, demo: Page) -> None:
    """On a clock of the test's own, so that the finger is as late as it is told to be, however slow the machine."""
    demo.clock.install()
    page = at("/practice/")
    page.clock.pause_at(datetime.now(UTC) + timedelta(hours=1))
    page.evaluate(SCRIPTED_FINGER, OFFSETS_MS)
    page.keyboard.press("b")
    with page.expect_response("**/practice/add/"):
        page.clock.run_for(60_000)  # twelve tries, each within three seconds
    page.clock.resume()
    expect(page.locator("#drills .sentence")).to_contain_text("late on the mean")
    expect(page.locator("#drills .outlier")).to_have_count(1)
    drill = Drill.objects.latest("pk")
    assert drill.result.counted == 11
    assert drill.result.bias_s == pytest.approx(mean(OFFSETS_MS[:-1]) / 1000, abs=0.001)
    page = at("/scenes/{pk}/timing/", "Ribbon")
    page.locator("#use-finger").click()
    expect(page.locator("#tries")).to_contain_text("It is in the chain")
    link = stored("Ribbon")["trigger"]["links"][0]
    assert link["lag_s"] == pytest.approx(drill.result.bias_s)
    assert link["lag_provenance"] == "measured"


def test_takes_with_offsets_say_the_next_delay(at) -> None:
    page = at("/scenes/{pk}/takes/", "glass")
    for _ in range(3):
        page.get_by_label("Off by").fill("0.6 ms")
        page.get_by_role("button", name="Early", exact=True).click()
        expect(page.get_by_label("Off by")).to_have_value("")
    expect(page.locator("#log tr", has_text="600 µs early")).to_have_count(3)
    page = at("/scenes/{pk}/timing/", "glass")
    page.locator("#next-delay").click()
    expect(page.get_by_label("Set delay", exact=True)).to_have_value("1.5 ms")
