"""The scene page and its inputs, as a browser without scripts would see them."""

import json
import re

import pytest
from django.urls import reverse

from rapzel.core.possible import read_possible_scene
from rapzel.kit.models import Strobe
from rapzel.shoots import services
from rapzel.shoots.documents import stored_form
from rapzel.workbench.answer import Answer
from rapzel.workbench.groups import all_fields, differences, field_at, groups_of
from tests.apps.asking import put, stored


def test_the_page_shows_sentence_margins_and_inputs(visitor, scene) -> None:
    shown = visitor.get(reverse("workbench:scene", args=[scene.pk])).content.decode()
    said = "No ghost, but smeared over 3.7 px where 2 are allowed and probably 0.5 stop short of light; "
    assert said in shown
    for title in ("Freeze", "Light", "Ghost", "Sync", "Timing", "Pace"):
        assert f'<span class="name">{title}</span>' in shown
    assert 'value="1/16"' in shown
    assert "log2(t_freeze / t.1 Key)" in shown, "the working is on the page"


@pytest.mark.parametrize(
    ("path", "typed", "value"),
    [
        ("exposure.shutter_s", "1/250 s", 0.004),
        ("exposure.iso", "ISO 800", 800.0),
        ("exposure.f_number", "f/5.6", 5.6),
        ("lights[#light-1].power", "-5 stops", 1 / 32),
        ("lights[#light-1].distance_m", "8 ft", 2.4384),
        ("motion.speed_m_s", "60 km/h", 60 / 3.6),
        ("trigger.latency_s", "350us", 350e-6),
        ("ambient.ev100", "", None),
        ("plan.keepers_wanted", "4", 4),
        ("lights[#light-1].name", "Main light", "Main light"),
    ],
)
def test_what_people_write_is_stored_in_si(
    visitor, scene, path: str, typed: str, value
) -> None:
    answer = put(visitor, scene, path, typed)
    assert answer.status_code == 200
    found = services.places.get(stored(scene), path)
    assert found == (pytest.approx(value) if isinstance(value, float) else value)
    events = json.loads(answer["HX-Trigger-After-Settle"])["rapzel:changed"]
    assert json.loads(answer["HX-Trigger"])["rapzel:revision"] == {"revision": 2}
    assert (
        f"f-{field_at(stored(scene), path).key}".removeprefix("f-") in events["fields"]
    )


@pytest.mark.parametrize(
    ("path", "typed", "says"),
    [
        ("exposure.shutter_s", "soon", "“soon” is not a duration. Accepted: 1/8000"),
        (
            "exposure.shutter_s",
            "1/64000",
            "shorter than this camera&#x27;s fastest, 1/8000",
        ),
        (
            "lights[#light-1].power",
            "1/512",
            "below the strobe&#x27;s range, which ends at 1/256",
        ),
        ("lens.subject_distance_m", "2 cm", "nearer than the focal length"),
        ("lights[#light-1].power", "<script>", "&lt;script&gt;"),
    ],
)
def test_what_is_wrong_is_said_beside_the_input_and_not_stored(
    visitor, scene, path, typed, says
) -> None:
    before = stored(scene)
    answer = put(visitor, scene, path, typed)
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert answer["HX-Reswap"] == "none", "the answer on the page stays"
    assert stored(scene) == before


def test_the_answer_comes_with_the_change(visitor, scene) -> None:
    shown = put(visitor, scene, "lights[#light-1].power", "1/256").content.decode()
    assert "Probably frozen (1.9 px)" in shown
    assert 'id="s-lights" hx-swap-oob="innerHTML">Key 1/256<' in shown
    assert "<input" not in shown, (
        "the inputs are left alone, so that focus and caret stay"
    )


def test_choices_bring_their_inputs(visitor, scene) -> None:
    shown = put(visitor, scene, "motion.kind", "leap").content.decode()
    assert 'id="f-motion-rise-m"' in shown
    assert 'id="f-motion-speed-m-s"' not in shown


