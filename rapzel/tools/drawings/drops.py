"""Drops that meet: time runs downwards to scale, beside it what stands where at the instant that is shown."""

from rapzel.core.drops.asked import Drops
from rapzel.core.drops.plan import Plan, planned
from rapzel.core.drops.standing import ABOVE, USUAL_M, Standing, standing
from rapzel.core.shared import units
from rapzel.core.tools.drops import ends_s
from rapzel.core.tools.drops_answer import DropsAnswered
from rapzel.ui.drawing import Drawing, Scale, Svg, handle, nice_ticks, round_values
from rapzel.ui.plot import Box, Plot, length_bar

_TOP, _BOTTOM = 30.0, 462.0
_AXIS, _LANE = 64.0, 15.0
_LANES = Box(_AXIS, _AXIS + 4 * _LANE, _TOP, _BOTTOM)
_VIEW_LEFT, _VIEW_RIGHT = 372.0, 700.0
# Smaller than that a drop would be a speck, and the picture would seem empty.
_LEAST_R = 2.0
_LABEL_GAP = 15.0
# for which the second drop is still drawn as one after they have met
_TOUCHING_S = 0.002


def shown_s(asked: Drops) -> float:
    """The instant that the side view shows [s]: as asked, else when the light comes, else at the impact."""
    plan = planned(asked)
    if asked.shown_s is not None:
        # A plan made shorter may leave the instant that was dragged beyond its end.
        return min(asked.shown_s, ends_s(plan))
    if plan.light_s is None:
        return plan.first.impact_s
    return plan.light_s


def draw_drops(asked: Drops, answer: DropsAnswered) -> Drawing:
    """The sequence down the left, the side view at one instant on the right; the instant is dragged along the time."""
    plan = planned(asked)
    at = shown_s(asked)
    svg = Svg(720, 496, "The drops over time, and from the side at one instant.")
    end = ends_s(plan)
    # Time runs down, as drops do: what is lower is later on both sides of the drawing.
    y = _LANES.downwards(0, end)
    events = _events(plan, answer)
    _time(svg, plan, y, end, events)
    _instant(svg, y, at, end)
    now = standing(plan, _release_s(plan), at)
    _side(svg, plan, now)
    rows: list[tuple[str, ...]] = [
        (words, units.format_set_time(when)) for when, words, _ in events
    ]
    summary = (
        f"Shown {units.format_set_time(at)} after the first valve: {_stands(now)}."
    )
    return Drawing(svg, summary, ("What", "After the first valve"), rows)


def _stands(now: Standing) -> str:
    """What is in the air, in words."""
    parts = [
        f"{name} {units.format_length(height)}{more}"
        for name, height, more in (
            ("first drop at", now.first_m, ""),
            ("jet", now.jet_m or None, " high"),
            ("second drop at", now.second_m, ""),
        )
        if height is not None
    ]
    if now.met is not None:
        parts.append(f"met {units.format_time(now.met_for_s)} ago")
    return ", ".join(parts) or "nothing in the air"


def _release_s(plan: Plan) -> float | None:
    """When the second valve is told to open [s]; a guess by usual times where the jet is not known."""
    # What is set wins over what was solved: the drawing shows what will happen.
    if plan.asked.second_set_s is not None:
        return plan.asked.second_set_s
    if plan.meeting is not None:
        return plan.meeting.second_release_s
    if plan.jet is None:
        return plan.coarse_second_s
    return None


def _events(plan: Plan, answer: DropsAnswered) -> list[tuple[float, str, str]]:
    """(instant, words, class of the label) in their order."""
    asked = plan.asked
    impact = plan.first.impact_s
    hits = f"impact, {units.format_speed(answer.impact_m_s)}"
    found = [(0.0, "first valve opens", "quiet"), (impact, hits, "time-text")]
    # Crown, cavity and jet by usual times say “usually”; they are nobody's measurement.
    found.append((impact + asked.crown_s, "crown full, usually", "quiet"))
    found.append((impact + asked.cavity_s, "cavity deepest, usually", "quiet"))
    if plan.jet is None:
        found.append((impact + asked.jet_after_s, "jet leaves, usually", "quiet"))
        # The one figure to begin with before there is a picture.
        found.append((plan.coarse_second_s, "second valve, to begin with", "quiet"))
        return sorted(found)
    found.append((plan.jet.launch_s, "jet leaves", "room-text"))
    release = _release_s(plan)
    if release is not None:
        found.append((release, "second valve opens", "quiet"))
    if plan.meeting is not None:
        found.append(
            (
                plan.meeting.at_s,
                f"they meet at {units.format_length(plan.meeting.height_m)}",
                "limit-text",
            )
        )
    if plan.light_s is not None:
        found.append((plan.light_s, "light", "flash-text"))
    for other in answer.others:
        if other.release_s is not None:
            found.append((other.release_s, f"{other.name} opens", "quiet"))
    return sorted(found)


