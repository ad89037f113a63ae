"""Shared by all tests. Browser tests keep an event loop running, which Django would otherwise refuse."""

import copy
import gc
import os
import secrets
from typing import Any

import pytest
from hypothesis import HealthCheck, settings

from tests.plans import LUNGE

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")

# The same examples each time, and none is judged by how long it took: a pause of the machine is no fault of the code.
settings.register_profile(
    "rapzel",
    derandomize=True,
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("rapzel")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption(
        "--noise-seeds",
        type=int,
        default=60,
        help="seeded runs of each shape in the noise study",
    )
    parser.addoption(
        "--crafted", type=int, default=600, help="posts that no browser sends"
    )
    parser.addoption(
        "--rigs", type=int, default=300, help="simulated rigs that are dialled in"
    )
    parser.addoption(
        "--hunt",
        type=int,
        default=60,
        help="random scenes whose verdicts are played out, in each of the hunts",
    )
    parser.addoption(
        "--slow-machine",
        action="store_true",
        help="browser tests: answers are held back by 50 to 1500 ms, and the browser's processor is throttled",
    )
    parser.addoption(
        "--slow-machine-seed",
        type=int,
        help="seed of --slow-machine; drawn and printed if not given",
    )


def pytest_configure(config: pytest.Config) -> None:
    """Draws the seed before the work is shared, so that every process has the same one."""
    if config.option.slow_machine and config.option.slow_machine_seed is None:
        config.option.slow_machine_seed = secrets.randbelow(10**6)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What takes longest begins first, or the other processes would be done and wait for it."""
    items.sort(key=lambda item: "test_start.py" not in item.nodeid)


def pytest_collection_finish() -> None:
    """What is loaded by now stays to the end: it is not searched for garbage again, and the rest less often."""
    gc.freeze()
    gc.set_threshold(20_000, 20, 20)


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    option = terminalreporter.config.option
    if option.slow_machine:
        terminalreporter.write_line(f"--slow-machine-seed {option.slow_machine_seed}")


@pytest.fixture(scope="session")
def noise_seeds(request: pytest.FixtureRequest) -> int:
    """How many noisy recordings of each shape are measured."""
    return int(request.config.getoption("--noise-seeds"))


@pytest.fixture(scope="session")
def crafted(request: pytest.FixtureRequest) -> int:
    """How many crafted posts are sent."""
    return int(request.config.getoption("--crafted"))


@pytest.fixture(scope="session")
def rigs(request: pytest.FixtureRequest) -> int:
    """How many simulated rigs are dialled in."""
    return int(request.config.getoption("--rigs"))


@pytest.fixture
def document() -> dict[str, Any]:
    """A scene document that is all right, to be changed by the test."""
    return copy.deepcopy(LUNGE)
