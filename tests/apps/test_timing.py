"""The timing page: its parts, what follows a change on it, recordings, the finger of a drill, and its pictures."""

import io

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from PIL import Image
from scipy.io import wavfile

from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.rehearsal.outlines import SPREAD, USUAL, outlines
from rapzel.core.verdict.timing_fixes import school_values, schools, with_delay
from rapzel.practice import services as drills
from rapzel.shoots import services
from rapzel.takes.services import log_take

GLASS = {
    "trigger.links": [
        {"kind": "sound", "name": "Microphone", "id": "mic", "lag_s": 0.0002, "jitter_s": 0.0001, "distance_m": 0.5},
        {"kind": "device", "name": "Unit", "id": "unit", "lag_s": 0.0003, "jitter_s": 0.0, "resolution_s": 0.001,
         "lockout_s": 0.3},
        {"kind": "radio", "name": "Radio", "id": "radio", "lag_s": 0.0006, "jitter_s": 0.0001},
    ],
    "moment": {"at_s": 0.012, "lasts_s": 0.006},
    "camera.mirror_s": 0.03,
    "camera.first_curtain_s": 0.01,
}  # fmt: skip


@pytest.fixture
def glass(scene):
    services.change_scene(scene, GLASS)
    return scene


def page(visitor, scene) -> str:
    return visitor.get(reverse("timing:page", args=[scene.pk])).content.decode()


def test_the_page_shows_both_schools_the_lanes_and_the_fixes(visitor, glass) -> None:
    shown = page(visitor, glass)
    assert "The trigger fires the camera, which fires the flash</strong>" in shown
    assert "The shutter stands open, the trigger fires the flash</button>" in shown
    for lane in (
        "Microphone, 0.5 m of",
        "set delay",
        "camera",
        "Radio",
        "trigger to light",
    ):
        assert lane in shown, lane
    for fix in (
        "Mirror up",
        "Electronic first curtain",
        "Open shutter, trigger fires the flash",
        "closer",
    ):
        assert fix in shown, fix
    assert "frame widths" in shown
    assert "2 cm are 58.3 µs" in shown


def test_a_change_here_answers_with_this_page(visitor, glass) -> None:
    address = reverse("workbench:set", args=[glass.pk])
    data = {"path": "trigger.links[#mic].distance_m", "value": "20 cm", "on": "timing"}
    answer = visitor.post(
        address, data, headers={"HX-Request": "true"}
    ).content.decode()
    assert 'class="schools"' in answer
    assert 'id="sensor"' in answer
    assert "microphone 20 cm" in answer
    assert 'class="strip"' not in answer, (
        "the workbench's answer stays on the workbench"
    )
    plain = visitor.post(address, {**data, "on": ""}, headers={"HX-Request": "true"})
    assert 'class="strip"' in plain.content.decode()
    nonsense = visitor.post(
        address, {**data, "on": "soup"}, headers={"HX-Request": "true"}
    )
    assert 'class="strip"' in nonsense.content.decode()


def test_a_school_is_one_press_and_sets_the_delay_in_the_units_steps(
    visitor, glass
) -> None:
    known = read_possible_scene(glass.document)
    there = with_delay(known, school_values(known, "flash"))
    assert there["trigger.fires"] == "flash"
    assert (there["trigger.set_delay_s"] * 1000) % 1 == pytest.approx(0, abs=1e-6), (
        "steps of a millisecond"
    )
    assert "too late" in schools(Physics(known))["camera"].says
    assert "too late" not in schools(Physics(known))["flash"].says


def test_what_is_not_known_is_said(visitor, scene) -> None:
    link = {"kind": "contact", "name": "Foil", "id": "foil"}
    services.change_scene(
        scene, {"trigger.links": [link], "moment": {"at_s": 0.1, "lasts_s": 0.02}}
    )
    shown = page(visitor, scene)
    assert "Timing not known: lag of Foil" in shown
    assert "not-known" in shown, "a dotted bar in the place of the lag"


def test_a_beam_along_the_way_and_other_absurd_geometries_are_words(
    visitor, scene
) -> None:
    beam = {
        "kind": "beam",
        "name": "Beam",
        "id": "beam",
        "lag_s": 0.001,
        "jitter_s": 0.0,
        "distance_m": 0.4,
    }
    for own in (
        {"lies": "across"},
        {"turned_deg": 80.0, "length_m": 0.001},
        {"distance_m": 1e4},
        {"zone_m": 9999.0},
        {"offset_m": -1e4, "length_m": 1.0},
        {"variety": "heat"},
        {"second_m": 0.001},
    ):
        services.change_scene(
            scene, {"trigger.links": [{**beam, **own}], "subject.aside_sd_m": 1e4}
        )
        answer = visitor.get(reverse("timing:page", args=[scene.pk]))
        assert answer.status_code == 200, own
        assert (
            visitor.get(reverse("timing:drawing", args=[scene.pk, "beam"])).status_code
            == 200
        ), own
    fall = {
        "motion": {"kind": "fall", "height_m": 0.5},
        "trigger.links": [{**beam, "second_m": 0.2}],
    }
    services.change_scene(scene, fall)
    assert "Two beams measure a steady speed" in page(visitor, scene)


def clap() -> bytes:
    wave = np.zeros(48_000, dtype="int16")
    wave[24_000:24_200] = 20_000
    wave += np.random.default_rng(1).integers(-20, 20, wave.size, dtype="int16")
    out = io.BytesIO()
    wavfile.write(out, 48_000, wave)
    return out.getvalue()


