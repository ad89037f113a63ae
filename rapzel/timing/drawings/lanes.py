"""From the event to the light on one time axis: a lane a link, to scale, with the subject's way under the same axis."""

from dataclasses import dataclass

import numpy as np

from rapzel.core.physics import Physics
from rapzel.core.physics.timing import Timing
from rapzel.core.shared import units
from rapzel.core.shared.units import format_known_time
from rapzel.core.trigger.links import ChainLink, Delay, Sound
from rapzel.ui.drawing import (
    Drawing,
    Place,
    Scale,
    Svg,
    handle,
    nice_ticks,
    round_values,
    text_width,
)
from rapzel.ui.plot import Box, Plot

_LEFT, _RIGHT, _TOP, _LANE = 192.0, 676.0, 34.0, 30.0
_WIDTH = 900.0
# A chain of more links is told by its table; lanes thinner than a finger cannot be dragged.
_MOST_LANES = 12
_HOW = {"measured": "measured", "claimed": "claimed", "estimated": "estimated"}
# Fewer lags than four have no shape that is worth a histogram.
_BINS, _FEWEST, _BIN_HEIGHT, _HISTOGRAM = 14, 4, 15.0, 44.0


@dataclass(frozen=True)
class Lane:
    """One lag of the chain as a bar: where it begins, what it is dragged by, and how it is known."""

    delay: Delay
    begins_s: float
    key: str  # of the input that its end writes to; empty where none does
    extra_s: float = 0.0  # of its lag, what that input does not hold
    metres_s: float = 0.0  # seconds a metre, where the input is a distance
    lags_s: tuple[float, ...] = ()

    def text(self, end_s: float) -> str:
        """What the input says when the bar ends there."""
        # What the bar holds beyond its input, such as a rise time, is not dragged with it.
        value = max(end_s - self.begins_s - self.extra_s, 0.0)
        if self.metres_s:
            # A microphone's lag is set by where it stands.
            return units.format_length(value / self.metres_s)
        return units.format_time(value)


def lanes_of(physics: Physics) -> list[Lane]:
    """The lanes in order; the set delay stands where a unit makes it, before the camera."""
    scene, lanes, begun = physics.scene, [], 0.0
    links = {link.id: link for link in scene.trigger.links}
    delays = list(physics.timing.delays)
    at = next(
        (
            n
            for n, one in enumerate(delays)
            if one.kind in ("camera", "radio", "latency")
        ),
        len(delays),
    )
    # Always there, also at nothing: it is the one that is dragged.
    set_delay = Delay(
        "set delay", scene.trigger.set_delay_s, 0.0, kind="set", identity="set"
    )
    for delay in [*delays[:at], set_delay, *delays[at:]][:_MOST_LANES]:
        if delay.identity:
            link = links.get(delay.identity)
        else:
            link = None
        lanes.append(_lane(physics, delay, begun, link))
        # After a lag that is not known the next bar begins where the last known one ended.
        begun += delay.lag_s or 0.0
    return lanes


def _lane(physics: Physics, delay: Delay, begun: float, link: ChainLink | None) -> Lane:
    camera = physics.scene.camera
    if delay.kind == "set":
        return Lane(delay, begun, "trigger.set_delay_s")
    if delay.kind == "camera":
        if delay.lag_s is None or camera.lag_s is None:
            off = 0.0
        else:
            # Mirror and first curtain change what the body takes, and not the figure that is typed.
            off = delay.lag_s - camera.lag_s
        return Lane(delay, begun, "camera.lag_s", off, lags_s=camera.lags_s)
    if delay.kind == "latency":
        return Lane(delay, begun, "trigger.latency_s")
    at = f"trigger.links[#{delay.identity}]"
    if isinstance(link, Sound):
        # The rest of a sound trigger's lag is air.
        own = (link.lag_s or 0.0) + link.rise_s
        return Lane(
            delay, begun, f"{at}.distance_m", own, 1 / link.speed_m_s, link.lags_s
        )
    if link is None:
        return Lane(delay, begun, "")
    return Lane(delay, begun, f"{at}.lag_s", link.extra_s(), lags_s=link.lags_s)


