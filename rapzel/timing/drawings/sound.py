"""The plan of a microphone: the air between it and the event as a delay line, the wall behind it, what else is loud."""

import math

from rapzel.core.shared import units
from rapzel.core.trigger.hearing import echo_s, neighbour_under_db
from rapzel.core.trigger.links import Sound
from rapzel.ui.drawing import Drawing, Place, Svg, handle, nice_ticks, round_values
from rapzel.ui.plot import Box, Plot

_BOX = Box(left=176.0, right=840.0, top=34.0, bottom=134.0)
_MIDDLE = (_BOX.top + _BOX.bottom) / 2
_RINGS = 5


def draw_sound(sound: Sound, at: str) -> Drawing:
    """From above, to scale along the line from the event to the microphone; `at` is the link's place in the scene."""
    svg = Svg(900, 170, "Event, microphone, wall and what else is loud, to scale.")
    reach = _reach_m(sound)
    # One line from the event through the microphone: what lies aside is told by its distance.
    x = _BOX.linear_x(0, reach)
    plot = Plot(svg, _BOX, x, _BOX.linear_y(-1, 1))
    for metres in nice_ticks(reach, _RINGS)[1:]:
        plot.column(metres, units.format_length(metres))
        plot.name_above(metres, units.format_time(metres / sound.speed_m_s))
    svg.text("quiet", _BOX.left - plot.gap, _BOX.top - 6, "sound arrives after", "end")
    svg.line(
        "time-line", x(0), _MIDDLE, x(sound.distance_m), _MIDDLE, stroke_dasharray="6 4"
    )
    # Waves on their way: a sign that the gap is air, and takes its time.
    for ring in (0.35, 0.6, 0.85):
        svg.polyline("grid", _arc(x(0), _MIDDLE, (x(sound.distance_m) - x(0)) * ring))
    svg.circle("flash", x(0), _MIDDLE, 7.0)
    svg.text("flash-text", x(0), _MIDDLE + 24, "event", "middle")
    # A wall beyond the plan is told by the table.
    if sound.wall_m is not None and sound.distance_m + sound.wall_m <= reach:
        wall = x(sound.distance_m + sound.wall_m)
        svg.line("bracket", wall, 40, wall, 130)
        svg.text("text", wall + 4, 56, "wall")
    if sound.neighbour_m is not None and sound.neighbour_m <= reach:
        svg.circle("room", x(sound.neighbour_m), 112.0, 6.0)
        svg.line("grid", x(0), 112.0, x(sound.neighbour_m), 112.0)
        svg.text(
            "room-text",
            x(sound.neighbour_m),
            130,
            "next loud thing, so far from the microphone",
            "middle",
        )
    # Drawn last, so that the handle lies on top of whatever is near.
    here = x(sound.distance_m)
    svg.text(
        "time-text",
        here,
        _MIDDLE - 16,
        f"microphone {units.format_length(sound.distance_m)}",
        "middle",
    )
    spots: list[Place] = [
        (x(m), _MIDDLE, units.format_length(m)) for m in round_values(0.0, reach, 200)
    ]
    handle(
        svg, here, _MIDDLE, f"{at}.distance_m", spots, "Microphone: drag along the line"
    )
    return Drawing(svg, _summary(sound), ("Figure", "Value"), _rows(sound))


def _arc(x: float, y: float, radius: float) -> list[tuple[float, float]]:
    """A wave on its way: a sixth of a circle to the right."""
    turns = [(step / 12 - 0.5) * math.pi / 3 for step in range(13)]
    return [
        (x + radius * math.cos(turn), y + radius * math.sin(turn) * 0.6)
        for turn in turns
    ]


def _reach_m(sound: Sound) -> float:
    """A round end of the plan, so that it seldom changes while the microphone is dragged."""
    wanted = max(sound.distance_m * 1.4, 0.5)
    return next(
        step
        for step in (0.5, 1, 2, 3, 5, 8, 12, 20, 30, 50, 100, 300, 1000, 1e4, 1e5, 1e10)
        if step >= wanted
    )


def _summary(sound: Sound) -> str:
    # Two centimetres are what a hand can shift a stand by.
    two = units.format_time(0.02 / sound.speed_m_s)
    return (
        f"Sound at {sound.speed_m_s:.1f} m/s: 2 cm are {two}, a metre is {units.format_time(1 / sound.speed_m_s)}. "
        "Moving the microphone is a delay line without electronics."
    )


def _rows(sound: Sound) -> list[tuple[str, ...]]:
    rows: list[tuple[str, ...]] = [
        ("speed of sound", f"{sound.speed_m_s:.1f} m/s"),
        ("air to the microphone", units.format_length(sound.distance_m)),
        ("takes", units.format_time(sound.distance_m / sound.speed_m_s)),
    ]
    echo, under = echo_s(sound), neighbour_under_db(sound)
    if echo is None:
        late = "no wall said"
    else:
        late = units.format_time(echo)
    if under is None:
        quieter = "none said"
    else:
        quieter = f"{units.format_number(under, 2)} dB"
    return [
        *rows,
        ("echo from the wall, at the latest after", late),
        ("next loud thing under the event", quieter),
    ]
