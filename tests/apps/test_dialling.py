"""The dial-in page: its verbs, its refusals, its pictures, and the trigger unit beside it."""

import copy
import io

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError
from django.test import Client
from django.urls import reverse
from PIL import Image

from rapzel.core.document.places import changed, get
from rapzel.dialling import pictures, services
from rapzel.dialling.belongings import tell, tidy
from rapzel.dialling.models import DialIn, Shot, Step
from rapzel.dialling.page import DialPage
from rapzel.shoots import history
from rapzel.shoots.models import Scene
from rapzel.shoots.services import add_scene, change_scene
from rapzel.shoots.workbench import answered
from rapzel.takes import belongings as belongings_of_takes
from rapzel.takes.models import Take
from tests.apps.rows import shot_row
from tests.apps.units import standing_in
from tests.plans import LUNGE

DELAY = "trigger.set_delay_s"
GLASS = changed(LUNGE, {
    "exposure.method": "open_shutter", "exposure.shutter_s": 1.0, "motion.speed_m_s": 6.0, "motion.speed_sd_m_s": 0.5,
    "moment": {"at_s": 0.0054, "lasts_s": 0.003},
    "trigger": {
        "fires": "flash", "latency_s": 0.0001, "set_delay_s": 0.003, "links": [
            {
                "kind": "sound", "id": "sound", "name": "Microphone", "lag_s": 0.0003, "jitter_s": 0.0001,
                "distance_m": 0.5,
            },
            {
                "kind": "device", "id": "unit", "name": "Unit", "lag_s": 0.0002, "jitter_s": 0.00005,
                "resolution_s": 0.0001,
            },
        ],
    },
})  # fmt: skip
DROPS = changed(GLASS, {
    "motion": {"kind": "fall", "height_m": 0.25}, "moment": {"at_s": 0.3633, "place_m": 0.008},
    "drops": {
        "valve_height_m": 0.3, "diameter_m": 0.004, "jet": {"launch_s": 0.31, "speed_m_s": 1.2}, "meet_height_m": 0.05,
    },
    "trigger": {"fires": "flash", "latency_s": 0.0, "set_delay_s": 0.3633, "links": []},
})  # fmt: skip


@pytest.fixture
def glass(shoot) -> Scene:
    return add_scene(shoot, copy.deepcopy(GLASS), "Glass")


@pytest.fixture
def wax(shoot) -> Scene:
    return add_scene(shoot, copy.deepcopy(DROPS), "Wax")


@pytest.fixture
def post(visitor: Client, glass: Scene):
    """Posts to one of the page's addresses; the page's text, or the refusal's."""

    def send(name: str, scene: Scene = glass, status: int = 200, **data: object) -> str:
        answer = visitor.post(reverse(f"dialling:{name}", args=[scene.pk]), data)
        assert answer.status_code == status, answer.content.decode()[:400]
        scene.refresh_from_db()
        return answer.content.decode()

    return send


def _delay(scene: Scene) -> float:
    return float(get(scene.document, DELAY))


def test_the_page_offers_every_knob_with_its_value(visitor, glass, wax) -> None:
    shown = visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    for words in ("Flash delay", "Microphone, distance", ">3 ms<", "50 cm"):
        assert words in shown
    assert "Second release" not in shown
    assert "Second release" in visitor.get(reverse("dialling:page", args=[wax.pk])).content.decode()


def test_a_dial_in_from_the_first_try_to_the_last(post, glass) -> None:
    """A set that is 4.2 ms later than planned is found, and each try is a take of the log."""
    post("begin", path=DELAY)
    right = 0.003 + 0.0042
    for step in range(10):
        off = _delay(glass) - right
        page = post(
            "outcome",
            outcome="on" if abs(off) < 0.0012 else "early" if off < 0 else "late",
            seen=step,
        )
        if "Dialled in" in page:
            break
    assert "Dialled in" in page
    assert "on this set it happens" in page
    assert _delay(glass) == pytest.approx(right, abs=0.0012)
    assert Take.objects.filter(scene=glass).count() == step + 1 == Step.objects.count()
    assert Take.objects.order_by("number").first().outcome == "early"
    assert "Set delay 3 ms →" in Take.objects.get(number=2).changed