def _time(
    svg: Svg, plan: Plan, y: Scale, end: float, events: list[tuple[float, str, str]]
) -> None:
    """Axis, bars of what lasts, and the events with their words kept apart."""
    plot = Plot(svg, _LANES, _LANES.linear_x(0, 1), y)
    plot.levels(nice_ticks(end, 8), units.format_time)
    _bars(svg, plan, y, end)
    # (so far above that the first label is not moved)
    below = _TOP - 100.0
    for when, words, cls in events:
        # Words are pushed down until they are apart; a bent line leads to where they belong.
        place = max(y(when), below + _LABEL_GAP)
        below = place
        left = _LANES.right
        svg.polyline(
            "axis",
            [
                (left, y(when)),
                (left + 8, y(when)),
                (left + 14, place),
                (left + 18, place),
            ],
        )
        svg.text(cls, left + 22, place + 4, f"{words}  {units.format_set_time(when)}")


def _bars(svg: Svg, plan: Plan, y: Scale, end: float) -> None:
    asked, impact = plan.asked, plan.first.impact_s
    fall = (asked.valve_lag_s, impact)
    bars: list[tuple[int, str, float, float]] = [
        (0, "time", *fall),
        # In the colour of what is not known: their lengths are of memory.
        (1, "not-known", impact, impact + asked.crown_s),
        (1, "not-known", impact + asked.crown_s, impact + asked.cavity_s),
    ]
    if plan.jet is not None:
        bars.append((1, "room", plan.jet.launch_s, min(plan.jet.falls_back_s, end)))
    release = _release_s(plan)
    if release is not None:
        if plan.meeting is not None:
            # A drop that meets the jet ends there.
            lands = plan.meeting.at_s
        else:
            # (reckoned from the valve of its own)
            lands = release + plan.second.impact_s
        bars.append((2, "time", release + asked.valve_lag_s, min(lands, end)))
    for lane, cls, begin, stop in bars:
        svg.rect(
            cls,
            _AXIS + lane * _LANE + 2,
            y(begin),
            _LANE - 4,
            max(y(min(stop, end)) - y(begin), 1.5),
        )
    if plan.light_s is not None:
        svg.rect("flash", _AXIS + 3 * _LANE + 2, y(plan.light_s) - 1.5, _LANE - 4, 3.0)


def _instant(svg: Svg, y: Scale, at: float, end: float) -> None:
    """The line of the instant that is shown, with its handle."""
    svg.line("bracket", _LANES.left - 4, y(at), _LANES.right + 6, y(at))
    places = [
        (_AXIS - 4, y(value), units.format_set_time(value))
        # The handle stops at round times: a dial has no others.
        for value in round_values(0, end, 400)
    ]
    handle(svg, _AXIS - 4, y(at), "shown_s", places, "Shown at")


def _side(svg: Svg, plan: Plan, now: Standing) -> None:
    """What stands where, one scale for both directions; the frame where its size is known."""
    asked = plan.asked
    top = (
        max(
            plan.first.height_m,
            plan.second.height_m,
            plan.jet.apex_m if plan.jet else 0.0,
        )
        # A little air over the highest of them.
        * 1.05
    )
    wide = asked.frame_width_m
    px_per_m = (_BOTTOM - _TOP) * 0.84 / top
    # Both sides are needed: one alone does not say what the lens sees.
    if wide is not None and asked.frame_height_m is not None:
        # The frame is what is looked at: its height fills the view, the valves may stand above it.
        px_per_m = min(
            (_VIEW_RIGHT - _VIEW_LEFT) / wide,
            (_BOTTOM - _TOP) * 0.74 / asked.frame_height_m,
        )
    middle = (_VIEW_LEFT + _VIEW_RIGHT) / 2
    surface = _TOP + (_BOTTOM - _TOP) * 0.84

    def y(height_m: float) -> float:
        return surface - height_m * px_per_m

    _frame(svg, plan, middle, y, px_per_m)
    # A drop of unknown size is drawn as a usual one; its figures say that it is not known.
    size = (plan.diameter_m or USUAL_M) * px_per_m
    _liquid(svg, now, middle, y, size)
    _jet(svg, now, middle, y, size)
    if now.met is not None and now.met_for_s < _TOUCHING_S:
        touching = now.jet_m
    else:
        touching = None
    for height in (now.first_m, now.second_m, touching):
        # What is above the view is told in words by the valve.
        if height is not None and y(height) > _TOP:
            svg.circle("time", middle, y(height), max(size / 2, _LEAST_R))
    _valves(svg, plan, middle, y)
    _scale_bar(svg, px_per_m)


