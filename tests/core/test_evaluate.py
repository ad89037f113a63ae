"""The contract of the evaluation: its keys, its meanings, and that nothing but numbers leaves."""

import json
import math
from typing import get_args

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.possible import read_possible_scene
from rapzel.core.shared.errors import DocumentError
from rapzel.core.shared.part import Hazard
from rapzel.core.verdict.cautions import RULES, cautions_for
from rapzel.core.verdict.margins import MARGINS
from tests.plans import LUNGE

KEYS = {
    "": {
        "format", "version", "freeze_limit_s", "magnification", "speed_across_m_s", "lights", "flash_offset_stops",
        "ambient_offset_stops", "ghost_margin_stops", "smear_px", "ambient_smear_px", "shutter", "timing", "margins",
        "exposure_offset_stops", "clipped_share", "diffraction_px", "trails",
    },
    "shutter": {"worst_row_loss_stops", "dark_share", "fastest_safe_shutter_s", "hss_loss_stops", "skew_px"},
    "timing": {
        "flash_after_event_s", "jitter_s", "needed_delay_s", "position_sd_m", "share_in_frame", "share_in_focus",
        "travel_m", "too_late_s", "share_in_moment", "share", "judged",
    },
}  # fmt: skip
LIGHT_KEYS = {
    "name",
    "t05_s",
    "t01_s",
    "light_span_s",
    "provenance",
    "smear_px",
    "flash_offset_stops",
    "share",
}


def test_every_agreed_key_is_there(document) -> None:
    found = evaluate(document).to_document()
    for place, keys in KEYS.items():
        assert keys <= set(found[place] if place else found)
    assert set(found["lights"][0]) >= LIGHT_KEYS
    assert [margin["name"] for margin in found["margins"]] == [
        "freeze",
        "light",
        "room",
        "ghost",
        "sync",
        "timing",
        "pace",
    ]
    assert {"value", "unit", "passes", "says", "working", "state", "doubt"} <= set(
        found["margins"][0]
    )


def test_the_scene_by_hand(document) -> None:
    """Speed 9 m/s · 0.05 / 3.95 = 0.1139 m/s on the sensor; 12 µm are crossed in 105.3 µs."""
    found = evaluate(document)
    assert found.freeze_limit_s == pytest.approx(12e-6 / (9 * 0.05 / 3.95))
    assert found.smear_px == pytest.approx(
        2 * found.lights[0].t01_s / found.freeze_limit_s
    )
    assert found.margin("freeze").value == pytest.approx(
        math.log2(found.freeze_limit_s / found.lights[0].t01_s)
    )
    assert found.ambient_smear_px == pytest.approx(9 * 0.05 / 3.95 * 0.005 / 6e-6)
    assert found.ghost_margin_stops == pytest.approx(
        found.flash_offset_stops - found.ambient_offset_stops
    )


def test_same_document_same_answer(document) -> None:
    assert evaluate(document) == evaluate(json.loads(json.dumps(document)))


def test_the_slowest_light_counts_from_an_eighth_of_the_exposure_on(document) -> None:
    slow = {**document["lights"][0], "name": "Slow", "power": 1.0}
    document["exposure"]["shutter_s"] = 0.05  # long enough for all of the slow light
    near = changed(
        document, {"lights": [document["lights"][0], {**slow, "distance_m": 20.0}]}
    )
    far = changed(
        document, {"lights": [document["lights"][0], {**slow, "distance_m": 40.0}]}
    )
    assert evaluate(near).lights[1].share == pytest.approx(1 / (1 + 100 / 16))
    assert evaluate(near).stopping_s == pytest.approx(0.0045)
    assert evaluate(far).lights[1].share == pytest.approx(1 / (1 + 100 / 4))
    assert evaluate(far).stopping_s == pytest.approx(evaluate(document).stopping_s)
    assert [trail.faint for trail in evaluate(far).trails if trail.of == "Slow"] == [
        True
    ]


