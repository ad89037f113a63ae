"""Benchmarks share the tests' plans. A limit that is missed fails the run; speed is never a test elsewhere.

A time is stated in milliseconds and in units of this machine (calibration), looked at before and after; its limit is
that of the machine where limits were set, in the same units. Ratios are ratios anywhere.
"""

import statistics
from collections.abc import Callable, Iterator
from typing import Any

import pytest

from benchmarks.calibration import REFERENCE_MS, Clock

LINES: list[str] = []


@pytest.fixture
def report() -> Callable[[str, float, str, float, bool], None]:
    """Notes a figure against its limit: (what, figure, unit, limit, whether more is better). Fails when missed."""
    clock = Clock()

    def note(
        what: str, figure: float, unit: str, limit: float, more: bool = False
    ) -> None:
        if unit == "ms":
            clock.end()
            _in_units(what, figure, limit, clock.unit)
            return
        ratio = figure / limit if more else limit / figure
        sign = "≥" if more else "≤"
        LINES.append(
            f"{what:58s} {figure:9.2f} {unit:4s} asked {sign} {limit:g} {unit}: {ratio:5.2f}× the limit"
        )
        assert ratio >= 1, f"{what}: {figure:.3g} {unit}, asked {sign} {limit:g} {unit}"

    return note


def _in_units(what: str, ms: float, limit_ms: float, unit: float) -> None:
    """A time against the limit in ms of the reference machine."""
    units, limit = ms / unit, limit_ms / REFERENCE_MS
    LINES.append(
        f"{what:58s} {ms:9.2f} ms  {units:7.3f} units asked ≤ {limit:.3f} units: {limit / units:5.2f}× the limit"
    )
    assert units <= limit, (
        f"{what}: {units:.3f} units, asked ≤ {limit:.3f} (a unit is {unit:.1f} ms)"
    )


@pytest.fixture
def median_ms() -> Callable[[Any], float]:
    """The median of a finished benchmark in milliseconds."""
    return lambda benchmark: statistics.median(benchmark.stats.stats.data) * 1000


@pytest.hookimpl(trylast=True)
def pytest_terminal_summary(
    terminalreporter: pytest.TerminalReporter,
) -> Iterator[None] | None:
    terminalreporter.section("limits (medians; above 1× is better than asked)")
    for line in LINES:
        terminalreporter.write_line(line)
    return None
