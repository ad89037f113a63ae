"""The dial-in page: its verbs, its refusals, its pictures, and the trigger unit beside it."""

import pytest
from django.db import IntegrityError
from django.urls import reverse

from rapzel.core.document.places import get
from rapzel.dialling import services
from rapzel.dialling.models import DialIn, DialStep
from rapzel.dialling.page import DialPage
from rapzel.dialling.state import SECOND, Dialling, NotNow, open_of
from rapzel.shoots.models import Scene
from rapzel.shoots.services import change_scene
from rapzel.takes.models import Take
from rapzel.workbench.answer import answered
from tests.apps.dial_plans import DELAY


def _delay(scene: Scene) -> float:
    return float(get(scene.document, DELAY))


def test_the_page_offers_every_knob_with_its_value(visitor, glass, wax) -> None:
    shown = visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    for words in ("Flash delay", "Microphone, distance", ">3 ms<", "50 cm"):
        assert words in shown
    assert "Second release" not in shown
    assert (
        "Second release"
        in visitor.get(reverse("dialling:page", args=[wax.pk])).content.decode()
    )


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
    assert (
        Take.objects.filter(scene=glass).count() == step + 1 == DialStep.objects.count()
    )
    assert Take.objects.order_by("number").first().outcome == "early"
    assert "Set delay 3 ms →" in Take.objects.get(number=2).changed


def test_it_resumes_tomorrow_and_elsewhere(post, visitor, glass) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early", off="2 ms")
    proposed = _delay(glass)
    state = DialPage(glass, answered(glass.document), open_of(glass)).state
    # what is set is what is said, also after it was set
    assert state.found.next_value == proposed
    assert proposed == pytest.approx(0.005, abs=0.0006)
    shown = visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    assert "Take 1" in shown
    assert "2 ms early" in shown
    assert f"{proposed * 1e3:g}" in shown


def test_what_was_left_by_mistake_is_taken_up_again(post, visitor, glass, wax) -> None:
    post("begin", path=DELAY)
    post("outcome", outcome="early")
    proposed = _delay(glass)
    left = open_of(glass)
    post("leave")
    assert (
        "Go on"
        in visitor.get(reverse("dialling:page", args=[glass.pk])).content.decode()
    )
    assert "Take 1" in post("resume", dial_in=left.pk)
    assert open_of(glass) == left
    assert _delay(glass) == proposed
    for other in ("", "0", "x", str(2**70)):
        assert "not of this scene" in post("resume", status=422, dial_in=other)
    assert "not of this scene" in post("resume", wax, status=422, dial_in=left.pk)


def test_a_key_that_is_pressed_twice_counts_once(post, glass) -> None:
    post("begin", path=DELAY)
    for _ in range(2):
        post("outcome", outcome="early", seen="0")
    assert DialStep.objects.count() == 1


def test_a_try_that_another_tab_has_overtaken_is_refused(post, glass) -> None:
    post("begin", path=DELAY)
    stale = Dialling(open_of(glass), glass, answered(glass.document))
    assert stale.steps == []
    post("outcome", outcome="early")
    with pytest.raises(NotNow, match="Another tab"):
        services.record(stale, services.Judgement("early"))
    assert DialStep.objects.count() == 1


def test_tries_that_waited_count_at_what_they_were_tried_with(post, glass) -> None:
    """Three tries at 3 ms, judged without a connection; the first one moves the knob before the others come."""
    post("begin", path=DELAY)
    dial_in = open_of(glass)
    for key in ("one", "two", "three"):
        post(
            "outcome",
            outcome="early",
            key=key,
            tried="0.003",
            dial_in=dial_in.pk,
            note=f"note {key}",
        )
    assert _delay(glass) > 0.003
    assert [step.value for step in dial_in.steps.all()] == [0.003] * 3
    takes = Take.objects.filter(scene=glass).order_by("number")
    assert [get(take.document, DELAY) for take in takes] == [0.003] * 3
    assert [take.note for take in takes] == ["note one", "note two", "note three"]


def test_a_try_that_is_sent_again_counts_once(post, glass) -> None:
    post("begin", path=DELAY)
    for _ in range(2):
        post("outcome", outcome="early", key="the same", tried="0.003")
    assert DialStep.objects.count() == Take.objects.count() == 1


def test_a_try_of_a_dial_in_that_was_left_is_refused_in_words(post, glass) -> None:
    post("begin", path=DELAY)
    left = open_of(glass)
    post("begin", path="trigger.links[#sound].distance_m")
    assert "a dial-in that was left" in post(
        "outcome", status=422, outcome="on", dial_in=left.pk
    )
    post("leave")
    assert "a dial-in that was left" in post(
        "outcome", status=422, outcome="on", dial_in=left.pk
    )
    assert Take.objects.count() == 0


@pytest.mark.parametrize("tried", ["1e99", "-1", "nan", "٣", "x" * 5000])
def test_a_value_that_the_knob_cannot_have_had_stores_nothing_of_it(
    post, glass, tried
) -> None:
    post("begin", path=DELAY)
    answer = post(
        "outcome", outcome="early", tried=tried, status=422 if tried[0] in "1-" else 200
    )
    assert answer
    assert {step.value for step in DialStep.objects.all()} <= {0.003}


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


def test_the_other_knob_of_a_collision_is_named(post, visitor, wax) -> None:
    """The drops stand on their tool's page; their second release is named all the same."""
    change_scene(wax, {"drops.second_set_s": 0.138})
    post("begin", wax, path=DELAY)
    change_scene(wax, {"drops.second_set_s": 0.1465, "drops.liquid": "milk"})
    page = visitor.get(reverse("dialling:page", args=[wax.pk])).content.decode()
    assert "<b>Second release as set</b> 138 ms → 146.5 ms" in page
    assert "<b>Liquid</b> water → milk" in page
    post("set_back", wax)
    assert wax.document["drops"]["second_set_s"] == 0.138
    change_scene(wax, {"drops": None})
    assert "Drops (as they were → none)" in post(
        "outcome", wax, outcome="early", status=422
    )


def test_what_moves_no_light_may_change_meanwhile(post, wax) -> None:
    post("begin", wax, path=DELAY)
    change_scene(wax, {"plan.minutes_per_try": 3.0, "rehearsal.background": "grey"})
    post("frame", wax, height="42 mm")
    assert "Moved as well" not in post("outcome", wax, outcome="early")
    assert wax.document["drops"]["observations"] == [
        {"flash_delay_s": 0.3633, "height_m": 0.042}
    ]


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
    assert "No knob is being dialled in" in post(
        name, status=422, outcome="on", value="1 ms"
    )


def test_one_knob_at_a_time_is_kept_by_the_database(post, glass) -> None:
    post("begin", path=DELAY)
    with pytest.raises(IntegrityError):
        DialIn.objects.create(
            scene=glass, path=DELAY, name="x", document=glass.document
        )


def test_the_second_release_is_not_taken_for_the_light(post, wax) -> None:
    """Its drop is early or late, not the light: the take says so and teaches the timing nothing."""
    post("begin", wax, path=SECOND)
    # as solved
    assert get(wax.document, SECOND) == pytest.approx(0.138, abs=0.003)
    post("outcome", wax, outcome="early", off="3 ms")
    take = Take.objects.get()
    assert take.late_s is None
    assert take.note.startswith("Second drop early.")
    assert DialStep.objects.get().offset_s == -0.003
