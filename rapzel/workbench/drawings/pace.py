"""The burst frame by frame: how bright each frame is, how long it holds, and what else caps the rate."""

import math

from rapzel.core.physics import Physics
from rapzel.core.physics.pace import frames_of, pops_of_a_charge
from rapzel.core.shared import units
from rapzel.ui.drawing import Drawing, Svg
from rapzel.ui.plot import Box, Plot

_BOX = Box(left=50.0, right=420.0, top=26.0, bottom=230.0)
_BELOW = 17.0  # from the bars to the base line of their numbers
_FRAMES, _LOWEST = 24, -3.0
_SHORT_STOPS = -0.1  # a frame that is darker is seen to be; (memory)


def draw_pace(physics: Physics) -> Drawing:
    """Bars of a burst at the asked rate, else at twice what the lights sustain."""
    svg = Svg(430, 312, "Light of each frame of a burst.")
    rate, frames = _burst(physics)
    if rate is None:
        offsets = None
    else:
        offsets = _offsets(physics, rate, frames)
    if rate is None or offsets is None:
        svg.text("quiet", 215, 140, "no burst to show", "middle")
        return Drawing(svg, _why_not(physics), ("Frame", "At", "Stops"), [])
    _draw_bars(svg, offsets)
    rows: list[tuple[str, ...]] = [
        (str(place + 1), units.format_time(place / rate), _stops(offset))
        for place, offset in enumerate(offsets)
    ]
    return Drawing(
        svg, _summary(physics, rate, offsets), ("Frame", "At", "Stops"), rows
    )


def _draw_bars(svg: Svg, offsets: list[float]) -> None:
    """A bar for each frame from the lowest stop up to its light, with both axes."""
    frames = len(offsets)
    plot = Plot(svg, _BOX, _BOX.linear_x(0, frames), _BOX.linear_y(_LOWEST, 0))
    wide = max((_BOX.right - _BOX.left) / frames * 0.7, 1.0)
    for place, offset in enumerate(offsets):
        if offset >= _SHORT_STOPS:
            cls = "flash"
        else:
            cls = "refused"
        top = plot.y(max(offset, _LOWEST))
        svg.rect(cls, plot.x(place), top, wide, _BOX.bottom - top)
    plot.across(_SHORT_STOPS, "limit")
    for stops in (0, -1, -2, -3):
        plot.level_name(stops, units.format_stops(stops))
    svg.text("quiet", _BOX.left - plot.gap, _BOX.top - 10, "stops", "end")
    for place in range(0, frames, max(frames // 8, 1)):
        middle = plot.x(place) + wide / 2
        svg.text("quiet", middle, _BOX.bottom + _BELOW, str(place + 1), "middle")
    svg.text("quiet", _BOX.left - plot.gap, _BOX.bottom + _BELOW, "frame", "end")


def _stops(offset: float) -> str:
    if math.isfinite(offset):
        return units.format_stops(offset)
    return "no light"


def _burst(physics: Physics) -> tuple[float | None, int]:
    """Frames a second and how many to draw; no rate where nothing is known to burst."""
    exposure, pace = physics.scene.exposure, physics.pace
    # Twice what it sustains shows how a burst fades.
    asked = exposure.frames_per_s or (
        2 * pace.sustained_fps if pace.sustained_fps else None
    )
    frames = min(exposure.burst or _FRAMES, 60)
    return (asked if physics.method.flashes and physics.on_part else None), frames


def _offsets(physics: Physics, rate: float, frames: int) -> list[float] | None:
    """Light of each frame of all lights on the moving part against the first's [stops]; None where not known."""
    total = [0.0] * frames
    for lit in physics.on_part:
        own = frames_of(lit.light, rate, frames)
        if own is None:
            return None
        # Light adds up before it is made into stops again.
        for place, offset in enumerate(own):
            total[place] += lit.n_squared * 2.0**offset
    whole = physics.n_squared
    return [math.log2(light / whole) if light > 0 else -math.inf for light in total]


def _why_not(physics: Physics) -> str:
    if physics.pace.unknown:
        return "A recycle time is not known: time the strobe, ready to ready, and put it into the kit."
    return "No flash on the moving part: the exposure alone caps the rate."


def _summary(physics: Physics, rate: float, offsets: list[float]) -> str:
    short = next(
        (place for place, one in enumerate(offsets) if one < _SHORT_STOPS), None
    )
    if short is None:
        holds = f"all {len(offsets)} frames"
    else:
        holds = f"{short} frame{'' if short == 1 else 's'}"
    parts = [f"At {units.format_number(rate, 2)}/s it holds {holds}"]
    pace = physics.pace
    if pace.bears_fps is not None:
        parts.append(f"heat allows {units.format_number(pace.bears_fps, 2)}/s for long")
    parts += _charges(physics)
    if pace.drives.says:
        parts.append(f"blocked drive: {pace.drives.says}")
    return "; ".join(parts) + "."


def _charges(physics: Physics) -> list[str]:
    """Frames of a charge, and how many tries that is."""
    known = [
        pops
        for lit in physics.on_part
        if (pops := pops_of_a_charge(lit.light)) is not None
    ]
    if not known:
        return []
    frames = physics.scene.exposure.burst or 1
    tries = min(known) // frames
    return [
        f"a charge gives {min(known)} frames, {tries} tr{'y' if tries == 1 else 'ies'}"
    ]
