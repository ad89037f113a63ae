"""Searches of large kits: what is passed over cannot be shown, memory stays what it is, what is left out is said."""

import subprocess
import sys
from typing import Any

import numpy as np
import pytest

from rapzel.core.document.gear import Strobe
from rapzel.core.document.scene import Scene
from rapzel.core.search import blocks, find
from rapzel.core.search.find import Found, Kit, Search
from rapzel.core.search.gathering import Gathering
from rapzel.core.search.limits import Limits, read_limits
from rapzel.core.search.whole import search_all
from tests.core.search.test_find import OLD, SMALL, scene_of
from tests.patience import PROCESS_S
from tests.plans import MONOBLOC

WIDE: dict[str, Any] = {"shutter_s": [1 / 250, 1 / 60], "lights": 4, "most": 60}
SCENES: dict[str, dict[str, Any]] = {
    "fast on black": {},
    "slow in a lit room": {
        "motion.speed_m_s": 0.3, "look": {"room": "lit", "room_stops": -2.0}, "ambient.ev100": 9.0,
    },
    "a bright hall": {"ambient.ev100": 11.0, "motion.speed_m_s": 1.0},
}  # fmt: skip


def many(count: int) -> Kit:
    """Strobes that all differ a little."""
    strobes = []
    for number in range(count):
        one = (SMALL, OLD, MONOBLOC)[number % 3]
        guide = one["guide_number_m"] * (1 + 0.017 * number)
        named = {**one, "name": f"{one['name']} {number}", "guide_number_m": guide}
        strobes.append(
            Strobe.model_validate({k: v for k, v in named.items() if k != "notes"})
        )
    return Kit(tuple(strobes))


def shown(found: Found) -> list[Any]:
    hits = [(hit.way.method.key, hit.needs, hit.claimed) for hit in found.hits]
    return [hits, [(point.iso, point.lasts_s, point.lights) for point in found.front]]


@pytest.mark.parametrize("order", ["iso", "lights", "pulse", "depth", "rate"])
@pytest.mark.parametrize("name", SCENES)
def test_what_is_passed_over_could_not_have_been_shown(
    name: str, order: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The same list and the same front, whether every combination is looked at or only hopeful ones."""
    scene, limits = scene_of(**SCENES[name]), read_limits({**WIDE, "order": order})
    every = Search(scene, many(5), limits).run()
    assert every.hit_count is not None
    monkeypatch.setattr(find, "CELLS", 3000)
    hopeful = Search(scene, many(5), limits).run(count=False)
    assert hopeful.hit_count is None, "what was passed over was not counted either"
    assert shown(hopeful) == shown(every)


@pytest.mark.parametrize("order", ["iso", "lights", "pulse", "depth", "rate"])
@pytest.mark.parametrize("name", SCENES)
def test_what_is_passed_over_could_not_have_been_the_best(
    name: str, order: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The same best set-up of each method, whether every combination is looked at or only hopeful ones."""
    scene, limits = scene_of(**SCENES[name]), read_limits({"lights": 4, "order": order})
    hopeful = Search(scene, many(5), limits, mixed=False).best_of_each()
    monkeypatch.setattr(
        Gathering, "hopeful", lambda _self, _step, rows: np.full(len(rows), True)
    )
    every = Search(scene, many(5), limits, mixed=False).best_of_each()
    assert every
    assert {key: (hit.needs, hit.claimed) for key, hit in hopeful.items()} == {
        key: (hit.needs, hit.claimed) for key, hit in every.items()
    }


LIMITED = """
import resource, re
from pathlib import Path
from tests.core.search.test_large_kits import many, scene_of
from rapzel.core.search.find import Search
from rapzel.core.search.limits import read_limits
slow = scene_of(**{"motion.speed_m_s": 0.3})
search = Search(slow, many(28), read_limits({"shutter_s": [1 / 200, 1 / 200]}))
now = int(re.search(r"VmData:\\s+(\\d+)", Path("/proc/self/status").read_text())[1]) * 1024
resource.setrlimit(resource.RLIMIT_DATA, (now + 300_000_000, -1))
print(len(search.run().hits))
"""


def test_memory_stays_what_it_is() -> None:
    """Three lights of 28 strobes, nothing of which is too slow: 300 MB beside what is loaded."""
    ran = subprocess.run(
        [sys.executable, "-c", LIMITED],
        capture_output=True,
        text=True,
        timeout=PROCESS_S,
        check=False,
    )
    assert ran.stdout.strip() == "40", ran.stderr[-600:]


class _Stopped(Exception):
    pass


def test_it_can_be_stopped_after_every_block() -> None:
    """The share that is done is told between any two blocks, and only grows."""
    scene, limits = scene_of(**SCENES["slow in a lit room"]), read_limits(WIDE)
    shares: list[float] = []
    search = Search(scene, many(6), limits)
    search.run(shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    assert len(shares) >= search.step_count + search.two_kind_count / blocks.ROWS
    for stop_at in (1, len(shares) // 2, len(shares) - 1):
        told: list[float] = []

        def stop(
            share: float, told: list[float] = told, stop_at: int = stop_at
        ) -> None:
            told.append(share)
            if len(told) == stop_at:
                raise _Stopped

        with pytest.raises(_Stopped):
            Search(scene, many(6), limits).run(stop)
        assert len(told) == stop_at


def _impatient(scene: Scene, limits: Limits, monkeypatch: pytest.MonkeyPatch) -> Found:
    monkeypatch.setattr(find, "_TRIAL_S", -1.0)
    return Search(scene, many(6), limits).run(patience_s=0.0)


def test_what_takes_too_long_is_left_out_and_said(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """What is there is right for the coarser question: as if two kinds were not asked for."""
    scene, limits = scene_of(**SCENES["a bright hall"]), read_limits(WIDE)
    coarse = Search(scene, many(6), limits, mixed=False).run()
    found = _impatient(scene, limits, monkeypatch)
    assert found.left_out is not None
    assert found.left_out.takes_s > 0
    assert found.hit_count is None
    assert shown(found) == shown(coarse)


def test_the_document_says_what_was_left_out() -> None:
    outcome = search_all(
        scene_of(), many(2), read_limits({**WIDE, "lights": 2})
    ).to_document()
    assert outcome["left_out"] is None
    assert outcome["untried"] == 0
