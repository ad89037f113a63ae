"""Shared by all tests. Browser tests keep an event loop running, which Django would otherwise refuse."""

import copy
import os
from typing import Any

import pytest

from tests.plans import LUNGE

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "true")


@pytest.fixture
def document() -> dict[str, Any]:
    """A scene document that is all right, to be changed by the test."""
    return copy.deepcopy(LUNGE)