def _end_s(physics: Physics, lanes: list[Lane]) -> float:
    """The end of the axis: a round figure that leaves room to drag into, and seldom another one."""
    timing = physics.timing
    last = lanes[-1]
    reach = max(
        # Three deviations hold nearly every try.
        last.begins_s + (last.delay.lag_s or 0.0) + 3 * (timing.jitter_s or 0.0),
        (timing.wanted_delay_s or 0.0) * 1.05,
        1e-5,
    )
    # The power of ten below, in whole microseconds.
    power = 10.0 ** (len(f"{reach * 1.25 / 1e-6:.0f}") - 1) * 1e-6
    return next(
        step * power
        for step in (1, 1.5, 2, 3, 4, 5, 6, 8, 10)
        if step * power >= reach * 1.25
    )


def draw_lanes(physics: Physics) -> Drawing:
    """The editor: bars that end where they are dragged, soft by their spread, and what the subject does meanwhile."""
    lanes = lanes_of(physics)
    svg = Svg(
        _WIDTH, _TOP + len(lanes) * _LANE + 84, "Chain from event to light, to scale."
    )
    end = _end_s(physics, lanes)
    bottom = _TOP + len(lanes) * _LANE
    box = Box(_LEFT, _RIGHT, _TOP - 10, bottom + 6)
    x = box.linear_x(0, end)
    plot = Plot(svg, box, x, box.linear_y(0, 1))
    plot.column_above(0.0, "event")
    # (zero is called the event)
    for tick in nice_ticks(end, 6)[1:]:
        plot.column_above(tick, units.format_time(tick))
    for place, lane in enumerate(lanes):
        _draw_lane(svg, lane, x, _TOP + place * _LANE, end)
    _light(svg, physics.timing, x, bottom)
    _way(svg, physics, x, bottom + 40, end)
    _wanted(svg, physics.timing, x, bottom)
    return Drawing(
        svg,
        _summary(physics),
        ("Link", "Lag", "Jitter (sd)", "Known"),
        _rows(lanes, physics.timing),
    )


def _draw_lane(svg: Svg, lane: Lane, x: Scale, y: float, end_s: float) -> None:
    delay = lane.delay
    if text_width(delay.name) < _LEFT - 12:
        name = delay.name
    else:
        name = delay.name[:24] + "…"
    svg.text("text", _LEFT - 10, y + 15, name, "end")
    svg.line("grid", _LEFT, y + _LANE - 5, _RIGHT, y + _LANE - 5)
    left, right = x(lane.begins_s), x(lane.begins_s + (delay.lag_s or 0.0))
    if delay.lag_s is None:
        # To the end of the axis: it may take any time, and nothing would be too little.
        svg.rect("not-known", left, y + 4, max(_RIGHT - left, 40), 14)
    else:
        # A bar of less than a pixel would look as if the link were missing.
        svg.rect("time", left, y + 4, max(right - left, 1.5), 14, fill_opacity="0.7")
        _edge(svg, lane, x, right, y)
    svg.text("quiet", _RIGHT + 12, y + 15, _figure(delay))
    _histogram(svg, lane, y)
    if lane.key:
        _grip(svg, lane, x, right, y, end_s)


def _edge(svg: Svg, lane: Lane, x: Scale, right: float, y: float) -> None:
    """The spread of a lag as a soft end, one and two standard deviations wide."""
    sd = lane.delay.jitter_s or 0.0
    wide = x(sd) - x(0)
    # Two thirds of the tries end in the darker part, nineteen of twenty in both.
    for times, opacity in ((1.0, "0.35"), (2.0, "0.15")):
        if wide * times >= 0.5:
            svg.rect(
                "time",
                right - wide * times,
                y + 4,
                2 * wide * times,
                14,
                fill_opacity=opacity,
            )


