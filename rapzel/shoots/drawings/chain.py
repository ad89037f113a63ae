"""From event to light: the lags in order, their jitter, and where that finds the subject in the frame."""

import numpy as np

from rapzel.core.physics import Physics
from rapzel.core.shared import units
from rapzel.ui.drawing import Drawing, Scale, Svg, linear_scale, nice_ticks, text_width

_LEFT, _RIGHT, _TOP, _LANE = 16.0, 414.0, 40.0, 26.0


def _lags(svg: Svg, physics: Physics, x: Scale) -> float:
    timing = physics.timing
    begun, y = 0.0, _TOP
    steps = [(lag.name, lag.lag_s, lag.jitter_s) for lag in timing.lags]
    if physics.scene.trigger.set_delay_s:
        steps.append(("set delay", physics.scene.trigger.set_delay_s, 0.0))
    for name, lag_s, jitter_s in steps:
        left, right = x(begun), x(begun + lag_s)
        svg.rect("time", left, y, max(right - left, 2), 12, fill_opacity="0.7")
        said = f"{name} {units.format_time(lag_s)}" + (f" ± {units.format_time(jitter_s)}" if jitter_s else "")
        room = right + 6 + text_width(said) <= _RIGHT
        if room:
            svg.text("text", right + 6, y + 10, said)
        elif left - 6 - text_width(said) >= _LEFT:
            svg.text("text", left - 6, y + 10, said, "end")
        else:
            svg.text("text", (left + right) / 2, y + 10, said, "middle")
        begun += lag_s
        y += _LANE
    return y


def draw_chain(physics: Physics) -> Drawing:
    """The chain view: time above, the frame and the spread of places below."""
    timing = physics.timing
    lanes = len(timing.lags) + bool(physics.scene.trigger.set_delay_s)
    svg = Svg(430, _TOP + lanes * _LANE + 190, "Chain from event to light.")
    end = max(timing.flash_after_event_s + 3 * timing.jitter_s, timing.wanted_delay_s or 0.0, 1e-5) * 1.12
    x = linear_scale(0, end, _LEFT, _RIGHT)
    bottom = _lags(svg, physics, x)
    for tick in nice_ticks(end, 3):
        svg.line("grid", x(tick), _TOP - 14, x(tick), bottom)
        svg.text(
            "quiet", x(tick), _TOP - 20, units.format_time(tick) if tick else "event", "middle" if tick else "start"
        )
    light = timing.flash_after_event_s
    svg.rect(
        "flash",
        x(max(light - timing.jitter_s, 0)),
        bottom,
        max(x(light + timing.jitter_s) - x(max(light - timing.jitter_s, 0)), 2),
        14,
    )
    svg.text(
        "flash-text", x(light), bottom + 28, f"light {units.format_time(light)}", "middle" if x(light) < 340 else "end"
    )
    if timing.wanted_delay_s is not None:
        at = x(timing.wanted_delay_s)
        svg.line("limit", at, _TOP - 14, at, bottom + 16)
        svg.text(
            "limit-text",
            at,
            bottom + 42,
            f"wanted {units.format_time(timing.wanted_delay_s)}",
            "middle" if at < 340 else "end",
        )
    _places(svg, physics, bottom + 66)
    return Drawing(svg, _summary(physics), ("Link", "Lag", "Jitter (sd)"), _rows(physics))


def _places(svg: Svg, physics: Physics, top: float) -> None:
    """The frame, and how the places of the subject spread over it in many tries."""
    timing, width = physics.timing, physics.frame.field_width_m
    reach = max(width * 0.75, min(abs(timing.offset_m) + 3 * timing.position_sd_m, width * 3))
    x = linear_scale(-reach, reach, _LEFT, _RIGHT)
    svg.rect("open", x(-width / 2), top, x(width / 2) - x(-width / 2), 64)
    svg.text("quiet", x(-width / 2) + 4, top + 13, f"frame {units.format_length(width)}")
    spread = max(timing.position_sd_m, reach / 400)
    places = np.linspace(timing.offset_m - 3 * spread, timing.offset_m + 3 * spread, 61)
    heights = np.exp(-0.5 * ((places - timing.offset_m) / spread) ** 2)
    inside = [(x(float(p)), top + 60 - 40 * float(h)) for p, h in zip(places, heights, strict=True) if abs(p) <= reach]
    if inside:
        svg.polygon("time", [(inside[0][0], top + 60), *inside, (inside[-1][0], top + 60)], fill_opacity="0.6")
    said = f"subject ± {units.format_length(timing.position_sd_m)}, {units.format_percent(timing.share)} of tries land"
    svg.text("time-text", 215, top + 82, said, "middle")


def _summary(physics: Physics) -> str:
    timing = physics.timing
    after, jitter = units.format_time(timing.flash_after_event_s), units.format_time(timing.jitter_s)
    text = f"The light comes {after} ± {jitter} after the event."
    if timing.too_late_s > 0:
        return f"{text} That is {units.format_time(timing.too_late_s)} too late."
    if timing.needed_delay_s is not None:
        return f"{text} A set delay of {units.format_time(timing.needed_delay_s)} puts it where it is wanted."
    return text


def _rows(physics: Physics) -> list[tuple[str, ...]]:
    timing = physics.timing
    rows: list[tuple[str, ...]] = [
        (lag.name, units.format_time(lag.lag_s), units.format_time(lag.jitter_s)) for lag in timing.lags
    ]
    rows.append(("set delay", units.format_time(physics.scene.trigger.set_delay_s), "–"))
    rows.append(
        ("light after event", units.format_time(timing.flash_after_event_s), units.format_time(timing.jitter_s))
    )
    return rows