def test_hazards_bring_their_cautions(visitor, scene) -> None:
    shown = put(visitor, scene, "hazards", "1", member="glass").content.decode()
    assert "Eye protection for everybody" in shown
    assert stored(scene)["hazards"] == ["glass"]
    put(visitor, scene, "hazards", "0", member="glass")
    assert stored(scene)["hazards"] == []


@pytest.mark.parametrize(
    "path",
    [
        "camera.name",
        "format",
        "x-any",
        "lights[#light-1].strobe.circuit",
        "lights[0].power",
        "lights[#no].power",
        "__class__",
        "",
    ],
)
def test_only_inputs_can_be_set(visitor, scene, path: str) -> None:
    assert put(visitor, scene, path, "1").status_code == 404


def test_stepping_by_thirds(visitor, scene) -> None:
    def step(path: str, direction: str, typed: str = ""):
        return visitor.post(
            reverse("workbench:step", args=[scene.pk]),
            {"path": path, "direction": direction, "typed": typed},
        )

    assert step("exposure.iso", "up").status_code == 200
    assert stored(scene)["exposure"]["iso"] == 250
    step("exposure.f_number", "down")
    assert stored(scene)["exposure"]["f_number"] == 7.1
    step("lights[#light-1].power", "down")
    assert stored(scene)["lights"][0]["power"] == pytest.approx(2 ** (-13 / 3))
    step("exposure.shutter_s", "up", typed="1/60")
    assert stored(scene)["exposure"]["shutter_s"] == pytest.approx(1 / 50), (
        "from what was typed, not from what is stored"
    )
    step("exposure.iso", "up", typed="4oo")
    assert stored(scene)["exposure"]["iso"] == 320
    assert step("lens.subject_distance_m", "down", typed="0.051").status_code == 422


def test_proposals_are_applied_by_one_press(visitor, scene) -> None:
    shown = visitor.get(reverse("workbench:scene", args=[scene.pk])).content.decode()
    found = re.findall(r"hx-vals='(\{\"values\".*?)'>", shown)
    values = json.loads(found[0].replace("&quot;", '"'))["values"]
    answer = visitor.post(
        reverse("workbench:act", args=[scene.pk, "apply"]), {"values": values}
    )
    assert answer.status_code == 200
    (closed,) = re.findall(r'id="fix-(\w+)-1"', shown)[:1]
    margin = Answer(stored(scene)).evaluation.margin(closed)
    assert margin.state in ("passes", "unsure")
    assert not margin.probably_fails


@pytest.mark.parametrize(
    ("values", "status"),
    [("", 422), ("[]", 404), ('{"format": 1}', 404), ('{"lights[0].strobe": {}}', 404), ("not json", 422),
     ("[" * 100_000, 422), ('{"motion.kind": ["leap"]}', 422), ('{"motion.kind": {"a": 1}}', 422)],
)  # fmt: skip
def test_only_inputs_can_be_applied(visitor, scene, values: str, status: int) -> None:
    before = stored(scene)
    assert (
        visitor.post(
            reverse("workbench:act", args=[scene.pk, "apply"]), {"values": values}
        ).status_code
        == status
    )
    assert stored(scene) == before


def test_verbs_take_from_the_own_kit_only(visitor, scene, kit, stranger) -> None:
    foreign = Strobe.objects.create(owner=stranger, name="Not yours")
    url = reverse("workbench:act", args=[scene.pk, "add-light"])
    assert visitor.post(url, {"pk": foreign.pk}).status_code == 404
    assert (
        visitor.post(url, {"pk": Strobe.objects.get(name="Hot-shoe 60").pk}).status_code
        == 200
    )
    assert len(stored(scene)["lights"]) == 2
    assert visitor.post(url, {"pk": "x"}).status_code == 404
    assert (
        visitor.post(reverse("workbench:act", args=[scene.pk, "explode"])).status_code
        == 404
    )


