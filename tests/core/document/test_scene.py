import copy
import json

import jsonschema
import pytest

from rapzel.core.document.places import (
    called,
    changed,
    get,
    identified,
    located,
    put,
    split,
)
from rapzel.core.document.scene import read_scene, scene_schema, with_values
from rapzel.core.evaluate import evaluate, evaluation_schema
from rapzel.core.possible import read_possible_scene
from rapzel.core.shared.errors import DocumentError


def problems(document) -> dict[str, str]:
    with pytest.raises(DocumentError) as caught:
        evaluate(document)
    return {problem.path: problem.reason for problem in caught.value.problems}


def test_a_document_survives_reading_and_writing(document) -> None:
    document["x-note"] = {"any": "thing"}
    document["lights"][0]["x-stand"] = "tall"
    first = read_scene(document)
    again = read_scene(json.loads(json.dumps(first.to_document())))
    assert again == first
    assert first.to_document()["x-note"] == {"any": "thing"}
    assert first.to_document()["lights"][0]["x-stand"] == "tall"


def test_least_document_is_enough() -> None:
    least = {
        "motion": {"kind": "steady", "speed_m_s": 5},
        "camera": {
            "sensor_width_mm": 36,
            "sensor_height_mm": 24,
            "pixels_wide": 6000,
            "pixels_high": 4000,
        },
        "lens": {"focal_length_mm": 50, "subject_distance_m": 3},
        "exposure": {"shutter_s": 0.01, "f_number": 8, "iso": 100},
    }
    said = evaluate(least)
    assert {
        margin.state for margin in said.margins if margin.name not in ("room", "ghost")
    } == {"unknown"}
    assert said.margin("ghost").says == "room said to be dark"


@pytest.mark.parametrize(
    ("path", "value", "where", "why"),
    [
        (
            "motion.speed_m_s",
            "fast",
            "motion.speed_m_s",
            "must be a number (given: 'fast')",
        ),
        ("motion.speed_m_s", -1, "motion.speed_m_s", "must be 0 or more (given: -1)"),
        ("motion.speed_m_s", float("nan"), "motion.speed_m_s", "finite"),
        ("motion.speed_m_s", float("inf"), "motion.speed_m_s", "finite"),
        (
            "motion.kind",
            "flying",
            "motion",
            "must have a kind that is one of 'steady', 'fall'",
        ),
        ("motion.colour", "red", "motion", "unknown key “colour”"),
        ("exposure.iso", None, "exposure.iso", "must be a number (given: None)"),
        (
            "exposure.method",
            "flash",
            "exposure.method",
            "'pulse', 'hss', 'long_pulse', 'ambient' or 'open_shutter'",
        ),
        ("camera.pixels_wide", 6000.5, "camera.pixels_wide", "must be a whole number"),
        ("lights[0].power", 1.5, "lights[0].power", "must be 1 or less (given: 1.5)"),
        ("lights[0].power", 0, "lights[0].power", "must be 1e-05 or more"),
        (
            "lights[0].strobe.circuit",
            "magic",
            "lights[0].strobe.circuit",
            "'quenched', 'voltage' or 'banks'",
        ),
        ("lights[0].strobe.durations", [], "lights[0].strobe", "give durations"),
        (
            "lights[0].strobe.durations[0].t01_s",
            None,
            "lights[0].strobe.durations[0]",
            "give t.1 (t01_s), t.5",
        ),
        (
            "lights[0].strobe.durations[0].t05_s",
            0.006,
            "lights[0].strobe.durations[0]",
            "must not be longer",
        ),
        ("ambient.lux", 100, "ambient", "give only one of"),
        ("ambient.trail_stops", 6, "ambient", "must not be above clear_stops"),
        ("lights", {}, "lights", "must be a list"),
        ("version", 3, "version", "reads up to version 2"),
        ("format", "other", "format", "rapzel.scene"),
        ("hazards", ["sharks"], "hazards[0]", "'water'"),
    ],
)
def test_a_document_that_breaks_the_schema_is_refused_by_path_and_reason(
    document, path, value, where, why
) -> None:
    found = problems(changed(document, {path: value}))
    assert where in found, found
    assert why in found[where]


