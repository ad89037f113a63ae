"""What a simulated trigger unit plays: its outputs in steps and with jitter, and a set whose truth nobody told it.

The truth of a set is drawn once from its seed: by how much the subject, and a second drop, come later than planned.
 Each event adds its own jitter. Nothing here knows of scenes.
"""

import random
from dataclasses import dataclass, replace

FAULTS = ("none", "asleep", "channel", "double", "slow", "silent", "babbling")
STEP_S = 1e-4
STUCK_CHANNEL = 9  # where a unit with the fault `channel` stays, whatever is set
BOUNCE_S = 0.083  # after which a unit with the fault `double` fires again


@dataclass(frozen=True, slots=True)
class Settings:
    """What is set, and what the stand-in is told of the set that it plays. Times in seconds."""

    channel: int = 1
    flash_channel: int = 1  # that the flash listens on, as its owner set it
    delay_s: float = 0.0
    second_s: float | None = None
    unit_jitter_s: float = 2e-5
    seed: int = 1
    late_within_s: float = 0.0
    jitter_s: float = 0.0

    @property
    def rig_late_s(self) -> float:
        """By how much the subject usually is later in its place than planned [s]."""
        return random.Random(f"subject {self.seed}").uniform(-1, 1) * self.late_within_s

    @property
    def second_late_s(self) -> float:
        """By how much a second drop usually is later than planned [s]."""
        return random.Random(f"second {self.seed}").uniform(-1, 1) * self.late_within_s


@dataclass(frozen=True, slots=True)
class Event:
    """What happened: when the outputs went [s after the event], how often, and whether the flash answered."""

    pulses: int
    flash_s: float
    second_s: float | None
    again_s: float | None
    answered: bool
    rig_late_s: float
    rig_second_late_s: float


def settled_s(value_s: float) -> float:
    """A time in whole steps of the unit [s]."""
    return round(round(value_s / STEP_S) * STEP_S, 9)


def with_fault(settings: Settings, fault: str) -> Settings:
    """The settings as a unit with this fault keeps them."""
    if fault == "channel":
        return replace(settings, channel=STUCK_CHANNEL)
    return settings


def played(settings: Settings, fault: str, draw: random.Random) -> Event:
    """One event of the set."""
    flash = max(settings.delay_s + draw.gauss(0, settings.unit_jitter_s), 0.0)
    second = settings.second_s
    if second is not None:
        second = max(second + draw.gauss(0, settings.unit_jitter_s), 0.0)
    double = fault == "double"
    return Event(
        pulses=2 if double else 1,
        flash_s=flash,
        second_s=second,
        again_s=flash + BOUNCE_S if double else None,
        answered=settings.channel == settings.flash_channel,
        rig_late_s=settings.rig_late_s + draw.gauss(0, settings.jitter_s),
        rig_second_late_s=settings.second_late_s + draw.gauss(0, settings.jitter_s),
    )
