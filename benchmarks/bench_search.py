"""Searches: a whole kit against a plain loop over the same space, the comparison of methods, the chart of winners."""

import json
import time
from pathlib import Path
from typing import Any

from rapzel.core.document.gear import Light, Strobe
from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.physics import Physics
from rapzel.core.search.compare import compare
from rapzel.core.search.find import Kit, Search
from rapzel.core.search.limits import Limits, read_limits
from rapzel.core.search.reserve import Reserves, chart_of
from rapzel.core.verdict.ambient import room
from rapzel.core.verdict.exposed import light
from rapzel.core.verdict.freeze import freeze
from rapzel.core.verdict.ghost import ghost
from rapzel.core.verdict.machine import sync
from tests.plans import LUNGE

STARTER = json.loads(Path("rapzel/kit/starter.json").read_text("utf-8"))
ROOM = {"ambient.ev100": 7.0, "camera.fastest_shutter_s": 1 / 8000}
PLAIN = 150  # combinations that the plain loop is measured on


def asked() -> tuple[Scene, Kit, Limits]:
    strobes = [
        Strobe.model_validate({key: one[key] for key in one if key != "notes"})
        for one in STARTER["strobes"]
    ]
    return read_scene(changed(LUNGE, ROOM)), Kit(tuple(strobes)), read_limits({})


def test_find_settings(benchmark, report, median_ms) -> None:
    scene, kit, limits = asked()
    found = Search(scene, kit, limits).run()
    assert found.combinations > 1e7
    benchmark.pedantic(
        lambda: Search(scene, kit, limits).run(), rounds=8, warmup_rounds=1
    )
    ours = median_ms(benchmark)
    report(f"search of {found.combinations:.2g} combinations", ours, "ms", 1000)
    each = plain_ms(scene, kit) * found.combinations
    report("search against a plain loop", each / ours, "×", 50, True)


def plain_ms(scene: Scene, kit: Kit) -> float:
    """What a plain loop over the same kernels takes for one combination."""
    strobe, began = kit.strobes[1], time.perf_counter()
    for place in range(PLAIN):
        values: dict[str, Any] = {
            "iso": 100.0 * 2 ** (place % 5),
            "f_number": 4.0 + place % 4,
        }
        exposure = scene.exposure.model_copy(update=values)
        lit = Light(
            power=max(2 ** -(place % 7), 1 / 128),
            distance_m=1 + place % 3,
            strobe=strobe,
        )
        physics = Physics(
            scene.model_copy(update={"exposure": exposure, "lights": (lit,)})
        )
        for margin in (freeze, light, room, ghost, sync):
            margin(physics)
    return (time.perf_counter() - began) * 1000 / PLAIN


def test_methods_side_by_side(benchmark, report, median_ms) -> None:
    scene, kit, limits = asked()
    benchmark.pedantic(lambda: compare(scene, kit, limits), rounds=8, warmup_rounds=1)
    report("methods compared, without pictures", median_ms(benchmark), "ms", 300)


def test_chart_of_winners(benchmark, report, median_ms) -> None:
    reserves = Reserves(Search(*asked(), mixed=False))
    benchmark.pedantic(lambda: chart_of(reserves), rounds=8, warmup_rounds=1)
    report("chart of winners", median_ms(benchmark), "ms", 1000)