def _frame(svg: Svg, plan: Plan, middle: float, y: Scale, px_per_m: float) -> None:
    wide, high = plan.asked.frame_width_m, plan.asked.frame_height_m
    if wide is None or high is None:
        return
    if plan.asked.frame_above_m is None:
        above = high * ABOVE
    else:
        above = plan.asked.frame_above_m
    left, top = middle - wide / 2 * px_per_m, y(above)
    svg.rect("frame-dark", left, top, wide * px_per_m, high * px_per_m)
    svg.text("quiet", left + 4, top - 6, "the frame")


def _liquid(svg: Svg, now: Standing, middle: float, y: Scale, size: float) -> None:
    """The surface, with crown and cavity as stages: by usual times, their shape a sign only. size: a drop's [px]."""
    level = y(0)
    svg.line("room-line", _VIEW_LEFT, level, _VIEW_RIGHT, level)
    if now.crater:
        wide = size * 2.5 * now.crater
        # Half widths and depths of a cavity, a sign for it and no shape that was measured.
        bowl = ((-1.0, 0.0), (-0.6, 0.9), (0.0, 1.2), (0.6, 0.9), (1.0, 0.0))
        points = [
            (middle + across * wide, level + down * wide) for across, down in bowl
        ]
        svg.polyline("room-line", points)
    for side in (-1, 1) if now.crown else ():
        foot, top = middle + side * size * 1.5, middle + side * size * 2.2
        svg.line("not-known", foot, level, top, level - size * 1.5 * now.crown)
    if now.crown or now.crater:
        if now.crown:
            stage = "crown"
        else:
            stage = "cavity"
        svg.text("quiet", middle + 90, level + 20, f"{stage}, by usual times", "middle")


def _jet(svg: Svg, now: Standing, middle: float, y: Scale, size: float) -> None:
    if now.jet_m <= 0:
        return
    foot, top = max(size, 4.0), y(now.jet_m)
    tip = foot * 0.35
    left = [(middle - foot, y(0)), (middle - tip, top)]
    svg.polygon("room", [*left, (middle + tip, top), (middle + foot, y(0))])
    svg.circle("room", middle, top, tip)


def _valves(svg: Svg, plan: Plan, middle: float, y: Scale) -> None:
    """Nozzles where they stand; above the view an arrow's worth of words instead."""
    heights = sorted({plan.first.height_m, plan.second.height_m})
    for height in heights:
        if y(height) > _TOP:
            svg.rect("bracket", middle - 5, y(height) - 14, 10, 14)
        else:
            svg.text(
                "quiet",
                middle,
                _TOP - 6,
                f"valve at {units.format_length(height)}, above",
                "middle",
            )
    wanted = plan.asked.meet_height_m
    # The height at which they shall meet, as a line to aim at.
    svg.line("limit", middle - 60, y(wanted), middle + 60, y(wanted))
    svg.text("limit-text", middle + 64, y(wanted) + 4, units.format_length(wanted))


def _scale_bar(svg: Svg, px_per_m: float) -> None:
    lengths = (0.1, 0.05, 0.02, 0.01, 0.005, 0.002)
    # The longest of the round lengths that the corner has room for.
    length = next((each for each in lengths if each * px_per_m <= 110), 0.001)
    left = _VIEW_RIGHT - length * px_per_m
    length_bar(svg, left, _BOTTOM + 12, px_per_m, length)
    svg.text("quiet", left, _BOTTOM + 27, units.format_length(length))
