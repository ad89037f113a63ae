"""An unattended watch: which device dies first, and whether the visitor is still there when the lights are awake."""

import math
from collections.abc import Iterator
from typing import Any, Literal

from pydantic import Field

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.physics.hearing import lockout_s
from rapzel.core.shared.part import Name, Part, shown
from rapzel.core.shared.units import format_number, format_percent, format_time
from rapzel.core.tools.tool import Tool, ToolAnswer
from rapzel.core.trigger import cells as cell
from rapzel.core.trigger.cells import Cells

_NEARLY_ALL = 0.995


class CellsAsked(Part):
    """The cells of one device."""

    kind: Literal["AAA", "AA", "C", "D", "9V"] = "AA"
    series: int = Field(1, ge=1, le=100)
    parallel: int = Field(1, ge=1, le=100)
    chemistry: Literal["alkaline", "nimh", "lithium"] = "alkaline"
    capacity_mah: float | None = Field(
        None, ge=1, le=1e6, description="of one cell; null: usual"
    )

    def to_core(self) -> Cells:
        """The cells in the kernel's words."""
        return Cells(
            self.kind, self.series, self.parallel, self.chemistry, self.capacity_mah
        )


class DeviceAsked(Part):
    """One device: what it takes while it waits [mA] and for one event [mA s]."""

    name: Name
    cells: CellsAsked = Field(default_factory=CellsAsked)
    standby_ma: float = Field(ge=0, le=1e5)
    event_mas: float = Field(0.0, ge=0, le=1e7)
    by_day: bool = Field(False, description="left on by day, too")


class WatchAsked(Part):
    """The devices, the nights, and the visitors."""

    devices: tuple[DeviceAsked, ...] = shown(
        ..., "Devices", "rows", max_length=20, min_length=1, strict=False
    )
    events_per_night: float = shown(..., "Events a night", "number", ge=0, le=1e6)
    nights_wanted: float | None = shown(
        None, "Nights wanted", "number", "empty: as long as they last", ge=1, le=1000
    )
    deaf_s: float = shown(
        0.0, "Deaf after each", "duration", "lock-out, or recharging", ge=0, le=86_400
    )
    night_h: float = shown(10.0, "Night, hours", "number", ge=0.1, le=24)
    temperature_c: float = shown(20.0, "Temperature, °C", "temperature", ge=-60, le=80)
    wake_s: float = shown(0.0, "Lights awake after", "duration", ge=0, le=3600)
    frame_gap_s: float = shown(
        0.5, "Between frames", "duration", "while held", ge=0.01, le=3600
    )
    stays_s: float = shown(5.0, "A visitor stays", "duration", ge=0, le=86_400)
    stays_sd_s: float = shown(0.0, "Its spread (sd)", "duration", ge=0, le=86_400)


class WatchAnswered(ToolAnswer):
    """Nights of each device with the doubt of its cells, and what the wake-up costs."""

    nights: dict[str, float | None] = Field(
        description="until it is empty; None: it takes nothing"
    )
    nights_range: dict[str, tuple[float, float]]
    first_to_die: str | None
    frames_needed: int = Field(
        description="the dark ones while the lights wake up, and a lit one"
    )
    dark_frames: int
    hold_s: float = Field(description="how long the signal has to be held")
    p_still_there: float
    heard: float = Field(
        description="share of the visits that come while nothing is deaf"
    )
    lit_per_night: float = Field(
        description="visits of a night that end in a lit frame"
    )
    cells_wanted: dict[str, int] = Field(
        description="cells that each device needs for the nights wanted, by the low end of what cells hold"
    )
    better: list[str] = Field(
        description="what to change first, with the nights it gives"
    )


def _hours(device: DeviceAsked, asked: WatchAsked) -> float:
    # Whatever is not said to run by day is taken to be switched off at dawn, and the answer says
    # so.
    if device.by_day:
        return 24.0
    return asked.night_h


def _nights(device: DeviceAsked, asked: WatchAsked, share: float = 1.0) -> float:
    # Cold cells give less: the charge is that of the stated temperature.
    charge = device.cells.to_core().charge_mah(asked.temperature_c) * share
    return cell.nights(
        charge,
        device.standby_ma,
        _hours(device, asked),
        asked.events_per_night,
        device.event_mas,
    )


def named(asked: WatchAsked) -> list[tuple[str, DeviceAsked]]:
    """Each device under a name of its own: a second “Flash” is “Flash 2”."""
    taken: dict[str, int] = {}
    pairs = []
    for place, device in enumerate(asked.devices, start=1):
        name = device.name.strip() or f"Device {place}"
        # Two of a kind often bear the same name, and the answer speaks of each by name.
        taken[name] = taken.get(name, 0) + 1
        pairs.append((name if taken[name] == 1 else f"{name} {taken[name]}", device))
    return pairs