@pytest.mark.parametrize(
    ("values", "where", "why"),
    [
        (
            {"lens.subject_distance_m": 0.05},
            "lens.subject_distance_m",
            "nearer than the focal length of 50 mm",
        ),
        (
            {"exposure.shutter_s": 1 / 64000},
            "exposure.shutter_s",
            "1/64\u2009000 is shorter than this camera's fastest, 1/8000",
        ),
        (
            {"camera.fastest_shutter_s": 0.001, "exposure.shutter_s": 0.0005},
            "exposure.shutter_s",
            "fastest, 1/1000",
        ),
        (
            {"camera.curtain_travel_s": 0.005},
            "camera.curtain_travel_s",
            "longer than the sync speed",
        ),
        (
            {"lights[0].power": 1 / 512},
            "lights[0].power",
            "1/512 is below the strobe's range, which ends at 1/256",
        ),
        (
            {"lights[0].strobe.min_power": 0.125},
            "lights[0].power",
            "1/16 is below the strobe's range",
        ),
        (
            {"lights[0].mode": "speed"},
            "lights[0].mode",
            "no mode “speed”; it has: none",
        ),
        (
            {"exposure.method": "hss", "camera.shutter": "leaf"},
            "exposure.method",
            "belongs to a focal-plane",
        ),
        (
            {"motion": {"kind": "leap", "rise_m": 0.2, "from_apex_s": 0.5}},
            "motion.from_apex_s",
            "on the ground 202 ms",
        ),
        ({"motion.reach_m": 4.0}, "motion.reach_m", "would reach the lens"),
    ],
)
def test_an_impossible_scene_is_refused_by_path_and_reason(
    document, values, where, why
) -> None:
    found = problems(changed(document, values))
    assert why in found[where]


def test_every_problem_is_told_at_once(document) -> None:
    found = problems(
        changed(document, {"lens.subject_distance_m": 0.01, "lights[0].power": 1 / 512})
    )
    assert set(found) == {"lens.subject_distance_m", "lights[0].power"}


@pytest.mark.parametrize("value", [None, [], "scene", 7])
def test_what_is_no_object_is_no_scene(value) -> None:
    with pytest.raises(DocumentError, match="a scene document is a JSON object"):
        evaluate(value)


def test_nothing_of_a_refused_document_is_changed(document) -> None:
    before = copy.deepcopy(document)
    changed(document, {"exposure.iso": 800, "lights[0].power": 0.5})
    assert document == before


def test_the_schema_agrees_with_the_reader(document) -> None:
    """jsonschema, an independent validator, accepts and refuses what the core does."""
    validator = jsonschema.Draft202012Validator(scene_schema())
    jsonschema.Draft202012Validator.check_schema(scene_schema())
    written = read_possible_scene(document).to_document()
    assert list(validator.iter_errors(json.loads(json.dumps(written)))) == []
    assert list(validator.iter_errors(document)) == []
    for path, value in (
        ("lights[0].power", 1.5),
        ("motion.colour", "red"),
        ("exposure.method", "flash"),
    ):
        assert list(validator.iter_errors(changed(document, {path: value})))
    assert not list(
        validator.iter_errors(changed(document, {"motion.x-colour": "red"}))
    )


def test_the_evaluation_follows_its_schema(document) -> None:
    schema = evaluation_schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    jsonschema.validate(evaluate(document).to_document(), schema)


def test_a_strobe_with_modes_needs_the_mode_to_exist(document) -> None:
    strobe = document["lights"][0]["strobe"]
    document["lights"][0]["strobe"] = {
        **{key: value for key, value in strobe.items() if key != "durations"},
        "modes": [
            {"name": "speed", "durations": strobe["durations"]},
            {"name": "colour", "durations": [{"power": 1.0, "t01_s": 0.009}]},
        ],
    }
    assert evaluate(document).lights[0].t01_s < 0.001, (
        "without a chosen mode the first one is meant"
    )
    document["lights"][0]["mode"] = "colour"
    assert (
        evaluate(document).lights[0].t01_s
        > evaluate(changed(document, {"lights[0].mode": "speed"})).lights[0].t01_s
    )


def test_paths() -> None:
    steps = ("lights", 0, "strobe", "durations", 1, "t01_s")
    assert split("lights[0].strobe.durations[1].t01_s") == steps
    assert split("a." * 1000 + "b") == ("a",) * 1000 + ("b",)
    assert get({"a": [{"b": 1}]}, "a[0].b") == 1
    assert get({"a": []}, "a[0].b", "none") == "none"
    assert changed({"a": 1}, {"b.c": 2}) == {"a": 1, "b": {"c": 2}}
    for wrong in ("a[", "a b", "[x]"):
        with pytest.raises(DocumentError, match="is not a place in a scene"):
            split(wrong)
    with pytest.raises(DocumentError, match="is no longer in this scene"):
        changed({"a": []}, {"a[3].b": 1})