def test_it_resumes_tomorrow_and_elsewhere(post, visitor, glass) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early", off="2 ms")
    proposed = _delay(glass)
    state = DialPage(glass, answered(glass.document), services.open_of(glass)).state
    assert state.found.next_value == proposed  # what is set is what is said, also after it was set
    assert proposed == pytest.approx(0.005, abs=0.0006)
    shown = visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    assert "Take 1" in shown
    assert "2 ms early" in shown
    assert f"{proposed * 1e3:g}" in shown


def test_a_key_that_is_pressed_twice_counts_once(post, glass) -> None:
    post("begin", path=DELAY)
    for _ in range(2):
        post("outcome", outcome="early", seen="0")
    assert Step.objects.count() == 1


def test_two_knobs_at_once_are_refused_named_and_set_back(post, visitor, glass) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="late")
    change_scene(glass, {"trigger.links[#sound].distance_m": 1.0})
    page = visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    assert "Moved as well since this began" in page
    refused = post("outcome", outcome="early", status=422)
    assert "Two knobs at once teach nothing: " in refused
    assert "50 cm → 1 m" in refused
    assert Take.objects.count() == 1
    before = _delay(glass)
    assert "Moved as well" not in post("set_back")
    assert get(glass.document, "trigger.links[#sound].distance_m") == 0.5
    assert _delay(glass) == before
    post("outcome", outcome="early")
    assert Take.objects.count() == 2


def test_what_moves_no_light_may_change_meanwhile(post, wax) -> None:
    post("begin", wax, path=DELAY)
    change_scene(wax, {"plan.minutes_per_try": 3.0, "rehearsal.background": "grey"})
    post("frame", wax, height="42 mm")
    assert "Moved as well" not in post("outcome", wax, outcome="early")
    assert wax.document["drops"]["observations"] == [{"flash_delay_s": 0.3633, "height_m": 0.042}]


def test_with_another_knob_moved_on_purpose_it_begins_anew(post, glass) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="late")
    change_scene(glass, {"moment.at_s": 0.006})
    page = post("set_back", keep="1")
    assert "Nothing tried yet" in page
    assert DialIn.objects.filter(ended_at__isnull=False).count() == 1


def test_a_plan_stored_before_it_had_drops_is_no_second_knob(post, glass) -> None:
    """What a newer Rapzel completes in a document has not been moved by anybody."""
    older = {key: value for key, value in glass.document.items() if key != "drops"}
    Scene.objects.filter(pk=glass.pk).update(document=older)
    post("begin", path=DELAY)
    for _ in range(2):
        assert "Moved as well" not in post("outcome", outcome="early")


def test_a_scene_that_is_refused_leads_to_its_mending(visitor, glass) -> None:
    broken = {**glass.document, "motion": {**glass.document["motion"], "colour": "red"}}
    Scene.objects.filter(pk=glass.pk).update(document=broken)
    answer = visitor.get(reverse("dialling:page", args=[glass.pk]))
    assert answer.status_code == 422
    assert "colour" in answer.content.decode()


def test_a_knob_that_is_gone_is_said(post, visitor, glass) -> None:
    post("begin", path="trigger.links[#sound].distance_m")
    change_scene(glass, {"trigger.links": [glass.document["trigger"]["links"][1]]})
    page = visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    assert "no longer in this scene" in page
    assert "no longer in this scene" in post("outcome", outcome="late", status=422)
    assert "Which knob?" in post("leave")


def test_the_last_outcome_is_taken_back_with_its_take(post, glass) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early")
    assert _delay(glass) != 0.003
    assert "Nothing tried yet" in post("undo")
    assert _delay(glass) == 0.003
    assert Take.objects.get().deleted_at is not None
    assert "Nothing was tried yet" in post("undo", status=422)


def test_a_take_that_is_removed_from_the_log_is_out_of_the_path(post, glass) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early")
    Take.objects.get().put_away()
    assert "Nothing tried yet" in post("value", value="4 ms")
    assert _delay(glass) == 0.004


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("outcome", {"outcome": "perhaps"}, "An outcome is one of early, late, on"),
        ("outcome", {"outcome": "early", "off": "a bit"}, "“a bit” is not"),
        ("value", {"value": "often"}, "“often” is not a duration"),
        ("value", {"value": "2 h"}, "is not a duration"),
        ("frame", {"height": "4 cm"}, "This scene has no drops"),
        ("frame", {"height": "high"}, "“high” is not a length"),
        (
            "begin",
            {"path": "exposure.iso"},
            "That is no knob of this scene. There are: Flash delay",
        ),
    ],
)
def test_what_is_refused_is_said_and_nothing_is_logged(
    post, glass, name: str, data: dict, says: str
) -> None:
    post("begin", path=DELAY)
    assert says in post(name, status=422, **data)
    assert Take.objects.count() == 0
    assert _delay(glass) == 0.003


