"""Rows against time: when each row of the frame is open, when the light comes, and what each row gets of it."""

import numpy as np

from rapzel.core.physics import Physics, flickering
from rapzel.core.shared import units
from rapzel.core.shutter.curve import row_shares
from rapzel.core.verdict.flickers import even_marks, flicker, flickers
from rapzel.core.verdict.margin import listed
from rapzel.ui import plot
from rapzel.ui.drawing import Drawing, Scale, Svg, linear_scale, nice_ticks, text_width

_WIDTH = 430.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 50.0, 330.0, 26.0, 286.0
_PROFILE_LEFT, _PROFILE_RIGHT = 350.0, 418.0
_BOX = plot.Box(_LEFT, _RIGHT, _TOP, _BOTTOM)


def draw_curtain(physics: Physics) -> Drawing:
    """The curtain view: row 0, uncovered first, is the lower edge of the picture and of the drawing."""
    svg = Svg(_WIDTH, 312, "Rows of the frame against time.")
    # Sixty-four bands are finer than the drawing; the figures come from the core's own rows.
    rows = np.linspace(0, 1, 65)
    opening = physics.curves.opening
    opens, closes = opening.opens(rows), opening.closes(rows)
    # An opening before the flash, as a long pulse has it, lies left of zero.
    begin, end = min(0.0, float(opens.min())), float(closes.max())
    if physics.flashes:
        # A light that comes too late must be seen to come too late.
        end = max(end, max(flash.start_s for flash in physics.flashes) * 1.1)
    span = end - begin
    x, y = _BOX.linear_x(begin, begin + span * 1.04), _BOX.linear_y(0, 1)
    plot.Plot(svg, _BOX, x, y).columns(nice_ticks(end), plot.or_zero(units.format_time))
    # A slanted band: the first row opens and closes before the last one does.
    outline = [
        (x(float(opens[0])), y(0)),
        (x(float(opens[-1])), y(1)),
        (x(float(closes[-1])), y(1)),
        (x(float(closes[0])), y(0)),
    ]
    _room_pulses(svg, physics, x, (begin, end))
    svg.polygon("open", outline)
    _lights(svg, physics, x)
    svg.text("quiet", _LEFT - 8, _TOP + 8, "last", "end")
    svg.text("quiet", _LEFT - 8, _BOTTOM, "first", "end")
    svg.text("quiet", _LEFT - 8, (_TOP + _BOTTOM) / 2, "rows", "end")
    weights = np.array([flash.weight for flash in physics.flashes])
    # No light, no share: a division by nothing would draw an empty profile as full.
    shares = np.zeros(rows.shape)
    if physics.curves.total_weight:
        shares = (
            weights
            @ row_shares(opening, physics.flashes, rows)
            / physics.curves.total_weight
        )
    # What every row misses alike, by high-speed sync or a frame that opens at once, is no band.
    uneven = physics.method.pulsed and physics.assumed_travel_s > 0
    _profile(svg, rows, shares, y, uneven)
    return Drawing(
        svg,
        _summary(physics),
        ("Row", "Opens", "Closes", "Share of the light", "Stops"),
        _rows(rows, opens, closes, shares),
    )


def _lights(svg: Svg, physics: Physics, x: Scale) -> None:
    for lit, flash in zip(physics.on_part, physics.flashes, strict=True):
        # As wide as its t.1, so that a long pulse is seen to outlast the opening.
        width = x(flash.start_s + lit.pulse.width_s(0.1)) - x(flash.start_s)
        svg.rect(
            "flash",
            x(flash.start_s),
            _TOP - 6,
            max(width, 1.5),
            _BOTTOM - _TOP + 12,
            fill_opacity="0.55",
        )
    starts: dict[float, list[str]] = {}
    for lit, flash in zip(physics.on_part, physics.flashes, strict=True):
        # Lights that fire at once share one label, or their names would cover each other.
        starts.setdefault(flash.start_s, []).append(lit.light.called)
    for start, names in starts.items():
        svg.line("flash-line", x(start), _TOP - 6, x(start), _BOTTOM + 6)
        label = f"{', '.join(names[:2])}{' …' if len(names) > 2 else ''} {units.format_time(start)}"
        half = text_width(label) / 2
        # A label at the edge is moved in, never cut.
        at = min(max(x(start), half + 2), _WIDTH - half - 2)
        svg.text("flash-text", at, _TOP - 10, label, "middle")
    _contact(svg, physics, x)


_STRIPS = 240  # of the room's light over the time that is drawn


def _room_pulses(
    svg: Svg, physics: Physics, x: Scale, drawn: tuple[float, float]
) -> None:
    """The room's light as it pulsates, brighter and darker behind the rows; nothing where it is steady or not known."""
    found, flicker = physics.flickering, physics.scene.ambient.unsteady
    if found is None or flicker is None or not found.known:
        return
    (pulsation,) = flickering.pulsations(flicker)
    begin, end = drawn
    step = (end - begin) / _STRIPS
    times = begin + step * np.arange(_STRIPS)
    # The crest stands where the first row opens, as in the rehearsal.
    levels = pulsation.levels(times - physics.curves.opening.offset_s, step)
    brightest = float(levels.max())
    for time, level in zip(times, levels, strict=True):
        svg.rect(
            "room-pulse",
            x(float(time)),
            _TOP,
            x(float(time) + step) - x(float(time)) + 0.5,
            _BOTTOM - _TOP,
            fill_opacity=f"{max(float(level) / brightest, 0.0) * 0.5:.2f}",
        )