def test_one_stop_of_power_and_one_of_iso_cancel(document) -> None:
    found, other = (
        evaluate(changed(document, v))
        for v in ({}, {"lights[0].power": 1 / 32, "exposure.iso": 400})
    )
    assert other.flash_offset_stops == pytest.approx(found.flash_offset_stops)


def test_no_flash_is_exposed_and_stopped_by_the_shutter(document) -> None:
    found = evaluate(
        changed(
            document,
            {
                "exposure.method": "ambient",
                "ambient.ev100": 15.0,
                "exposure.shutter_s": 1 / 4000,
            },
        )
    )
    assert found.flash_offset_stops is None
    assert found.ghost_margin_stops is None
    assert found.stopping_s == 1 / 4000
    assert found.margin("light").value == pytest.approx(found.ambient_offset_stops)


def test_hss_adds_the_room_to_the_flash(document) -> None:
    found = evaluate(
        changed(
            document,
            {
                "exposure.method": "hss",
                "ambient.ev100": 13.0,
                "exposure.shutter_s": 1 / 1000,
            },
        )
    )
    both = math.log2(2**found.flash_offset_stops + 2**found.ambient_offset_stops)
    assert found.margin("light").value == pytest.approx(both)


def test_a_warning_for_limbs_that_reach_forward(document) -> None:
    assert (
        "2 times larger"
        in evaluate(changed(document, {"motion.reach_m": 2.0})).warnings[0]
    )


@pytest.mark.parametrize("name", MARGINS)
@pytest.mark.parametrize("method", ["pulse", "hss", "ambient", "open_shutter"])
def test_every_margin_explains_itself(document, name, method) -> None:
    opened = (
        {"exposure.shutter_s": 1.0, "trigger.fires": "flash"}
        if method == "open_shutter"
        else {}
    )
    # Stated, so that there is something to judge.
    flicker = {"ambient.flicker": {"frequency_hz": 100.0, "depth": 0.5}}
    values = {"exposure.method": method, **opened, **flicker}
    found = evaluate(changed(document, values)).margin(name)
    assert found.says
    assert found.passes == (found.state == "passes")
    if found.value is not None and found.name not in ("light", "ghost"):
        assert (found.value < 0) == (found.state == "fails")
        assert found.doubt is None or found.passes == (found.value >= found.doubt)
    assert found.state != "unknown" or found.value is None
    for step in found.working:
        assert step.symbol
        assert step.formula
        assert step.source
        assert step.value is None or math.isfinite(step.value)


def test_what_works_and_what_does_not_is_one_sentence(document) -> None:
    assert (
        evaluate(document).sentence
        == "No ghost, but smeared over 3.7 px where 2 are allowed and probably 0.5 stop short of light; "
        "not known: whether it lands."
    )
    dim = {
        "lights[0].power": 1 / 256,
        "exposure.iso": 1900,
        "lights[0].loss_stops": 0.0,  # bare: what a modifier takes is known the worse the more it takes
        "motion.speed_m_s": 8.0,
        "ambient.ev100": 1.0,
        "moment": {"at_s": 0.0554},
    }
    good = evaluate(changed(document, dim))
    assert good.sentence == "Frozen to 1.7 px, no ghost and probably bright enough."
    metered = {**document["lights"][0]["strobe"], "guide_provenance": "measured"}
    sure = evaluate(changed(changed(document, dim), {"lights[0].strobe": metered}))
    assert sure.sentence == "Frozen to 1.7 px, bright enough and no ghost."
    assert sure.works


def test_provenance_travels_to_the_margin(document) -> None:
    document["lights"][0]["power"] = 1 / 256
    assert evaluate(document).provenance == "measured"
    document["lights"][0]["power"] = 1.0
    freeze = next(
        step
        for step in evaluate(document).margin("freeze").working
        if step.symbol == "freeze"
    )
    assert freeze.provenance == "claimed"
    document["lights"][0]["power"] = 0.1
    assert evaluate(document).provenance == "estimated"


