"""Shared by all tests. Browser tests keep an event loop running, which Django would otherwise refuse."""

import copy
import os
from typing import Any

import pytest

from tests.plans import LUNGE

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption(
        "--noise-seeds", type=int, default=60, help="seeded runs of each shape in the noise study"
    )


@pytest.fixture(scope="session")
def noise_seeds(request: pytest.FixtureRequest) -> int:
    """How many noisy recordings of each shape are measured."""
    return int(request.config.getoption("--noise-seeds"))


@pytest.fixture
def document() -> dict[str, Any]:
    """A scene document that is all right, to be changed by the test."""
    return copy.deepcopy(LUNGE)