def test_a_recording_is_read_and_a_hostile_one_refused(visitor, glass) -> None:
    address = reverse("timing:recording", args=[glass.pk])
    good = visitor.post(
        address, {"file": SimpleUploadedFile("clap.wav", clap())}
    ).content.decode()
    assert "1 event" in good
    assert "0 false triggers" in good
    assert "Count it in the chain" in good
    bad = visitor.post(
        address, {"file": SimpleUploadedFile("x.wav", b"RIFF....WAVEjunk")}
    ).content.decode()
    assert "cannot be read" in bad
    assert "Choose a WAV recording" in visitor.post(address).content.decode()


def test_the_finger_of_the_last_drill_becomes_the_chains(visitor, owner, scene) -> None:
    finger = {"kind": "finger", "name": "Finger", "id": "finger", "way": "anticipates"}
    services.change_scene(scene, {"trigger.links": [finger]})
    address = reverse("timing:finger", args=[scene.pk])
    assert (
        "no drill of its way yet"
        in visitor.post(address, {"on": "timing"}).content.decode()
    )
    drills.keep(owner, "lamp", False, [0.2] * 12)
    assert "Twelve tries" in page(visitor, scene), (
        "a drill of reacting says nothing of anticipating"
    )
    drill = drills.keep(
        owner,
        "leap",
        False,
        [0.01, 0.02, 0.03, 0.0, 0.05, 0.04, 0.02, 0.01, 0.03, 0.02, 0.0, 0.01],
    )
    assert "Use it" in page(visitor, scene)
    visitor.post(address, {"on": "timing"}, headers={"HX-Request": "true"})
    scene.refresh_from_db()
    link = scene.document["trigger"]["links"][0]
    assert link["lag_s"] == pytest.approx(drill.result.bias_s)
    assert link["jitter_s"] == pytest.approx(drill.result.spread_s)
    assert link["lag_provenance"] == "measured"
    assert "It is in the chain" in page(visitor, scene)


def test_plan_and_takes_and_the_next_delay(visitor, glass) -> None:
    open_ = {
        "trigger.fires": "flash",
        "exposure.method": "open_shutter",
        "exposure.shutter_s": 1.0,
        "trigger.set_delay_s": 0.01,
    }
    services.change_scene(glass, open_)
    for off in ("3 ms late", "+2.6 ms", "3.4 ms", "3 ms", "2.9 ms late"):
        log_take(glass, "late", off=off)
    log_take(glass, "keep")
    log_take(glass, "late")
    shown = page(visitor, glass)
    assert "your takes say" in shown
    assert "6 late: too late dominates" in shown
    # five offsets of 3 ms on the mean and a keeper on time: 2.5 ms, so 10 − 2.5 in steps of a millisecond
    assert "set the delay to 8\u00a0ms" in shown
    assert "Left out: 1 early or late without an offset" in shown
    services.change_scene(glass, {"trigger.set_delay_s": 0.007})
    assert "No take with this chain yet" in page(visitor, glass), (
        "what was tried before was another chain"
    )


def test_the_outlines_are_drawn_where_physics_puts_the_subject(glass) -> None:
    """The usual outline lies as far off the subject's place as the light comes late; spread moves it either way."""
    wheel = {"subject": "wheel", "size_m": 0.4}
    services.change_scene(
        glass,
        {
            "moment": {"at_s": 0.05, "lasts_s": 0.1},
            "rehearsal": wheel,
            "motion.speed_m_s": 5.0,
            "motion.speed_sd_m_s": 0.5,
        },
    )
    physics = Physics(read_possible_scene(glass.document))
    marks = outlines(physics, (960, 640))

    def middle(kind: int) -> float:
        columns = np.flatnonzero((marks == kind).any(axis=0))
        return float(columns.min() + columns.max()) / 2

    px_per_m = 960 / physics.frame.field_width_m
    assert middle(USUAL) == pytest.approx(
        480 + physics.timing.offset_m * px_per_m, abs=3
    )
    assert physics.timing.offset_m > 0.02
    wide, usual = (
        np.flatnonzero((marks == kind).any(axis=0)) for kind in (SPREAD, USUAL)
    )
    expected = 2 * physics.timing.position_sd_m * px_per_m + usual.max() - usual.min()
    assert wide.max() - wide.min() == pytest.approx(expected, abs=4)


def test_the_marked_picture_is_another_one(visitor, glass) -> None:
    marked = visitor.get(reverse("timing:picture", args=[glass.pk]) + "?draft=1")
    plain = visitor.get(
        reverse("workbench:rehearsal", args=[glass.pk, "jpg"]) + "?draft=1"
    )
    assert (
        Image.open(io.BytesIO(marked.content)).size
        == Image.open(io.BytesIO(plain.content)).size
    )
    assert marked.content != plain.content


def test_drawings_stand_alone_and_unknown_ones_are_not_found(visitor, glass) -> None:
    for name in ("lanes", "sound"):
        answer = visitor.get(reverse("timing:drawing", args=[glass.pk, name]))
        assert answer.content.startswith(b"<svg")
    assert (
        visitor.get(reverse("timing:drawing", args=[glass.pk, "beam"])).status_code
        == 404
    )
    assert (
        visitor.get(reverse("timing:drawing", args=[glass.pk, "soup"])).status_code
        == 404
    )


def test_the_run_sheet_says_where_things_stand_and_what_to_try_first(
    visitor, glass
) -> None:
    services.change_scene(
        glass,
        {
            "plan.uses_up": "one glass",
            "moment": {"at_s": 0.057, "lasts_s": 0.02},
            "criterion.pixels": 60.0,
        },
    )
    for address in (
        reverse("workbench:sheet", args=[glass.pk]),
        reverse("workbench:sheet", args=[glass.pk]) + "?phone",
    ):
        shown = visitor.get(address).content.decode()
        assert "50 cm from where the sound is made" in shown
        assert "A clap at the place of the event" in shown
        assert "Deaf for 300 ms" in shown
        assert "times one glass" in shown
