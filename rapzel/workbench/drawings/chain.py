"""From event to light: the lags in order, their jitter, and where that finds the subject in the frame."""

import numpy as np

from rapzel.core.physics import Physics
from rapzel.core.physics.timing import Timing
from rapzel.core.shared import units
from rapzel.core.shared.units import format_known_time
from rapzel.ui.drawing import Drawing, Scale, Svg, linear_scale, nice_ticks, text_width
from rapzel.ui.plot import Box, Plot, anchor_within

_LEFT, _RIGHT, _TOP, _LANE = 16.0, 414.0, 40.0, 26.0


def _lags(svg: Svg, physics: Physics, x: Scale) -> float:
    # Each lag begins where the last one ended; one that is not known takes no width here.
    begun, y = 0.0, _TOP
    steps = [
        (delay.name, delay.lag_s, delay.jitter_s) for delay in physics.timing.delays
    ]
    if physics.scene.trigger.set_delay_s:
        steps.append(("set delay", physics.scene.trigger.set_delay_s, 0.0))
    for name, lag_s, jitter_s in steps:
        left, right = x(begun), x(begun + (lag_s or 0.0))
        if lag_s is not None:
            svg.rect("time", left, y, max(right - left, 2), 12, fill_opacity="0.7")
        lag = "not known"
        if lag_s is not None:
            lag = units.format_time_within(lag_s, jitter_s)
        text = f"{name} {lag}"
        _beside(svg, text, left, right, y)
        begun += lag_s or 0.0
        y += _LANE
    return y


def _beside(svg: Svg, text: str, left: float, right: float, y: float) -> None:
    if right + 6 + text_width(text) <= _RIGHT:
        svg.text("text", right + 6, y + 10, text)
    elif left - 6 - text_width(text) >= _LEFT:
        svg.text("text", left - 6, y + 10, text, "end")
    else:
        svg.text("text", (left + right) / 2, y + 10, text, "middle")


def draw_chain(physics: Physics) -> Drawing:
    """The chain view: time above, the frame and the spread of places below."""
    timing = physics.timing
    lanes = len(timing.delays) + bool(physics.scene.trigger.set_delay_s)
    svg = Svg(430, _TOP + lanes * _LANE + 190, "Chain from event to light.")
    # As far as lags are known, so that the others can still be seen.
    known = (
        sum(delay.lag_s or 0.0 for delay in timing.delays)
        + physics.scene.trigger.set_delay_s
    )
    end = (
        max(known + 3 * (timing.jitter_s or 0.0), timing.wanted_delay_s or 0.0, 1e-5)
        * 1.12
    )
    x = linear_scale(0, end, _LEFT, _RIGHT)
    bottom = _lags(svg, physics, x)
    box = Box(_LEFT, _RIGHT, _TOP - 14, bottom)
    plot = Plot(svg, box, x, box.linear_y(0, 1))
    plot.column_above(0.0, "event", "start")
    for tick in nice_ticks(end, 3)[1:]:
        plot.column_above(tick, units.format_time(tick))
    if timing.flash_after_event_s is None:
        svg.text(
            "time-text", _LEFT, bottom + 28, f"not known: {', '.join(timing.unknown)}"
        )
    else:
        _light(svg, timing, x, bottom)
    if timing.wanted_delay_s is not None:
        at = x(timing.wanted_delay_s)
        svg.line("limit", at, _TOP - 14, at, bottom + 16)
        words = f"wanted {units.format_time(timing.wanted_delay_s)}"
        svg.text("limit-text", at, bottom + 42, words, anchor_within(at, 90, 340))
    if timing.shares is not None:
        _places(svg, physics, bottom + 66)
    return Drawing(
        svg, _summary(physics), ("Link", "Lag", "Jitter (sd)"), _rows(physics)
    )


def _light(svg: Svg, timing: Timing, x: Scale, bottom: float) -> None:
    light, jitter = timing.flash_after_event_s or 0.0, timing.jitter_s or 0.0
    # No light comes before the event that fires it.
    left = x(max(light - jitter, 0))
    svg.rect("flash", left, bottom, max(x(light + jitter) - left, 2), 14)
    words = f"light {units.format_time(light)}"
    svg.text(
        "flash-text", x(light), bottom + 28, words, anchor_within(x(light), 70, 340)
    )


def _places(svg: Svg, physics: Physics, top: float) -> None:
    """The frame, and how the places of the subject spread over it in many tries."""
    timing, width = physics.timing, physics.frame.field_width_m
    offset, sd = timing.offset_m or 0.0, timing.position_sd_m or 0.0
    # A subject that is far off must not make the frame a speck.
    reach = max(width * 0.75, min(abs(offset) + 3 * sd, width * 3))
    x = linear_scale(-reach, reach, _LEFT, _RIGHT)
    svg.rect("open", x(-width / 2), top, x(width / 2) - x(-width / 2), 64)
    svg.text(
        "quiet", x(-width / 2) + 4, top + 13, f"frame {units.format_length(width)}"
    )
    # Something without spread would have no width to be drawn with.
    spread = max(sd, reach / 400)
    places = np.linspace(offset - 3 * spread, offset + 3 * spread, 61)
    heights = np.exp(-0.5 * ((places - offset) / spread) ** 2)
    inside = [
        (x(float(p)), top + 60 - 40 * float(h))
        for p, h in zip(places, heights, strict=True)
        if abs(p) <= reach
    ]
    if inside:
        svg.polygon(
            "time",
            [(inside[0][0], top + 60), *inside, (inside[-1][0], top + 60)],
            fill_opacity="0.6",
        )
    # The bell is how places spread; how many of them land is said in words below.
    svg.text("time-text", 215, top + 82, _landing(timing), "middle")


def _landing(timing: Timing) -> str:
    spread = f"subject ± {units.format_length(timing.position_sd_m or 0.0)}"
    if timing.share is not None:
        return f"{spread}, {units.format_percent(timing.share)} of tries land"
    assert timing.shares is not None, "drawn only where tries could be simulated"
    return f"{spread}, {units.format_percent(timing.shares.in_frame)} stay in the frame; no moment stated"


def _summary(physics: Physics) -> str:
    timing = physics.timing
    if timing.flash_after_event_s is None:
        return f"When the light comes is not known: {', '.join(timing.unknown)}."
    when = units.format_time_within(timing.flash_after_event_s, timing.jitter_s)
    text = f"The light comes {when} after the event"
    if timing.told_travel_m:
        way = units.format_length(timing.told_travel_m)
        text += f"; the subject is {way} further by then"
    text += "."
    if timing.too_late_s > 0:
        return f"{text} That is {units.format_time(timing.too_late_s)} too late."
    if timing.needed_delay_s is not None:
        return f"{text} A set delay of {units.format_time(timing.needed_delay_s)} puts it where it is wanted."
    return text


def _rows(physics: Physics) -> list[tuple[str, ...]]:
    timing = physics.timing
    rows: list[tuple[str, ...]] = [
        (delay.name, format_known_time(delay.lag_s), format_known_time(delay.jitter_s))
        for delay in timing.delays
    ]
    rows.append(
        ("set delay", units.format_time(physics.scene.trigger.set_delay_s), "–")
    )
    rows.append(
        (
            "light after event",
            format_known_time(timing.flash_after_event_s),
            format_known_time(timing.jitter_s),
        )
    )
    return rows