@pytest.mark.parametrize("name", ["outcome", "value", "undo", "set_back"])
def test_without_a_dial_in_there_is_nothing_to_say(post, name: str) -> None:
    assert "No knob is being dialled in" in post(name, status=422, outcome="on", value="1 ms")


def test_one_knob_at_a_time_is_kept_by_the_database(post, glass) -> None:
    post("begin", path=DELAY)
    with pytest.raises(IntegrityError):
        DialIn.objects.create(scene=glass, path=DELAY, name="x", document=glass.document)


def test_the_second_release_is_not_taken_for_the_light(post, wax) -> None:
    """Its drop is early or late, not the light: the take says so and teaches the timing nothing."""
    post("begin", wax, path=services.SECOND)
    assert get(wax.document, services.SECOND) == pytest.approx(0.138, abs=0.003)  # as solved
    post("outcome", wax, outcome="early", off="3 ms")
    take = Take.objects.get()
    assert take.late_s is None
    assert take.note.startswith("Second drop early.")
    assert Step.objects.get().offset_s == -0.003


# --- pictures ---


def _png(size: tuple[int, int] = (1600, 900)) -> SimpleUploadedFile:
    out = io.BytesIO()
    Image.new("RGBA", size, (200, 100, 50, 255)).save(out, "PNG")
    return SimpleUploadedFile("frame.png", out.getvalue(), "image/png")


def test_a_persons_own_frame_is_kept_small_with_its_take(post, visitor) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early", picture=_png())
    answer = visitor.get(reverse("takes:picture", args=[Take.objects.get().pk]))
    assert answer["Content-Type"] == "image/jpeg"
    with Image.open(io.BytesIO(answer.content)) as kept:
        assert max(kept.size) == 1200


@pytest.mark.parametrize(
    "content", [b"", b"no picture", b"\x89PNG\r\n\x1a\n" + b"\0" * 200, b"<svg></svg>"]
)
def test_a_broken_picture_is_refused_and_the_try_is_not_logged(post, content: bytes) -> None:
    post("begin", path=DELAY)
    file = SimpleUploadedFile("frame.png", content or b" ", "image/png")
    assert "cannot be read as a picture" in post(
        "outcome", outcome="early", picture=file, status=422
    )
    assert Take.objects.count() == 0


def test_pictures_go_along_and_an_account_holds_so_many(post, visitor, owner, settings) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early", picture=_png())
    names = [name for name, _ in belongings_of_takes.tell(owner)]
    assert any(name.endswith("/take-1.jpg") for name in names)
    settings.QUOTAS = {**settings.QUOTAS, "pictures of takes": 1}
    refused = post("outcome", outcome="early", picture=_png(), status=422)
    assert "Up to 1 pictures of takes fit into one account" in refused
    assert Take.objects.count() == 1


def test_a_simulated_shot_shows_the_subject_where_the_sets_truth_puts_it(glass, wax) -> None:
    """Of a set that is late the picture is that of the plan with its instant as much later."""
    shot = shot_row(glass)
    late = answered(pictures.displaced(glass.document, 0.004))
    offset = answered(glass.document).physics.timing.offset_m
    assert late.physics.timing.offset_m == pytest.approx(offset - 0.004 * 6.0, abs=1e-6)
    usual, unanswered = (
        pictures.picture_of(shot),
        pictures.picture_of(shot_row(glass, answered="no")),
    )
    assert usual != unanswered
    assert pictures.picture_of(shot_row(glass, rig_late_s="0")) != usual
    assert pictures.picture_of(shot_row(wax, rig_late_s="0.02")) != pictures.picture_of(
        shot_row(wax, rig_late_s="0")
    )
    assert pictures.picture_of(shot_row(glass, rig_late_s="nonsense")) is None


def test_where_no_instant_is_stated_the_delay_carries_the_lateness() -> None:
    document = changed(GLASS, {"moment": {}})
    assert get(pictures.displaced(document, 0.001), DELAY) == pytest.approx(0.002)
    assert get(pictures.displaced(document, 0.9), DELAY) == 0.0


