"""The stand-in for a bench, where one is plugged in: which strobes and which mistakes it plays. Production has none."""

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class StandIn:
    """strobes: by the name that it is asked for, its name and mode in the kit; faults: mistakes of a bench."""

    strobes: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    faults: tuple[str, ...] = ()


_plugged_in = StandIn()


def plug_in(stand_in: StandIn) -> None:
    """Says what the bench of this process stands in for; the demo does when it is set up."""
    global _plugged_in  # noqa: PLW0603  one bench a process, said once
    _plugged_in = stand_in


def plugged_in() -> StandIn:
    """What is plugged in; it plays nothing where nothing is."""
    return _plugged_in
