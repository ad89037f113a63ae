"""A reference library that takes seconds to load, and is loaded by the processes that compare with it alone."""

from typing import Any

import pytest


@pytest.fixture(scope="session")
def coolprop() -> Any:
    """CoolProp's functions: properties of gases and liquids by their equations of state."""
    import CoolProp.CoolProp  # noqa: PLC0415

    return CoolProp.CoolProp
