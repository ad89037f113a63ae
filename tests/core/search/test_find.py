"""The search against plain enumeration: every combination built as a scene and asked one by one."""

import itertools
import math
from typing import Any

import pytest

from rapzel.core.document.gear import Strobe
from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.physics import Physics
from rapzel.core.search.find import Kit, Search, find_settings
from rapzel.core.search.limits import Limits, read_limits
from rapzel.core.search.misses import misses_of
from rapzel.core.search.relaxing import relaxations_of
from rapzel.core.shared.errors import DocumentError
from rapzel.core.verdict.ambient import room
from rapzel.core.verdict.exposed import light
from rapzel.core.verdict.freeze import freeze
from rapzel.core.verdict.ghost import ghost
from rapzel.core.verdict.machine import sync
from rapzel.core.verdict.pacing import pace
from tests.plans import LUNGE, MONOBLOC

SMALL: dict[str, Any] = {
    "name": "Small", "circuit": "quenched", "guide_number_m": 30.0, "min_power": 1 / 64, "hss": True,
    "durations": [
        {"power": 1.0, "t01_s": 0.002, "provenance": "claimed"},
        {"power": 1 / 64, "t01_s": 5e-5, "provenance": "measured"},
    ],
    "full_recycle_s": 1.5, "energy_ws": 60.0, "price": 200.0,
}  # fmt: skip
OLD: dict[str, Any] = {
    "name": "Old", "circuit": "voltage", "guide_number_m": 50.0, "min_power": 0.25,
    "durations": [{"power": 1.0, "t01_s": 0.0012, "provenance": "claimed"}], "full_recycle_s": 1.0,
}  # fmt: skip
THIRDS = [2.0 ** (-step / 3) for step in range(19)]
POWERS = {"Small": THIRDS, "Old": THIRDS[:7]}
DISTANCES = [1.0, 1.1, 1.25, 1.4, 1.6, 1.8, 2.0]
APERTURES = [4.0, 4.5, 5.0, 5.6, 6.3, 7.1, 8.0]
LIMITS: dict[str, Any] = {
    "iso": [500, 640], "f_number": [5.6, 6.3], "distance_m": [1.8, 2.0], "lights": 2,
    "shutter_s": [1 / 200, 1 / 125],
}  # fmt: skip


def kit(*strobes: dict[str, Any]) -> Kit:
    return Kit(tuple(Strobe.model_validate(one) for one in strobes))


def scene_of(**values: Any) -> Scene:
    return read_scene(changed(LUNGE, values))


def rigs(
    strobes: list[dict[str, Any]], most: int
) -> list[list[tuple[dict[str, Any], float]]]:
    """One kind of up to `most`, and two kinds together, each at every power."""
    alone = [
        [(one, power)] * count
        for one in strobes
        for power in POWERS[one["name"]]
        for count in range(1, most + 1)
    ]
    mixed = []
    for first, second in itertools.combinations(strobes, 2):
        for a, b in itertools.product(range(1, most), range(1, most)):
            if a + b <= most:
                powers = itertools.product(
                    POWERS[first["name"]], POWERS[second["name"]]
                )
                mixed += [[(first, p)] * a + [(second, q)] * b for p, q in powers]
    return alone + mixed


def right(physics: Physics, limits: Limits) -> bool:
    """Whether the margins hold by the best guess, as the strip says it."""
    frozen, lit, trail = freeze(physics), light(physics), ghost(physics)
    around = room(physics)
    synced, kept = sync(physics), pace(physics)
    if frozen.value is not None and frozen.value < limits.freeze_stops - 1e-9:
        return False
    if lit.value is None or abs(lit.value) > limits.tolerance_stops + 1e-9:
        return False
    look = physics.scene.look.room
    faint = look != "trail" and trail.value is not None and trail.value < -1e-9
    if trail.state == "fails" or faint or around.state == "fails":
        return False
    # What only may hold is no hit either.
    if around.leans or synced.leans or kept.leans:
        return False
    return "fails" not in (synced.state, kept.state)


def enumerated(
    document: dict[str, Any],
    strobes: list[dict[str, Any]],
    dials: dict[str, list[float]],
    limits: Limits,
) -> list[tuple[float, float, int]]:
    """(ISO, duration, lights) of every combination that is right."""
    found = []
    sums = itertools.product(*dials.values())
    for shutter, f_number, iso, distance in sums:
        for rig in rigs(strobes, limits.lights):
            lights = [
                {
                    "name": "x",
                    "power": power,
                    "distance_m": distance,
                    "loss_stops": 1.3,
                    "strobe": one,
                }
                for one, power in rig
            ]
            exposure = {
                **document["exposure"],
                "shutter_s": shutter,
                "f_number": f_number,
                "iso": iso,
            }
            physics = Physics(
                read_scene({**document, "exposure": exposure, "lights": lights})
            )
            if right(physics, limits):
                found.append((iso, physics.stopping_s, len(rig)))
    return found