def _histogram(svg: Svg, lane: Lane, y: float) -> None:
    """The lags that were measured, at a scale of their own: from the least to the most."""
    if len(lane.lags_s) < _FEWEST:
        return
    # Half as many bins as lags at most: single lags make no shape.
    counts, _ = np.histogram(lane.lags_s, bins=min(_BINS, len(lane.lags_s) // 2))
    wide = _HISTOGRAM / len(counts)
    for place, count in enumerate(counts):
        tall = _BIN_HEIGHT * float(count) / float(counts.max())
        svg.rect(
            "time",
            _WIDTH - _HISTOGRAM + place * wide,
            y + 18 - tall,
            max(wide - 1, 0.5),
            tall,
        )


def _figure(delay: Delay) -> str:
    lag = "not known"
    if delay.lag_s is not None:
        lag = units.format_time_within(delay.lag_s, delay.jitter_s)
    known = _HOW.get(delay.provenance or "", "")
    return f"{lag}, {known}" if known else lag


def _grip(svg: Svg, lane: Lane, x: Scale, right: float, y: float, end_s: float) -> None:
    # It cannot be dragged below what the input does not hold.
    first = lane.begins_s + max(lane.extra_s, 0.0)
    spots: list[Place] = [
        (x(first + value), y + 11, lane.text(first + value))
        for value in round_values(0.0, end_s - first)
    ]
    if spots:
        handle(svg, right, y + 11, lane.key, spots, f"{lane.delay.name}: drag its end")


def _light(svg: Svg, timing: Timing, x: Scale, bottom: float) -> None:
    y = bottom + 8
    svg.text("flash-text", _LEFT - 10, y + 12, "light", "end")
    if timing.flash_after_event_s is None:
        svg.text("time-text", _LEFT, y + 12, f"not known: {', '.join(timing.unknown)}")
        return
    light, jitter = timing.flash_after_event_s, timing.jitter_s or 0.0
    wide = x(jitter) - x(0)
    for times, opacity in ((2.0, "0.25"), (1.0, "0.5")):
        if wide * times >= 0.5:
            svg.rect(
                "flash",
                x(light) - wide * times,
                y,
                2 * wide * times,
                15,
                fill_opacity=opacity,
            )
    svg.rect("flash", x(light) - 1.5, y - 2, 3.0, 19)
    svg.text(
        "flash-text",
        _RIGHT + 12,
        y + 12,
        units.format_time_within(light, timing.jitter_s),
    )


def _wanted(svg: Svg, timing: Timing, x: Scale, bottom: float) -> None:
    # Wanted before the event: no place on this axis, and the page says so in words.
    if timing.wanted_delay_s is None or timing.wanted_delay_s < 0:
        return
    at = x(timing.wanted_delay_s)
    svg.line("limit", at, _TOP - 10, at, bottom + 62)
    words = f"wanted {units.format_time(timing.wanted_delay_s)}"
    svg.text("limit-text", at, bottom + 78, words, "middle")


def _way(svg: Svg, physics: Physics, x: Scale, y: float, end_s: float) -> None:
    """The subject's way in the same time: centimetres above, frame widths below."""
    width, trajectory = physics.frame.field_width_m, physics.trajectory
    svg.text("quiet", _LEFT - 10, y + 4, "subject has gone", "end")
    svg.text("quiet", _LEFT - 10, y + 20, "frame widths", "end")
    svg.line("axis", _LEFT, y + 8, _RIGHT, y + 8)
    for tick in nice_ticks(end_s, 6)[1:]:
        # By the motion itself: what falls gains speed, and its marks move apart.
        gone = trajectory.way_m(0.0, tick)
        svg.line("axis", x(tick), y + 5, x(tick), y + 11)
        svg.text("text", x(tick), y + 1, units.format_length(gone), "middle")
        svg.text(
            "quiet", x(tick), y + 24, units.format_number(gone / width, 2), "middle"
        )
    light = physics.timing.flash_after_event_s
    if light is not None and 0 <= light <= end_s:
        svg.circle("flash", x(light), y + 8, 4.5)
        gone = physics.timing.told_travel_m
        widths = units.format_number(gone / width, 2)
        if gone:
            words = f"{units.format_length(gone)}, {widths} widths"
            svg.text("flash-text", _RIGHT + 12, y + 24, words)


def _summary(physics: Physics) -> str:
    timing = physics.timing
    if timing.flash_after_event_s is None:
        return f"When the light comes is not known: {', '.join(timing.unknown)}."
    when = units.format_time_within(timing.flash_after_event_s, timing.jitter_s)
    text = f"The light comes {when} after the event"
    if timing.told_travel_m:
        gone = units.format_length(timing.told_travel_m)
        text += f"; by then the subject has gone {gone}"
    return f"{text}. Drag the end of a bar, or type beside it."


def _rows(lanes: list[Lane], timing: Timing) -> list[tuple[str, ...]]:
    rows: list[tuple[str, ...]] = [
        (
            one.delay.name,
            format_known_time(one.delay.lag_s),
            format_known_time(one.delay.jitter_s),
            one.delay.provenance or "not said",
        )
        for one in lanes
    ]
    rows.append(
        (
            "light after event",
            format_known_time(timing.flash_after_event_s),
            format_known_time(timing.jitter_s),
            "",
        )
    )
    return rows
