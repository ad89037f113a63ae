"""Pictures of a dial-in's tries, and the trigger unit beside its page."""

import io

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image

from rapzel.core.decoding import apart
from rapzel.core.document.places import changed, get
from rapzel.core.rehearsal.render import RenderTooLong
from rapzel.dialling import pictures, services
from rapzel.dialling.models import Shot
from rapzel.dialling.page import DialPage
from rapzel.dialling.personal_data import tell, tidy
from rapzel.dialling.state import open_of
from rapzel.shoots import history
from rapzel.shoots.models import Scene
from rapzel.shoots.services import change_scene
from rapzel.takes import personal_data as data_of_takes
from rapzel.takes.models import Take
from rapzel.workbench.answer import answered
from tests.apps.dial_plans import DELAY, GLASS
from tests.apps.rows import shot_row
from tests.apps.units import standing_in


def _delay(scene: Scene) -> float:
    return float(get(scene.document, DELAY))


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
def test_a_broken_picture_is_refused_and_the_try_is_not_logged(
    post, content: bytes
) -> None:
    post("begin", path=DELAY)
    file = SimpleUploadedFile("frame.png", content or b" ", "image/png")
    assert "that can be read" in post(
        "outcome", outcome="early", picture=file, status=422
    )
    assert Take.objects.count() == 0


def test_pictures_go_along_and_an_account_holds_so_many(
    post, visitor, owner, settings
) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early", picture=_png())
    names = [name for name, _ in data_of_takes.tell(owner)]
    assert any(name.endswith("/take-1.jpg") for name in names)
    settings.QUOTAS = {**settings.QUOTAS, "pictures of takes": 1}
    refused = post("outcome", outcome="early", picture=_png(), status=422)
    assert "Up to 1 pictures of takes fit into one account" in refused
    assert Take.objects.count() == 1


def test_where_too_many_pictures_come_at_once_the_try_is_to_be_sent_again(
    post, settings
) -> None:
    """503: the browser keeps the try, its note and its picture, and sends them again."""
    post("begin", path=DELAY)
    with apart.one_at_a_time(settings.DECODER_LOCK):
        said = post("outcome", outcome="early", picture=_png(), status=503)
    assert "Other pictures are being read just now" in said
    assert Take.objects.count() == 0
    post("outcome", outcome="early", picture=_png())
    assert Take.objects.get().picture.image


def test_what_was_seen_counts_where_its_picture_takes_too_long(
    post, glass, monkeypatch
) -> None:
    def too_long(shot: Shot) -> None:
        raise RenderTooLong("This picture takes too long to compute.")

    monkeypatch.setattr(services, "picture_of", too_long)
    post("begin", path=DELAY)
    post("outcome", outcome="early", shot=shot_row(glass).pk)
    take = Take.objects.get()
    assert take.outcome == "early"
    assert not hasattr(take, "picture")
    assert take.note.endswith(
        "No picture is kept of this try. This picture takes too long to compute."
    )


def test_a_simulated_shot_shows_the_subject_where_the_sets_truth_puts_it(
    glass, wax
) -> None:
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


def test_the_side_view_shows_a_drop_above_the_tip_before_they_meet_and_a_splash_after(
    wax,
) -> None:
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
    assert (
        "Talking"
        in visitor.get(reverse("dialling:unit", args=[glass.pk])).content.decode()
    )
    Shot.objects.update(state="armed")
    assert (
        "waiting for the event"
        in visitor.get(reverse("dialling:unit", args=[glass.pk])).content.decode()
    )


@pytest.mark.parametrize("channel", ["0", "17", "x", "", "٣"])
def test_a_channel_that_is_none_is_refused(post, unit, channel: str) -> None:
    assert "Accepted: 1 to 16" in post("fire", channel=channel, status=422)
    assert Shot.objects.count() == 0


@pytest.mark.parametrize("report", [{"pulses": "2"}, {"answered": "no"}])
def test_a_shot_that_went_wrong_is_not_to_be_judged(
    post, visitor, glass, unit, report: dict
) -> None:
    """Two lights in one picture, or none: its picture is shown, and goes with no try."""
    post("begin", path=DELAY)
    shot = shot_row(glass, **report)
    page = visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    assert "Not to be judged" in page
    assert 'name="shot"' not in page
    post("outcome", outcome="early", shot=shot.pk)
    assert not hasattr(Take.objects.get(), "picture")


def test_a_shot_outside_of_a_dial_in_is_logged_once(post, glass, unit) -> None:
    assert "Fire first" in post("log", status=422, outcome="keep")
    shot_row(glass)
    assert "An outcome is one of keep" in post("log", status=422, outcome="on")
    assert "Logged as take 1: keep" in post("log", outcome="keep")
    post("log", outcome="late")  # its key pressed again
    take = Take.objects.get()
    assert (take.outcome, take.note, take.picture.content_type) == (
        "keep",
        "Fired.",
        "image/jpeg",
    )


def test_with_two_knobs_moved_nothing_is_fired(post, glass, unit) -> None:
    post("begin", path=DELAY)
    change_scene(glass, {"moment.at_s": 0.02})
    assert "set it back first" in post("fire", channel="1", status=422)


def test_only_a_shot_of_the_plan_as_it_is_can_be_judged(
    post, visitor, glass, unit
) -> None:
    post("begin", path=DELAY)
    shot = shot_row(glass)
    page = visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    assert "As it is set now" in page
    after = post("outcome", outcome="early", shot=shot.pk)
    assert "An older shot: fire again" in after
    assert Take.objects.get().picture.content_type == "image/jpeg"
    assert Take.objects.get().note == "Fired."
    post("outcome", outcome="early", shot=shot.pk)
    assert not hasattr(Take.objects.order_by("number").last(), "picture")


def test_a_shot_whose_process_is_gone_is_said_to_have_broken_off(
    visitor, glass, unit
) -> None:
    Shot.objects.create(
        scene=glass, sent={}, document=glass.document, at="2026-01-01T00:00Z"
    )
    page = visitor.get(reverse("dialling:unit", args=[glass.pk])).content.decode()
    assert "broke off" in page
    assert "every 250ms" not in page


def test_undo_of_the_scene_and_the_dial_in_go_together(post, glass) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early")
    history.undo(glass)
    glass.refresh_from_db()
    assert _delay(glass) == 0.003
    page = DialPage(glass, answered(glass.document), open_of(glass))
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