@pytest.mark.parametrize(
    "values",
    [
        {"exposure.iso": 800, "lens.subject_distance_m": 5.0},
        {"lights[0].power": 0.25, "lights[0].strobe.durations[0].t01_s": 0.002},
        {"motion": {"kind": "leap", "rise_m": 0.4}},
        {"lights": [], "x-note": "kept"},
        {"exposure.iso": -1, "lights[0].power": "half"},
        {"drops.first_ml": 1.0},
        {"lights[7].power": 0.5},
        {"nowhere": 1},
    ],
)
def test_a_scene_with_other_values_is_the_one_that_its_document_describes(
    document, values
) -> None:
    scene = read_scene(document)

    def outcome(read) -> object:
        try:
            return read()
        except DocumentError as error:
            return error.problems

    expected = outcome(lambda: read_scene(put(scene.to_document(), values)))
    assert outcome(lambda: with_values(scene, values)) == expected
    assert scene == read_scene(document)


def test_parts_that_no_value_is_set_in_are_the_same_ones(document) -> None:
    scene = read_scene(document)
    brighter = with_values(scene, {"exposure.iso": 3200})
    assert brighter.exposure.iso == 3200
    assert brighter.lights[0] is scene.lights[0]
    assert brighter.camera is scene.camera


def test_items_are_called_by_their_identity_whatever_stands_before_them(
    document,
) -> None:
    document["lights"] = [
        {**document["lights"][0], "id": name} for name in ("key", "rim")
    ]
    assert get(document, "lights[#rim].power") == 0.0625
    assert located(document, "lights[#rim].strobe.name") == "lights[1].strobe.name"
    assert (
        called(document, "lights[1].strobe.durations[0].power")
        == "lights[#rim].strobe.durations[0].power"
    )
    fewer = {**document, "lights": document["lights"][1:]}
    assert changed(fewer, {"lights[#rim].power": 0.5})["lights"][0]["power"] == 0.5
    with pytest.raises(
        DocumentError, match=r"lights\[#key\].power: is no longer in this scene"
    ):
        changed(fewer, {"lights[#key].power": 0.5})
    with pytest.raises(DocumentError, match="is no longer in this scene"):
        located(fewer, "lights[#key].power")


def test_every_item_gets_an_identity_and_keeps_it(document) -> None:
    light = document["lights"][0]
    document["lights"] = [
        light,
        {**light, "id": "light-1"},
        {**light, "id": "rim"},
        {**light, "id": "rim"},
    ]
    document["trigger"]["links"] = [{"kind": "beam", "name": "Beam"}]
    found = identified(document)
    ids = [each["id"] for each in found["lights"]]
    assert ids[1:3] == ["light-1", "rim"]
    assert len(set(ids)) == 4
    assert found["trigger"]["links"][0]["id"] == "link-1"
    assert identified(found) == found
    assert identified({**document, "lights": [light]}) == identified(
        {**document, "lights": [light]}
    ), "each time the same"


def test_what_is_kept_unread_stays_small_and_storable(document) -> None:
    deep: dict = {}
    here = deep
    for _ in range(600):
        here["a"] = {}
        here = here["a"]
    for value, why in (
        (deep, "nested too deeply"),
        ("a" * 5000, "too large"),
        (["a"] * 5000, "too large"),
        ("\0", "control"),
        ("\ud800", "halves"),
    ):
        assert why in problems({**document, "x-note": value})[""], why
    assert (
        "control characters"
        in problems(changed(document, {"lights[0].name": "Key\0"}))["lights[0].name"]
    )


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("lens.focal_length_mm", 5e-324), ("exposure.f_number", 1e-300), ("camera.fastest_shutter_s", 5e-324),
        ("lights[0].strobe.min_power", 1e-12), ("lights[0].strobe.guide_number_m", 5e-324), ("exposure.iso", 1e-300),
        ("camera.sensor_width_mm", 1e-9), ("lights[0].distance_m", 1e-200),
    ],
)  # fmt: skip
def test_figures_that_no_gear_has_are_refused(document, path, value) -> None:
    assert "or more" in problems(changed(document, {path: value}))[path]