def test_a_refused_verb_is_a_notice(visitor, scene) -> None:
    for gone in ("light-7", "-1", ""):
        answer = visitor.post(
            reverse("workbench:act", args=[scene.pk, "remove-light"]), {"item": gone}
        )
        assert (answer.status_code, answer["HX-Retarget"]) == (422, "#notices")
        assert "that light is no longer in this scene" in answer.content.decode()
    assert len(stored(scene)["lights"]) == 1


def test_imperial_people_see_and_write_feet(visitor, owner, scene) -> None:
    owner.imperial = True
    owner.save()
    shown = visitor.get(reverse("workbench:scene", args=[scene.pk])).content.decode()
    assert 'value="6.56 ft"' in shown
    put(visitor, scene, "lights[#light-1].distance_m", "10")
    assert stored(scene)["lights"][0]["distance_m"] == pytest.approx(3.048)


def test_every_input_reads_what_it_shows(document) -> None:
    """What a field shows is something that it accepts, and it means the same to the digits shown."""
    document["trigger"]["links"] = [
        {"name": "Mic", "kind": "sound", "lag_s": 0.001, "distance_m": 1.0}
    ]
    stored = stored_form(document)
    for imperial in (False, True):
        for field in all_fields(groups_of(stored, imperial)):
            if not field.quantity or not field.text:
                continue
            value = services.places.get(stored, field.path)
            assert field.read(field.text, stored, imperial) == pytest.approx(
                value, rel=6e-3, abs=1e-9
            ), field.path


def test_differences_name_what_is_not_the_same(document) -> None:
    one = read_possible_scene(document).to_document()
    other = services.places.changed(
        one, {"lights[0].power": 1 / 32, "hazards": ["glass"], "exposure.method": "hss"}
    )
    assert dict(differences([one, other])) == {
        "Key Power": ["1/16", "1/32"],
        "Method": ["short pulse, at or below sync", "high-speed sync"],
        "Flash at the": ["first curtain", "–"],
        "glass": ["no", "yes"],
    }


def test_a_usual_speed_begins_the_motion_and_keeps_its_direction(
    visitor, scene
) -> None:
    services.change_scene(scene, {"motion.kind": "leap", "motion.angle_deg": 60.0})
    answer = visitor.post(
        reverse("workbench:act", args=[scene.pk, "use-speed"]), {"pk": "4"}
    )
    scene.refresh_from_db()
    assert answer.status_code == 200
    assert scene.document["motion"]["kind"] == "steady"
    assert scene.document["motion"]["speed_m_s"] == 18.0  # a kicking foot
    assert scene.document["motion"]["angle_deg"] == 60.0
    assert (
        visitor.post(
            reverse("workbench:act", args=[scene.pk, "use-speed"]), {"pk": "99"}
        ).status_code
        == 404
    )


def test_a_trail_may_be_said_in_pixels_or_as_a_hand_and_the_shutter_follows(
    visitor, scene
) -> None:
    put(visitor, scene, "look.room", "trail")
    assert stored(scene)["look"]["trail_m"] == 0.19
    assert stored(scene)["exposure"]["shutter_s"] == pytest.approx(1 / 50), (
        "9 m/s over 0.19 m"
    )
    put(visitor, scene, "look.trail_m", "474 px")
    assert stored(scene)["look"]["trail_m"] == pytest.approx(
        474 * 6e-6 / (50 / 3950), rel=1e-6
    )
    refused = put(visitor, scene, "look.trail_m", "a mile or so")
    assert refused.status_code == 422
    assert "120 px" in refused.content.decode()


def test_a_slider_says_where_it_stands(visitor, scene) -> None:
    put(visitor, scene, "look.room", "lit")
    put(visitor, scene, "look.room_stops", "-2")
    shown = visitor.get(reverse("workbench:scene", args=[scene.pk])).content.decode()
    assert 'type="range" class="slide" min="-6.0" max="1.0"' in shown
    assert 'value="-2.0"' in shown