MOTIONS = st.one_of(
    st.builds(
        lambda v, a: {"kind": "steady", "speed_m_s": v, "angle_deg": a},
        st.floats(0, 400),
        st.floats(0, 180),
    ),
    st.builds(
        lambda h: {"kind": "fall", "height_m": h, "terminal_m_s": 9.0},
        st.floats(0, 100),
    ),
    st.builds(
        lambda r: {"kind": "leap", "rise_m": r, "from_apex_s": 0.0}, st.floats(0.01, 3)
    ),
    st.builds(
        lambda r, n: {"kind": "rotation", "radius_m": r, "rpm": n},
        st.floats(0, 2),
        st.floats(0, 5000),
    ),
)
VALUES = st.fixed_dictionaries(
    {
        "motion": MOTIONS,
        "exposure.method": st.sampled_from(["pulse", "hss", "ambient", "open_shutter"]),
        "exposure.shutter_s": st.floats(1 / 80000, 30),
        "exposure.iso": st.floats(25, 1e6),
        "exposure.f_number": st.floats(0.7, 64),
        "camera.shutter": st.sampled_from(["focal_plane", "leaf", "rolling", "global"]),
        "camera.fastest_shutter_s": st.just(1 / 80000),
        "lens.subject_distance_m": st.floats(0.06, 500),
        "ambient.ev100": st.one_of(st.none(), st.floats(-10, 20)),
        "lights[0].power": st.floats(1 / 256, 1),
        "lights[0].distance_m": st.floats(0.01, 500),
        "lights[0].strobe.circuit": st.sampled_from(["quenched", "voltage", "banks"]),
        "lights[0].on_moving_part": st.booleans(),
        "trigger.latency_s": st.floats(0, 0.1),
        "moment.at_s": st.one_of(st.none(), st.floats(-1, 1)),
        "trigger.fires": st.sampled_from(["camera", "flash"]),
        "camera.curtain_travel_s": st.one_of(st.none(), st.floats(0.001, 0.004)),
        "exposure.frames_per_s": st.one_of(st.none(), st.floats(0.1, 120)),
    }
)


@given(VALUES)
@settings(max_examples=150)
def test_nothing_but_numbers_ever_leaves(values) -> None:
    try:
        found = evaluate(changed(LUNGE, values))
    except DocumentError:
        return
    json.dumps(found.to_document(), allow_nan=False)
    on_part = [light.share for light in found.lights]
    assert not any(on_part) or sum(on_part) == pytest.approx(1)
    assert 0 <= found.shutter.dark_share <= 1
    for share in (
        found.timing.share_in_frame,
        found.timing.share_in_focus,
        found.clipped_share,
    ):
        assert share is None or 0 <= share <= 1
    for margin in found.margins:
        assert (
            margin.state != "passes"
            or margin.value is None
            or margin.name == "light"
            # lost, and judged as light
            or (margin.name == "sync" and margin.unit == "stops")
            or margin.value >= -1e-9
        )


@pytest.mark.parametrize(
    ("values", "keys"),
    [
        ({}, {"voltage", "stands"}),
        ({"lights": []}, set()),
        ({"hazards": ["glass", "water"]}, {"voltage", "stands", "glass", "water"}),
        ({"exposure.frames_per_s": 5.0}, {"voltage", "stands", "seizure", "heat"}),
        ({"exposure.frames_per_s": 2.0}, {"voltage", "stands", "heat"}),
        ({"lights[0].distance_m": 0.8}, {"voltage", "stands", "eyes"}),
    ],
)
def test_cautions_that_apply(document, values, keys) -> None:
    scene = read_possible_scene(changed(document, values))
    assert {caution.key for caution in cautions_for(scene)} == keys


def test_every_hazard_of_the_document_has_its_caution(document) -> None:
    assert set(get_args(Hazard)) <= {caution.key for _, caution in RULES}