def solve(asked: WatchAsked) -> WatchAnswered:
    """Sums of charge, and the sequence from the first signal to the first lit frame."""
    found = {name: _nights(device, asked) for name, device in named(asked)}
    # A device that takes nothing never dies; it must not be the first to.
    finite = {name: value for name, value in found.items() if math.isfinite(value)}
    # The doubt is that of the cells; the currents are taken as they were given.
    low, high = 1 - cell.DOUBT, 1 + cell.DOUBT
    # Frames go on while the lights wake up, and all of them are dark.
    dark = math.ceil(asked.wake_s / asked.frame_gap_s - 1e-9)
    hold = dark * asked.frame_gap_s
    there = cell.still_there(hold, asked.stays_s, asked.stays_sd_s)
    heard = cell.heard(asked.events_per_night, asked.night_h, asked.deaf_s)
    return WatchAnswered(
        nights={
            name: value if math.isfinite(value) else None
            for name, value in found.items()
        },
        nights_range={
            name: (value * low, value * high) for name, value in finite.items()
        },
        first_to_die=min(finite, key=finite.__getitem__) if finite else None,
        frames_needed=dark + 1,
        dark_frames=dark,
        hold_s=hold,
        p_still_there=there,
        heard=heard,
        lit_per_night=asked.events_per_night * heard * there,
        cells_wanted=_cells_wanted(asked),
        better=list(_better(asked, finite)),
    )


def _cells_wanted(asked: WatchAsked) -> dict[str, int]:
    """How many cells each device needs for the nights wanted; nothing where none are asked for."""
    if asked.nights_wanted is None:
        return {}
    wanted = {}
    for name, device in named(asked):
        one = device.cells.model_copy(update={"parallel": 1})
        lasts = _nights(device.model_copy(update={"cells": one}), asked)
        # By the low end of what cells hold: a watch that ends a night early is lost.
        rows = math.ceil(asked.nights_wanted / (lasts * (1 - cell.DOUBT)) - 1e-9)
        wanted[name] = max(rows, 1) * device.cells.series
    return wanted


def _better(asked: WatchAsked, nights: dict[str, float]) -> Iterator[str]:
    """What lengthens the life of the first to die, the largest gain first, up to where the next one dies."""
    if not nights:
        return
    first = min(nights, key=nights.__getitem__)
    own = dict(named(asked))[first]
    # Mending the first to die helps no longer than until the next one does.
    others = min(
        (value for name, value in nights.items() if name != first), default=math.inf
    )
    tries = []
    # Only remedies that change this device are tried: a lithium cell cannot be advised twice.
    if own.by_day:
        tries.append(
            (f"switch {first} off by day", own.model_copy(update={"by_day": False}))
        )
    twice = own.cells.model_copy(update={"parallel": own.cells.parallel * 2})
    tries.append(
        (
            f"twice the cells side by side in {first}",
            own.model_copy(update={"cells": twice}),
        )
    )
    if own.cells.chemistry == "alkaline":
        # A stated capacity was that of the alkaline cell, so that it goes with it.
        best = own.cells.model_copy(
            update={"chemistry": "lithium", "capacity_mah": None}
        )
        tries.append(
            (f"lithium cells in {first}", own.model_copy(update={"cells": best}))
        )
    halved = own.model_copy(update={"standby_ma": own.standby_ma / 2})
    tries.append((f"half the standby current in {first}", halved))
    gains = sorted(
        ((_nights(device, asked), words) for words, device in tries), reverse=True
    )
    for value, words in gains:
        # Two percent of a night is within anybody's guess of a current.
        if value > nights[first] * 1.02:
            # From there on the next device is the first to die, and the gain would be an empty
            # promise.
            capped = min(value, others)
            yield f"{words[0].upper()}{words[1:]}: {_says_nights(capped)} instead of {_says_nights(nights[first])}."


def _says_nights(value: float) -> str:
    # Two digits: cells are not known better than that.
    shown_ = format_number(value, 2)
    return f"{shown_} {'night' if shown_ == '1' else 'nights'}"


def says(asked: WatchAsked, answer: WatchAnswered) -> str:
    """The answer in one sentence."""
    if answer.first_to_die is None:
        text = "No device takes anything by these figures, so how long they last is not known"
    else:
        # A range and no figure between: the night before the early end is when cells are changed.
        low, high = answer.nights_range[answer.first_to_die]
        text = f"{answer.first_to_die} dies first, after {format_number(low, 2)} to {format_number(high, 2)} nights"
    dark = answer.dark_frames
    if dark:
        text += (
            f"; the first {'frame is' if dark == 1 else f'{dark} frames are'} dark, so hold the signal for "
            f"{format_time(answer.hold_s)}: {format_percent(answer.p_still_there)} of the visitors are still there"
        )
    if answer.heard < _NEARLY_ALL:
        text += f"; {format_percent(1 - answer.heard)} of the visits come while it is deaf, and are missed"
    return f"{text}."


def _counted(asked: WatchAsked) -> str:
    """Which devices are counted as on by night alone."""
    # An assumption that lengthens the watch has to be said, or it reassures falsely.
    off = [name for name, device in named(asked) if not device.by_day]
    if not off:
        return "All of them are counted day and night."
    return f"Counted as off by day: {', '.join(off)}. Say “by day” of what stays on."


