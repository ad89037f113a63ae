"""A recording at the limit (ten million samples in two columns) against polars, which merely reads it."""

import json
import statistics
import subprocess
import sys
from pathlib import Path

import numpy as np
import polars as pl
import pytest

SAMPLES = 10_000_000
ROUNDS = 7
PLAIN = """
import json, sys, time
import polars as pl
begin = time.perf_counter()
pl.read_csv(sys.argv[1], has_header=False, skip_lines=1, schema={"0": pl.Float64, "1": pl.Float64})
print(json.dumps({"took": time.perf_counter() - begin}))
"""
OURS = """
import json, re, sys, time
from pathlib import Path
from rapzel.core.trace import analyse_recording
from rapzel.core.trace import read
from rapzel.core.trace import recognise
from rapzel.core.trace.reading.layout import HEAD_BYTES
path = Path(sys.argv[1])
peak = lambda: int(re.search(r"VmHWM:\\s+(\\d+)", Path("/proc/self/status").read_text())[1]) * 1024
before = peak()
begin = time.perf_counter()
with path.open("rb") as file:
    layout = recognise(file.read(HEAD_BYTES))
result = analyse_recording(read(path, layout), fit=False)
took = time.perf_counter() - begin
print(json.dumps({"took": took, "grown": peak() - before, "t01": result.mean("t01_s")}))
"""


@pytest.fixture(scope="module")
def large(tmp_path_factory) -> Path:
    """Whole nanoseconds and whole steps of a converter, so that ten million lines stay just under 100 MB."""
    rng = np.random.default_rng(8)
    count = np.arange(SAMPLES)
    light = np.where(
        count > 2_000_000, 85 * np.exp(-np.maximum(count - 2_000_000, 0) / 60_000), 0.0
    )
    level = np.clip(np.round(4 + light + rng.normal(0, 0.6, SAMPLES)), 0, 99).astype(
        int
    )
    path = tmp_path_factory.mktemp("trace") / "large.csv"
    table = pl.DataFrame({"t": count, "v": level})
    with path.open("wb") as file:
        file.write(b"Time (ns),CH1 (V)\n")
        table.write_csv(file, include_header=False)
    return path


def test_ten_million_samples(large: Path, benchmark, report) -> None:
    def once(script: str) -> dict[str, float]:
        """A run in a process of its own, as both would have it."""
        done = subprocess.run(
            [sys.executable, "-c", script, str(large)], capture_output=True, check=True
        )
        return json.loads(done.stdout)

    pairs = [(once(PLAIN), once(OURS)) for _ in range(ROUNDS)]
    theirs = statistics.median(each["took"] for each, _ in pairs)
    found = [each for _, each in pairs]
    benchmark.pedantic(lambda: None, rounds=1)
    ours = statistics.median(each["took"] for each in found)
    size = large.stat().st_size
    grown = statistics.median(each["grown"] for each in found)
    assert found[0]["t01"] == pytest.approx(60_000e-9 * np.log(10), rel=0.02)
    report(
        f"read and analyse {size / 2**20:.0f} MB against polars reading it",
        ours / theirs,
        "×",
        1.5,
    )
    report("memory against the file's size", grown / size, "×", 4)