def test_the_side_view_shows_a_drop_above_the_tip_before_they_meet_and_a_splash_after(wax) -> None:
    from rapzel.core.drops.plan import planned  # noqa: PLC0415  for this test alone

    physics = answered(wax.document).physics
    plan = planned(physics.scene.drops)
    at, release = plan.meeting.at_s, plan.meeting.second_release_s
    before, after = (
        pictures.side_view(plan, physics, release, at + off) for off in (-0.006, 0.006)
    )
    assert before.splash is None
    assert before.drops[0][0] > before.jet_m > 0.03
    assert after.drops == []
    assert after.splash == (pytest.approx(plan.meeting.height_m), pytest.approx(0.006))
    early = pictures.side_view(plan, physics, release, plan.first.impact_s + 0.01)
    assert early.crater_m > 0
    assert early.jet_m == 0


# --- the unit ---


@pytest.fixture
def unit(settings):
    with standing_in() as settings.TRIGGER_UNIT:
        settings.TRIGGER_UNIT_PLAYS = True
        yield settings.TRIGGER_UNIT


def test_without_a_unit_there_is_none_on_the_page(visitor, post, glass) -> None:
    assert (
        "Trigger unit</h2>"
        not in visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    )
    post("fire", status=404)
    post("wake", status=404)


def test_firing_answers_at_once_and_the_shot_goes_on_beside(
    post, visitor, glass, unit, django_capture_on_commit_callbacks, monkeypatch
) -> None:
    begun = []
    monkeypatch.setattr(
        "rapzel.dialling.shots._thread",
        lambda pk: begun.append(pk) or type("T", (), {"start": int})(),
    )
    with django_capture_on_commit_callbacks(execute=True):
        page = post("fire", channel="4", fault="slow")
    assert "Talking to the unit" in page
    assert "every 250ms" in page
    shot = Shot.objects.get()
    assert begun == [shot.pk]
    assert shot.sent["channel"] == 4
    assert shot.sent["delay_s"] == 0.003
    assert shot.sent["seed"] == glass.pk
    assert shot.sent["late_within_s"] == pytest.approx(0.006)
    assert "Talking" in visitor.get(reverse("dialling:unit", args=[glass.pk])).content.decode()
    Shot.objects.update(state="armed")
    assert (
        "waiting for the event"
        in visitor.get(reverse("dialling:unit", args=[glass.pk])).content.decode()
    )


@pytest.mark.parametrize("channel", ["0", "17", "x", "", "٣"])
def test_a_channel_that_is_none_is_refused(post, unit, channel: str) -> None:
    assert "Accepted: 1 to 16" in post("fire", channel=channel, status=422)
    assert Shot.objects.count() == 0


def test_with_two_knobs_moved_nothing_is_fired(post, glass, unit) -> None:
    post("begin", path=DELAY)
    change_scene(glass, {"moment.at_s": 0.02})
    assert "set it back first" in post("fire", channel="1", status=422)


def test_only_a_shot_of_the_plan_as_it_is_can_be_judged(post, visitor, glass, unit) -> None:
    post("begin", path=DELAY)
    shot = shot_row(glass)
    page = visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    assert "As it is set now" in page
    after = post("outcome", outcome="early", shot=shot.pk)
    assert "the knob has moved since" in after
    assert Take.objects.get().picture.content_type == "image/jpeg"
    assert Take.objects.get().note == "Fired."
    post("outcome", outcome="early", shot=shot.pk)
    assert not hasattr(Take.objects.order_by("number").last(), "picture")


def test_a_shot_whose_process_is_gone_is_said_to_have_broken_off(visitor, glass, unit) -> None:
    Shot.objects.create(scene=glass, sent={}, document=glass.document, at="2026-01-01T00:00Z")
    page = visitor.get(reverse("dialling:unit", args=[glass.pk])).content.decode()
    assert "broke off" in page
    assert "every 250ms" not in page


def test_undo_of_the_scene_and_the_dial_in_go_together(post, glass) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early")
    history.undo(glass)
    glass.refresh_from_db()
    assert _delay(glass) == 0.003
    page = DialPage(glass, answered(glass.document), services.open_of(glass))
    assert not page.state.moved  # the knob itself may be anywhere


def test_it_goes_along_when_a_person_leaves(post, owner, glass) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="late", off="1 ms")
    ((name, csv),) = tell(owner)
    assert name == "dial-ins.csv"
    assert "Glass,trigger.set_delay_s," in csv
    assert ",0.003,late,0.001" in csv
    shot = shot_row(glass)
    Shot.objects.filter(pk=shot.pk).update(at="2026-01-01T00:00Z")
    tidy()
    assert not Shot.objects.exists()
