"""The open shutter against Poisson's law, against counted visits, and by the contract of every tool."""

import math

import jsonschema
import numpy as np
import pytest
from scipy.stats import poisson

from rapzel.core.evaluate import evaluate
from rapzel.core.possible import read_possible_scene
from rapzel.core.shared.errors import DocumentError
from rapzel.core.tools import TOOLS, ask

TOOL = TOOLS["open-shutter"]


@pytest.mark.parametrize(("rate", "open_s"), [(0.1, 10.0), (0.02, 30.0), (3.0, 0.5)])
def test_without_a_lock_out_it_is_poissons_law(rate: float, open_s: float) -> None:
    found = ask(TOOL, {"visits_per_s": rate, "open_s": open_s})
    mean = rate * open_s
    assert found["p_none"] == pytest.approx(poisson.pmf(0, mean))
    assert found["p_one"] == pytest.approx(poisson.pmf(1, mean))
    assert found["p_several"] == pytest.approx(poisson.sf(1, mean))
    assert found["best_open_s"] == pytest.approx(1 / rate)
    assert found["best_p"] == pytest.approx(1 / math.e)  # λT e^(−λT) at λT = 1
    assert found["expected_pops"] == pytest.approx(mean)
    assert found["background_gain_stops"] == 0
    assert found["longest_open_s"] is None


def test_a_lock_out_against_counted_visits() -> None:
    """Visits drawn one by one with plain exponential gaps; a visit within the lock-out does nothing."""
    rng, rate, open_s, lockout = np.random.default_rng(8), 0.4, 6.0, 2.0
    gaps = rng.exponential(1 / rate, (200_000, 40))
    times = np.cumsum(gaps, axis=1)
    pops = np.zeros(times.shape[0], dtype=int)
    ready = np.zeros(times.shape[0])
    for visit in range(times.shape[1]):
        fires = (times[:, visit] >= ready) & (times[:, visit] <= open_s)
        pops += fires
        ready = np.where(fires, times[:, visit] + lockout, ready)
    found = ask(
        TOOL,
        {
            "visits_per_s": rate,
            "open_s": open_s,
            "lockout_s": lockout,
            "pops_tolerated": 2,
        },
    )
    assert found["p_none"] == pytest.approx(np.mean(pops == 0), abs=0.004)
    assert found["p_one"] == pytest.approx(np.mean(pops == 1), abs=0.004)
    assert found["p_several"] == pytest.approx(np.mean(pops >= 2), abs=0.004)
    assert found["p_tolerated"] == pytest.approx(
        np.mean((pops >= 1) & (pops <= 2)), abs=0.004
    )
    assert found["expected_pops"] == pytest.approx(pops.mean(), abs=0.01)
    assert found["background_gain_stops"] == 1


@pytest.mark.parametrize(
    ("lockout_s", "most"), [(0.0, 1), (0.0, 3), (4.0, 1), (1.5, 2)]
)
def test_no_other_opening_is_better_than_the_best(lockout_s: float, most: int) -> None:
    asked = {
        "visits_per_s": 0.2,
        "open_s": 1.0,
        "lockout_s": lockout_s,
        "pops_tolerated": most,
    }
    best = ask(TOOL, asked)
    for open_s in np.geomspace(0.1, 100, 300):
        assert (
            ask(TOOL, {**asked, "open_s": float(open_s)})["p_tolerated"]
            <= best["best_p"] + 1e-9
        )
    assert ask(TOOL, {**asked, "open_s": best["best_open_s"]})[
        "p_tolerated"
    ] == pytest.approx(best["best_p"])


def test_the_room_limits_the_opening() -> None:
    """Each stop of margin to spare is a doubling: 7 stops under where 5 are asked leave four times as long."""
    found = ask(TOOL, {"visits_per_s": 0.01, "open_s": 2.0, "ghost_margin_stops": 7.0})
    assert found["longest_open_s"] == pytest.approx(8.0)
    assert "beyond 8 s the room trails" in TOOL.says(
        TOOL.read({"visits_per_s": 0.01, "open_s": 2.0}),
        TOOL.solve(
            TOOL.read({"visits_per_s": 0.01, "open_s": 2.0, "ghost_margin_stops": 7.0})
        ),
    )


# --- the contract of every tool -------------------------------------------------------------------------------------


@pytest.mark.parametrize("tool", TOOLS.values(), ids=TOOLS)
def test_every_tool_keeps_the_contract(tool, document) -> None:
    """It answers what it begins with, and a scene; schema, sentence and table agree with it; it refuses in words."""
    schema = tool.schema()
    jsonschema.Draft202012Validator.check_schema(schema)
    scene = read_possible_scene(document)
    for asked in (
        dict(tool.beginning),
        {**tool.beginning, **tool.from_scene(scene, evaluate(scene))},
    ):
        answer = ask(tool, asked)
        jsonschema.validate({"in": asked, "out": answer}, schema)
        assert tool.says(tool.read(asked), tool.solve(tool.read(asked))).endswith(".")
        header, rows = tool.table(tool.read(asked))
        # A knob that nobody has tried yet has no rows.
        assert rows or asked.get("history") == []
        assert all(
            len(row) == len(header) and all(map(math.isfinite, row)) for row in rows
        )
    assert ask(tool, dict(tool.beginning)) == ask(tool, dict(tool.beginning))
    with pytest.raises(DocumentError, match="unknown key “colour”"):
        ask(tool, {**tool.beginning, "colour": "red"})
    with pytest.raises(DocumentError, match="is a JSON object"):
        ask(tool, [])
    for field in tool.asks.model_fields.values():
        assert isinstance(field.json_schema_extra, dict)
        assert {"x-label", "x-quantity"} <= set(field.json_schema_extra)
