"""From event to light: the lags in order, their jitter, and where that finds the subject in the frame."""

import numpy as np

from rapzel.core.physics import Physics
from rapzel.core.physics.timing import Timing
from rapzel.core.shared import units
from rapzel.ui.drawing import Drawing, Scale, Svg, linear_scale, nice_ticks, text_width

_LEFT, _RIGHT, _TOP, _LANE = 16.0, 414.0, 40.0, 26.0
_UNKNOWN = "not known"


def said(time_s: float | None) -> str:
    """A time, or that it is not known."""
    if time_s is None:
        return _UNKNOWN
    return units.format_time(time_s)


def _lags(svg: Svg, physics: Physics, x: Scale) -> float:
    begun, y = 0.0, _TOP
    steps = [(delay.name, delay.lag_s, delay.jitter_s) for delay in physics.timing.delays]
    if physics.scene.trigger.set_delay_s:
        steps.append(("set delay", physics.scene.trigger.set_delay_s, 0.0))
    for name, lag_s, jitter_s in steps:
        left, right = x(begun), x(begun + (lag_s or 0.0))
        if lag_s is not None:
            svg.rect("time", left, y, max(right - left, 2), 12, fill_opacity="0.7")
        text = f"{name} {said(lag_s)}" + ("" if jitter_s == 0.0 else f" ± {said(jitter_s)}")
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
    known = sum(delay.lag_s or 0.0 for delay in timing.delays) + physics.scene.trigger.set_delay_s
    end = max(known + 3 * (timing.jitter_s or 0.0), timing.wanted_delay_s or 0.0, 1e-5) * 1.12
    x = linear_scale(0, end, _LEFT, _RIGHT)
    bottom = _lags(svg, physics, x)
    for tick in nice_ticks(end, 3):
        svg.line("grid", x(tick), _TOP - 14, x(tick), bottom)
        if tick:
            text = units.format_time(tick)
        else:
            text = "event"
        svg.text("quiet", x(tick), _TOP - 20, text, "middle" if tick else "start")
    if timing.flash_after_event_s is None:
        svg.text("time-text", _LEFT, bottom + 28, f"not known: {', '.join(timing.unknown)}")
    else:
        _light(svg, timing, x, bottom)
    if timing.wanted_delay_s is not None:
        at = x(timing.wanted_delay_s)
        svg.line("limit", at, _TOP - 14, at, bottom + 16)
        if 90 < at < 340:
            anchor = "middle"
        elif at <= 90:
            anchor = "start"
        else:
            anchor = "end"
        svg.text(
            "limit-text",
            at,
            bottom + 42,
            f"wanted {units.format_time(timing.wanted_delay_s)}",
            anchor,
        )
    if timing.shares is not None:
        _places(svg, physics, bottom + 66)
    return Drawing(svg, _summary(physics), ("Link", "Lag", "Jitter (sd)"), _rows(physics))


def _light(svg: Svg, timing: Timing, x: Scale, bottom: float) -> None:
    light, jitter = timing.flash_after_event_s or 0.0, timing.jitter_s or 0.0
    left = x(max(light - jitter, 0))
    svg.rect("flash", left, bottom, max(x(light + jitter) - left, 2), 14)
    if 70 < x(light) < 340:
        anchor = "middle"
    elif x(light) <= 70:
        anchor = "start"
    else:
        anchor = "end"
    svg.text("flash-text", x(light), bottom + 28, f"light {units.format_time(light)}", anchor)


def _places(svg: Svg, physics: Physics, top: float) -> None:
    """The frame, and how the places of the subject spread over it in many tries."""
    timing, width = physics.timing, physics.frame.field_width_m
    offset, sd = timing.offset_m or 0.0, timing.position_sd_m or 0.0
    reach = max(width * 0.75, min(abs(offset) + 3 * sd, width * 3))
    x = linear_scale(-reach, reach, _LEFT, _RIGHT)
    svg.rect("open", x(-width / 2), top, x(width / 2) - x(-width / 2), 64)
    svg.text("quiet", x(-width / 2) + 4, top + 13, f"frame {units.format_length(width)}")
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
    text = f"The light comes {said(timing.flash_after_event_s)} ± {said(timing.jitter_s)} after the event"
    text += f"; the subject is {units.format_length(timing.travel_m or 0.0)} further by then."
    if timing.too_late_s > 0:
        return f"{text} That is {units.format_time(timing.too_late_s)} too late."
    if timing.needed_delay_s is not None:
        return f"{text} A set delay of {units.format_time(timing.needed_delay_s)} puts it where it is wanted."
    return text


def _rows(physics: Physics) -> list[tuple[str, ...]]:
    timing = physics.timing
    rows: list[tuple[str, ...]] = [
        (delay.name, said(delay.lag_s), said(delay.jitter_s)) for delay in timing.delays
    ]
    rows.append(("set delay", units.format_time(physics.scene.trigger.set_delay_s), "–"))
    rows.append(("light after event", said(timing.flash_after_event_s), said(timing.jitter_s)))
    return rows