def _contact(svg: Svg, physics: Physics, x: Scale) -> None:
    """From the contact, when the first curtain has arrived, to the light: the latency."""
    latency = physics.scene.trigger.contact_to_light_s
    if not physics.method.pulsed or physics.method.by_hand or not latency:
        return
    # The contact closes when the first curtain has arrived.
    contact = physics.assumed_travel_s
    svg.line("time-line", x(contact), _BOTTOM + 3, x(contact + latency), _BOTTOM + 3)


def _profile(
    svg: Svg, rows: np.ndarray, shares: np.ndarray, y: Scale, uneven: bool
) -> None:
    """What each row gets of the light, from none at the left to all at the right."""
    at = linear_scale(0, 1, _PROFILE_LEFT, _PROFILE_RIGHT)
    svg.line("grid", at(1), _TOP, at(1), _BOTTOM)
    svg.line("grid", at(0), _TOP, at(0), _BOTTOM)
    for row, share in zip(rows, shares, strict=True):
        height = (_BOTTOM - _TOP) / len(rows)
        # Less than half of the light: a stop less, which the eye sees as a band.
        if uneven and share < 0.5:
            cls = "refused"
        else:
            cls = "flash"
        svg.rect(
            cls,
            at(0),
            y(float(row)) - height / 2,
            max(at(float(share)) - at(0), 1.0),
            height + 1,
        )
    svg.text("quiet", at(0), _BOTTOM + 18, "row gets", "start")


def _summary(physics: Physics) -> str:
    """What the rows get of the flash, and what the room's flicker does to them."""
    if physics.flickering is None or not flickers(physics):
        return _of_the_flash(physics)
    return f"{_of_the_flash(physics)} {_of_the_room(physics)}"


def _of_the_room(physics: Physics) -> str:
    """The room's flicker, and the shutters at which it is even."""
    judged = flicker(physics)
    if judged.state == "unknown":
        return "How deeply or how fast the room's light flickers is not known."
    if judged.state == "passes":
        return f"The room's light flickers, and is {judged.says}."
    marks = [mark for mark in even_marks(physics.scene) if mark is not None]
    even = listed([units.format_shutter(mark) for mark in marks], "or") if marks else ""
    mended = f": {even} would be even." if even else "; no shutter is even."
    return f"The room's light flickers, {judged.says}{mended}"


def _of_the_flash(physics: Physics) -> str:
    method = physics.method
    if method.train:
        if physics.travel_s is None:
            loss = "not known"
        else:
            loss = units.format_percent(float(physics.curves.by_row.max()))
        return f"High-speed sync lights every row alike; each keeps {loss} of it."
    if not physics.flashes:
        return "No flash takes part."
    if method.leads:
        return _of_a_long_pulse(physics)
    if method.by_hand:
        return "The shutter stands open: it takes nothing from the light."
    # Not every camera has one: without the travel it is not known, and not told.
    safe = physics.fastest_safe_s
    if safe is None:
        fastest = ""
    else:
        fastest = f" Fastest safe shutter {units.format_shutter(_marked(safe))}."
    return f"{_of_a_pulse(physics)}{fastest if physics.assumed_travel_s > 0 else ''}"


def _of_a_long_pulse(physics: Physics) -> str:
    curves = physics.curves
    if physics.travel_s is not None:
        unknown = ""
    else:
        unknown = " The curtain travel is not known."
    lead = units.format_time(abs(curves.opening.offset_s))
    if curves.opening.offset_s >= 0:
        when = "after the flash begins"
    else:
        when = "before it"
    fall = units.format_stops(curves.fall_stops, signed=False)
    return f"The first row opens {lead} {when}; the rows get light {fall} stops apart.{unknown}"


def _marked(safe_s: float) -> float:
    """The fastest marking that is still safe."""
    return min(
        # A dial has no time between its markings; the next slower one is safe.
        (mark for mark in units.SHUTTERS_S if mark >= safe_s * 0.999),
        default=safe_s,
    )


def _of_a_pulse(physics: Physics) -> str:
    curves = physics.curves
    if physics.travel_s is None:
        unknown = " The curtain travel is not known: drawn as long as the sync speed."
    else:
        unknown = ""
    if physics.assumed_travel_s == 0:
        kept = units.format_percent(float(curves.by_row.max()))
        return f"The whole frame opens at once and keeps {kept} of the light."
    if curves.dark_share > 0:
        share, edge = (
            units.format_percent(curves.dark_share),
            physics.scene.camera.first_edge,
        )
        return f"{share} of the rows get less than half of the light: a dark band at the {edge} edge.{unknown}"
    if curves.worst_loss_stops < 0.05:
        return f"Every row gets all of the light.{unknown}"
    return f"The worst row loses {units.format_stops(curves.worst_loss_stops, signed=False)} stops.{unknown}"


def _rows(
    rows: np.ndarray, opens: np.ndarray, closes: np.ndarray, shares: np.ndarray
) -> list[tuple[str, ...]]:
    # Nine rows tell the table what sixty-five draw.
    every = slice(None, None, len(rows) // 8)
    return [
        (
            units.format_percent(float(row)),
            units.format_time(float(o)),
            units.format_time(float(c)),
            units.format_percent(float(s)),
            units.format_stops(float(np.log2(s))) if s > 0 else "dark",
        )
        for row, o, c, s in zip(
            rows[every], opens[every], closes[every], shares[every], strict=True
        )
    ]