def front_of(hits: list[tuple[float, float, int]]) -> set[tuple[float, float, int]]:
    """Hits that no other equals or beats in all three."""
    unique = {(iso, round(math.log2(time), 7), count) for iso, time, count in hits}
    return {
        one
        for one in unique
        if not any(
            all(b <= a for a, b in zip(one, other, strict=True)) and other != one
            for other in unique
        )
    }


CASES: dict[str, tuple[dict[str, Any], dict[str, Any]]] = {
    "pulse": ({"exposure.shutter_s": 1 / 160}, {"shutter_s": [1 / 200, 1 / 160]}),
    "hss": (
        {"exposure.method": "hss", "look": {"room": "lit", "room_stops": -2.0}, "ambient.ev100": 11.0,
         "criterion.pixels": 12},
        {"shutter_s": [1 / 1600, 1 / 1250]},
    ),
    "leaf": (
        {"camera.shutter": "leaf", "camera.fastest_shutter_s": 1 / 2000, "ambient.ev100": 9.0,
         "exposure.polariser_stops": 0.3},
        {"shutter_s": [1 / 2000, 1 / 1600]},
    ),
    "global": (
        {"camera.shutter": "global", "camera.fastest_shutter_s": 1 / 40000, "ambient.ev100": 11.0,
         "criterion.pixels": 4},
        {"shutter_s": [1 / 12500, 1 / 10000]},
    ),
    "pulse, trail": (
        {"look": {"room": "trail", "trail_m": 0.06}, "ambient.ev100": 7.0},
        {"shutter_s": [1 / 160, 1 / 125]},
    ),
    "pulse, no curtain travel known": (
        {"camera.curtain_travel_s": None}, {"shutter_s": [1 / 200, 1 / 160]},
    ),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_hits_are_those_of_plain_enumeration(case: str) -> None:
    values, ranges = CASES[case]
    method = case.split(",", maxsplit=1)[0]
    shutters = ranges["shutter_s"]
    placed = method == "global"  # lights of two kinds are not sought there
    strobes = [SMALL] if placed or method == "hss" else [SMALL, OLD]
    distances = [1.8, 2.0] if case == "pulse" else [2.0]  # brute force takes its time
    limits = read_limits(
        {
            **LIMITS,
            "methods": [method],
            "shutter_s": [min(shutters), max(shutters)],
            "distance_m": [min(distances), max(distances)],
        }
    )
    dials = {
        "shutter": shutters,
        "f": [5.6, 6.3],
        "iso": [500.0, 640.0],
        "distance": distances,
    }
    document = changed(LUNGE, values)
    plain = enumerated(document, strobes, dials, limits)
    found = find_settings(read_scene(document), kit(*strobes), limits)
    assert plain, "the case holds something to find"
    assert found.hit_count == len(plain)
    least = min(iso for iso, _, _ in plain)
    assert found.hits[0].iso == least
    points = {
        (point.iso, round(math.log2(point.lasts_s), 7), point.lights)
        for point in found.front
    }
    assert points == front_of(plain)


def test_two_kinds_by_high_speed_sync_leave_out_what_has_none() -> None:
    scene = scene_of(**{"exposure.method": "hss", "exposure.shutter_s": 1 / 2000})
    found = find_settings(
        scene,
        kit(SMALL, OLD),
        read_limits({"methods": ["hss"], "iso": [100, 25600], "freeze_stops": -4}),
    )
    assert found.hits
    assert {light.strobe.name for hit in found.hits for light in hit.scene.lights} == {
        "Small"
    }


@pytest.mark.parametrize("order", ["iso", "lights", "pulse", "depth", "rate"])
def test_each_hit_has_the_margins_that_were_claimed(order: str) -> None:
    limits = read_limits({"iso": [100, 6400], "order": order, "f_number": [1.4, 16]})
    scene = scene_of(**{"ambient.ev100": 6.0})
    found = find_settings(scene, kit(SMALL, OLD, MONOBLOC), limits)
    assert len(found.hits) == 40
    for hit in found.hits:
        margins = {one.name: one.value for one in hit.evaluation.margins}
        assert margins["freeze"] == pytest.approx(hit.claimed["freeze"], abs=1e-6)
        assert margins["light"] == pytest.approx(hit.claimed["light"], abs=1e-6)
        if margins["ghost"] is not None:
            assert margins["ghost"] == pytest.approx(
                hit.claimed["under"] - 5.0, abs=1e-6
            )
        if hit.claimed["sync"] is not None:
            assert margins["sync"] == pytest.approx(hit.claimed["sync"], abs=1e-6)
        assert right(Physics(hit.scene), limits)


def test_the_order_is_the_person_s() -> None:
    scene, own = scene_of(), kit(SMALL, MONOBLOC)
    best = {
        order: find_settings(scene, own, read_limits({"order": order})).hits[0]
        for order in ("iso", "lights", "pulse", "depth", "rate")
    }
    every = find_settings(scene, own, read_limits({"most": 200})).hits
    assert best["iso"].iso == min(hit.iso for hit in every)
    assert best["lights"].lights == min(hit.lights for hit in every)
    assert best["depth"].f_number == 11.0
    shortest = min(hit.evaluation.stopping_s for hit in every)
    assert best["pulse"].evaluation.stopping_s <= shortest * (1 + 1e-6)


# Each is wider than the one before it, in one limit.
WIDER: list[dict[str, Any]] = [
    {"iso": [400, 400], "lights": 1, "distance_m": [1.8, 1.8]},
    {"iso": [400, 800], "lights": 1, "distance_m": [1.8, 1.8]},
    {"iso": [400, 800], "lights": 2, "distance_m": [1.8, 1.8]},
    {"iso": [400, 800], "lights": 2, "distance_m": [1.4, 2.5]},
    {"iso": [400, 800], "lights": 2, "distance_m": [1.4, 2.5], "freeze_stops": -1},
    {"iso": [400, 800], "lights": 2, "distance_m": [1.4, 2.5], "freeze_stops": -1,
     "tolerance_stops": 1.0},
]  # fmt: skip


def test_a_wider_limit_never_loses_a_hit() -> None:
    scene, own = scene_of(), kit(SMALL, OLD)
    counts = []
    for values in WIDER:
        limits = read_limits({**LIMITS, **values})
        counts.append(find_settings(scene, own, limits).hit_count)
    assert counts == sorted(counts)
    assert counts[0] < counts[-1]


def test_nothing_on_the_front_is_beaten() -> None:
    found = find_settings(
        scene_of(),
        kit(SMALL, OLD, MONOBLOC),
        read_limits({"f_number": [4, 16], "iso": [50, 6400]}),
    )
    points = [(point.iso, point.lasts_s, point.lights) for point in found.front]
    assert len(points) > 1
    for one, other in itertools.permutations(points, 2):
        assert any(b > a * (1 + 1e-9) for a, b in zip(one, other, strict=True))
    for point in found.front:
        assert point.hit.iso == point.iso
        assert point.hit.evaluation.margin("light").state != "fails"


NARROW: dict[str, Any] = {
    "iso": [100, 200], "distance_m": [3, 5], "f_number": [8, 11], "lights": 2,
}  # fmt: skip


def test_where_nothing_fits_the_nearest_say_what_fails_and_by_how_much() -> None:
    limits = read_limits(NARROW)
    search = Search(scene_of(), kit(SMALL, MONOBLOC), limits)
    assert not search.run().hits
    misses = misses_of(search)
    assert misses
    assert [miss.by_stops for miss in misses] == sorted(
        miss.by_stops for miss in misses
    )
    for miss in misses:
        margins = {one.name: one for one in miss.hit.evaluation.margins}
        names = ("freeze", "light", "room", "ghost", "sync", "pace")
        failing = {
            name
            for name in names
            if margins[name].state == "fails" or margins[name].leans
        }
        assert failing == set(miss.fails.split(" and "))
        if miss.fails == "light":
            off = abs(margins["light"].value) - limits.tolerance_stops
            assert off == pytest.approx(miss.by_stops, abs=1e-6)
        if miss.fails == "freeze":
            assert -margins["freeze"].value == pytest.approx(miss.by_stops, abs=1e-6)


def test_a_nearest_miss_of_light_is_the_nearest_of_all() -> None:
    """Against every combination that freezes, asked one by one."""
    limits = read_limits(
        {
            **LIMITS,
            "iso": [100, 125],
            "methods": ["pulse"],
            "lights": 1,
            "shutter_s": [1 / 200, 1 / 160],
        }
    )
    dials = {
        "shutter": [1 / 200, 1 / 160],
        "f": [5.6, 6.3],
        "iso": [100.0, 125.0],
        "distance": [1.8, 2.0],
    }
    short = math.inf
    for shutter, f_number, iso, distance in itertools.product(*dials.values()):
        for power in POWERS["Small"]:
            lamp = {
                **LUNGE["lights"][0],
                "power": power,
                "distance_m": distance,
                "strobe": SMALL,
            }
            exposure = {
                **LUNGE["exposure"],
                "shutter_s": shutter,
                "f_number": f_number,
                "iso": iso,
            }
            physics = Physics(
                read_scene({**LUNGE, "exposure": exposure, "lights": [lamp]})
            )
            clear = (ghost(physics).value or 0.0) >= 0
            if (
                (freeze(physics).value or 0.0) >= 0
                and clear
                and sync(physics).state != "fails"
            ):
                short = min(
                    short, abs(light(physics).value or 0.0) - limits.tolerance_stops
                )
    nearest = next(
        miss
        for miss in misses_of(Search(scene_of(), kit(SMALL), limits))
        if miss.fails == "light"
    )
    assert nearest.by_stops == pytest.approx(short, abs=1e-6)


def test_the_mildest_relaxations_succeed_and_a_milder_one_does_not() -> None:
    scene, own, limits = scene_of(), kit(SMALL, MONOBLOC), read_limits(NARROW)
    found = {one.limit: one for one in relaxations_of(scene, own, limits).found}
    assert {"iso", "lights", "distance_m", "f_number", "freeze_stops"} <= set(found)
    for one in found.values():
        assert Search(scene, own, one.limits).any_hit()
    iso = found["iso"].value
    milder = max(mark for mark in (250, 320, 400, 500, 640, 800, 1000) if mark < iso)
    assert not Search(scene, own, limits.relaxed(iso=(100, milder))).any_hit()
    assert not Search(
        scene, own, limits.relaxed(lights=found["lights"].value - 1)
    ).any_hit()
    assert found["iso"].says == f"ISO {iso:g} instead of 200"


def test_depth_rate_equal_powers_and_names_are_limits_too() -> None:
    scene, own = scene_of(), kit(SMALL, OLD, MONOBLOC)
    deep = find_settings(scene, own, read_limits({"depth_m": 0.2})).hits
    for hit in deep:
        framing = hit.evaluation.framing
        assert (
            framing.depth_far_m is None
            or framing.depth_far_m - framing.depth_near_m >= 0.2
        )
    fast = find_settings(scene, own, read_limits({"frames_per_s": 9})).hits
    # A rate just at what a recycle is claimed to be is kept, and said to be near.
    kept = [hit.evaluation.margin("pace") for hit in fast]
    assert all(one.state in ("passes", "unsure") and one.value >= 0 for one in kept)
    mixed = read_limits({"equal_power": True, "order": "pulse"})
    for hit in find_settings(scene, own, mixed).hits:
        assert len({round(light.power, 6) for light in hit.scene.lights}) <= 1
    only = find_settings(
        scene, own, read_limits({"strobes": ["Old"], "freeze_stops": -5})
    ).hits
    names = {light.strobe.name for hit in only for light in hit.scene.lights}
    assert names <= {"Old"}


def test_a_burst_may_outrun_the_recycle_for_as_long_as_it_lasts() -> None:
    scene, own = scene_of(), kit(MONOBLOC)
    endless = find_settings(
        scene, own, read_limits({"frames_per_s": 30, "freeze_stops": -1})
    )
    short = find_settings(
        scene, own, read_limits({"frames_per_s": 30, "burst": 8, "freeze_stops": -1})
    )
    assert short.hit_count > endless.hit_count
    for hit in short.hits:
        # unsure where a recycle as long as it may be would end the burst sooner
        assert hit.evaluation.margin("pace").state in ("passes", "unsure")


def test_methods_that_cannot_be_say_why() -> None:
    reasons = find_settings(scene_of(), kit(SMALL), read_limits({})).reasons
    assert reasons["leaf"] == "needs a leaf shutter"
    assert reasons["global"] == "needs a global shutter"
    none = find_settings(scene_of(), Kit(()), read_limits({}))
    assert none.reasons["pulse"] == "no strobe to search with"
    assert "ambient" not in none.reasons


@pytest.mark.parametrize(
    ("limits", "words"),
    [
        ({"iso": [1600, 100]}, "above the most"),
        ({"methods": ["magic"]}, "known: global, leaf"),
        ({"lights": 40}, "lights"),
        ({"burst": 8}, "frames_per_s"),
        ({"speed": 1}, "unknown key"),
        ([1], "JSON object"),
    ],
)
def test_limits_that_make_no_sense_are_refused_in_words(
    limits: Any, words: str
) -> None:
    with pytest.raises(DocumentError, match=words):
        read_limits(limits)