def _for_the_nights(
    asked: WatchAsked, answer: WatchAnswered
) -> list[tuple[str, list[str]]]:
    """What the nights that are wanted take of each device."""
    if asked.nights_wanted is None:
        return []
    chemistries = {
        name: f"{device.cells.kind} {_CHEMISTRY[device.cells.chemistry]}"
        for name, device in named(asked)
    }
    lines = [
        f"{name}: {count} {chemistries[name]}, side by side where that is more than one row, or changed on the way."
        for name, count in answer.cells_wanted.items()
    ]
    nights = _says_nights(asked.nights_wanted)
    return [
        (f"For {nights}", [*lines, "A third fewer might do; cells differ by that."])
    ]


def lists(asked: WatchAsked, answer: WatchAnswered) -> list[tuple[str, list[str]]]:
    """What to change, to try, to bring: the common practice of a watch that nobody sits at."""
    return [
        *_for_the_nights(asked, answer),
        (
            "To last longer",
            [
                *(
                    answer.better
                    or ["Nothing of the first to die can be made much better."]
                ),
                _counted(asked),
            ],
        ),
        (
            "Dry run",
            [
                "Walk a stick through the beam at the visitor's height: the trigger answers, nothing else does.",
                "A target where the visitor comes: focused on by hand, focus locked, lens taped.",
                "Each light answers by itself, then all; wait until all have slept, and try again.",
                "The first frames after the sleep are as dark as planned; the last is lit.",
                "All recharged before you leave; the card empty; the clock right.",
            ],
        ),
        (
            "Place",
            [
                "A low viewpoint, level with the visitor's eye; lights off the axis, so that no eye shines.",
                "Nothing that moves in the wind before the beam; the beam off paths where people walk.",
                "Distance, low power and few pops; stop at signs of distress. Nests and roosts need a licence.",
            ],
        ),
        (
            "Weather",
            [
                "Hoods and bags over body and lights, openings downwards; drying agent in the housings.",
                "Dew: a heater or a filter that is changed. Cold: cells lose charge, as counted here.",
                "Stands weighted, cables strain-relieved, everything marked with your name.",
            ],
        ),
        (
            "To bring",
            [
                *(
                    f"{_cells_of(device)} for {name}, and as many spare"
                    for name, device in named(asked)
                ),
                "Headlamp with red light, tape, cable ties, cloth, the stick and the target of the dry run.",
            ],
        ),
    ]


def _cells_of(device: DeviceAsked) -> str:
    count = device.cells.series * device.cells.parallel
    return f"{count} {device.cells.kind} {_CHEMISTRY[device.cells.chemistry]}"


_CHEMISTRY = {"alkaline": "alkaline", "nimh": "NiMH", "lithium": "lithium"}


def from_scene(scene: Scene, evaluation: Evaluation) -> dict[str, Any]:
    """A scene says how quick the body wakes and how long its unit is deaf; its devices' currents it does not know."""
    given: dict[str, Any] = {}
    if scene.camera.wake_s is not None:
        given["wake_s"] = scene.camera.wake_s
    deaf_s = lockout_s(scene)
    if deaf_s is not None:
        given["deaf_s"] = deaf_s
    return given


def table(asked: WatchAsked) -> tuple[list[str], list[list[float]]]:
    """Chance [0 … 1] that the visitor is still there, over how long the lights take to wake [s]."""
    # Twice the stay shows the fall as a whole; the lights' wake-up must lie on the axis too.
    end = max(2 * asked.stays_s + 2 * asked.stays_sd_s, 2 * asked.wake_s, 1.0)
    rows = [
        [
            end * step / 40,
            cell.still_there(end * step / 40, asked.stays_s, asked.stays_sd_s),
        ]
        for step in range(41)
    ]
    return ["wait_s", "p_still_there"], rows


WATCH = Tool(
    slug="watch",
    title="Unattended watch",
    purpose="Nobody sits at the camera: which device dies first, and who is still there when the lights are awake?",
    asks=WatchAsked,
    answers=WatchAnswered,
    beginning={
        "devices": [
            {
                "name": "Flash",
                "cells": {"kind": "AA", "series": 4},
                "standby_ma": 4.0,
                "event_mas": 3000.0,
            },
            {
                "name": "Receiver",
                "cells": {"kind": "AA", "series": 2},
                "standby_ma": 25.0,
                "by_day": True,
            },
            {"name": "Beam", "cells": {"kind": "D", "series": 4}, "standby_ma": 18.0},
            {
                "name": "Camera",
                "cells": {"kind": "AA", "series": 6, "chemistry": "lithium"},
                "standby_ma": 6.0,
                "event_mas": 900.0,
            },
        ],
        "events_per_night": 40.0,
        "wake_s": 1.2,
        "stays_s": 4.0,
        "stays_sd_s": 1.5,
    },
    solve=solve,
    says=says,
    from_scene=from_scene,
    table=table,
    lists=lists,
)
