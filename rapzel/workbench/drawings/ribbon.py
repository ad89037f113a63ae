"""The time ribbon: everything that takes time on one logarithmic axis from 10 µs to 10 s."""

import json
import math
from collections.abc import Iterator
from functools import lru_cache

from rapzel.core.document.gear import fastest_shutter_s, lowest_power
from rapzel.core.physics import Lit, Physics
from rapzel.core.pulse import pulse_at
from rapzel.core.shared import units
from rapzel.core.shared.units import format_known_time
from rapzel.ui.drawing import CHARACTER_PX, Drawing, Scale, Svg, log_scale, text_width

# From the shortest speedlight to a long exposure; a fixed axis, so that scenes can be compared by
# eye.
LOW_S, HIGH_S, _DECADES = 1e-5, 10.0, 6
_LEFT, _RIGHT, _WIDTH = 104.0, 884.0, 930.0
_TOP, _LANE = 30.0, 25.0
# On a phone a lane has its words above its bar, so that the axis takes the whole width.
_NARROW_LEFT, _NARROW_RIGHT, _NARROW_WIDTH, _NARROW_LANE = 10.0, 352.0, 372.0, 40.0


def _scale(narrow: bool) -> Scale:
    if narrow:
        ends = (_NARROW_LEFT, _NARROW_RIGHT)
    else:
        ends = (_LEFT, _RIGHT)
    return log_scale(LOW_S, HIGH_S, *ends)


class _Ribbon:
    """The drawing under way: its scale, the lane that is drawn, and where words go."""

    def __init__(self, lanes: int, title: str, narrow: bool) -> None:
        self.narrow = narrow
        if narrow:
            self.left, self.right = (_NARROW_LEFT, _NARROW_RIGHT)
        else:
            self.left, self.right = (_LEFT, _RIGHT)
        if narrow:
            self.width, self.lane = (_NARROW_WIDTH, _NARROW_LANE)
        else:
            self.width, self.lane = (_WIDTH, _LANE)
        self.height = _TOP + lanes * self.lane + 6
        self.svg = Svg(self.width, self.height, title)
        self.x = _scale(narrow)
        # The first lane's middle; on a phone the words above the bar need eight more.
        self.y = _TOP + self.lane / 2 + (8 if narrow else 0)
        self._name = ""

    def label(self, name: str) -> None:
        # Thirteen characters are what stands left of the axis; the table beside it has the whole
        # name.
        self._name = _cut(name, 13)
        if self.narrow:
            self.svg.text("text", 2, self.y - 12, self._name)
        else:
            self.svg.text("text", self.left - 12, self.y + 4, self._name, "end")

    def note(self, cls: str, left: float, right: float, text: str) -> None:
        """A note to the right of a bar, else to its left, else on it; above it where the drawing is narrow."""
        if self.narrow:
            begin = 2 + text_width(self._name) + 10
            room = int((self.width - begin) / CHARACTER_PX)
            self.svg.text(cls, begin, self.y - 12, _cut(text, max(room, 8)))
            return
        # Words are measured, not guessed: two that overlap cannot be read at all.
        if right + 8 + text_width(text) <= self.width:
            self.svg.text(cls, right + 8, self.y + 4, text)
        elif left - 8 - text_width(text) >= self.left:
            self.svg.text(cls, left - 8, self.y + 4, text, "end")
        else:  # the bar fills its lane: the note stands on it, on a ground of its own
            width = text_width(text) + 12
            self.svg.rect("ground", right - 8 - width, self.y - 8, width, 16)
            self.svg.text(cls, right - 14, self.y + 4, text, "end")

    def next_lane(self) -> None:
        self.y += self.lane


def _cut(text: str, longest: int) -> str:
    if len(text) <= longest:
        return text
    return f"{text[: longest - 1]}…"


def _axis(ribbon: _Ribbon) -> None:
    for decade in range(_DECADES + 1):
        at = LOW_S * 10**decade
        # The outermost figures would be cut by the edge of a phone: they are turned inwards.
        first, last = ribbon.narrow and decade == 0, decade == _DECADES
        anchor = "start" if first else "end" if last else "middle"
        at_x = 2 if first else ribbon.right + 20 if last else ribbon.x(at)
        ribbon.svg.text("quiet", at_x, 14, units.format_time(at), anchor)
    ribbon.svg.strokes("grid", _marks(ribbon))


def _marks(ribbon: _Ribbon) -> Iterator[tuple[float, float, float, float]]:
    """A line for each decade, and a short one for each of its parts."""
    top = _TOP - 8
    for decade in range(_DECADES + 1):
        x = ribbon.x(LOW_S * 10**decade)
        yield x, top, x, ribbon.height - 6
    for decade in range(_DECADES):
        # Short marks at 2 to 9 say that the axis is logarithmic before anybody reads a figure.
        for part in range(2, 10):
            x = ribbon.x(LOW_S * 10**decade * part)
            yield x, top, x, _TOP - 4


def _limit(ribbon: _Ribbon, physics: Physics) -> None:
    limit = physics.limit_s
    bottom = ribbon.height - 6
    if math.isfinite(limit):
        x = ribbon.x(limit)
        ribbon.svg.rect(
            # All that is short enough lies in the area left of the limit.
            "limit-area",
            ribbon.left,
            _TOP - 4,
            x - ribbon.left,
            bottom - _TOP + 4,
        )
        ribbon.svg.line("limit", x, _TOP - 8, x, bottom)


def _power_places(lit: Lit, x: Scale) -> list[tuple[float, str]]:
    """Where the light's bar ends at each third of a stop, for dragging: (x, power)."""
    low, power = lowest_power(lit.light.strobe), 1.0
    places: list[tuple[float, str]] = []
    table = lit.light.table
    # From full power down in thirds of a stop, as the dial goes.
    while power >= low * 0.999:
        at = x(pulse_at(lit.light.strobe.circuit, table, power).t01_s)
        # The script drags the bar's end by these places, so that it needs no physics of its own.
        places.append((round(at, 1), units.format_power(power)))
        power *= 2 ** (-1 / 3)
    return places


def _light(ribbon: _Ribbon, physics: Physics, lit: Lit) -> None:
    svg, x, y, strobe = ribbon.svg, ribbon.x, ribbon.y, lit.light.strobe
    ribbon.label(f"{lit.light.called} {units.format_power(lit.light.power)}")
    places = _power_places(lit, x)
    # The thin line shows every duration that the dial can reach, the bar the one that is set.
    ends = [at for at, _ in places]
    if physics.method.train:
        # In HSS there is no t.1 to speak of: the plateau has to outlast the curtains' travel.
        length = lit.pulse.width_s(0.5)
        svg.rect(
            "flash", ribbon.left, y - 3, x(length) - ribbon.left, 6, fill_opacity="0.55"
        )
        ribbon.note(
            "flash-text",
            x(length),
            x(length),
            f"HSS plateau {units.format_time(length)}",
        )
    else:
        svg.line("flash-range", min(ends), y, max(ends), y)
        # The bar reaches from t.5 to t.1: its length is how much of a tail the pulse has.
        left, right = x(lit.known.t05_s), x(lit.known.t01_s)
        svg.rect(
            "flash drag",
            left,
            y - 6,
            # A quenched pulse has hardly a tail; four pixels can still be taken hold of.
            max(right - left, 4),
            12,
            rx=2,
            data_drag=f"lights[#{lit.light.id}].power",
            data_places=json.dumps(places),
            data_edge="right",
        )
        note = f"t.1 {units.format_fraction(lit.known.t01_s)}"
        _doubt(svg, x, y, lit)
        # A light that is too slow says by how much, and how much of the light it gives.
        # (judged by the time that the margin is judged by, which is not always t.1)
        slow = physics.time_s(lit) > physics.limit_s
        if slow and lit.light.on_moving_part:
            smear = units.format_number(
                physics.frame.smear_px(physics.time_s(lit), physics.centred), 2
            )
            note += f" · smears {smear} px, {units.format_percent(physics.share(lit))} of the light"
        if slow:
            said = note
        else:
            said = f"{note}, {strobe.circuit}"
        ribbon.note("flash-text", min(ends), max(right, left + 4, *ends), said)
    ribbon.next_lane()


def _doubt(svg: Svg, x: Scale, y: float, lit: Lit) -> None:
    """A whisker over what t.1 may be."""
    # A claimed figure has a wide whisker, a measured one hardly any.
    low, high = (x(time) for time in lit.known.t01_range_s)
    svg.line("flash-range", low, y - 9, high, y - 9)
    for end in (low, high):
        svg.line("flash-range", end, y - 11, end, y - 7)


@lru_cache(maxsize=64)
def _shutter_places(fastest_s: float, narrow: bool) -> str:
    """Where the shutter's bar ends at each speed that a camera has, for dragging: [[x, speed], …] as JSON."""
    x = _scale(narrow)
    marks = [
        mark
        for mark in units.SHUTTERS_S
        if fastest_s <= mark * 1.001 and LOW_S <= mark <= HIGH_S
    ]
    return json.dumps(
        [[round(x(mark), 1), units.format_shutter(mark)] for mark in marks]
    )


def _shutter(ribbon: _Ribbon, physics: Physics) -> None:
    svg, x, y = ribbon.svg, ribbon.x, ribbon.y
    shutter, travel = physics.scene.exposure.shutter_s, physics.travel_s or 0.0
    ribbon.label("Shutter")
    places = _shutter_places(fastest_shutter_s(physics.scene.camera), ribbon.narrow)
    # A leaf or global shutter has no travel: a bar of a little width marks its time.
    # The bar lies between curtain travel and shutter: its length is the time that all is open.
    low, high = sorted((travel or shutter * 0.93, shutter))
    left, right = x(low), max(x(high), x(low) + 6)
    svg.rect(
        "open drag",
        left,
        y - 6,
        right - left,
        12,
        data_drag="exposure.shutter_s",
        data_places=places,
        data_edge="right" if travel < shutter else "left",
    )
    if travel and travel < shutter:
        # A stroke across: the curtains take this part of the exposure to cross the frame.
        svg.line("bracket", left, y + 6, right, y - 6)
    note = units.format_shutter(shutter)
    if travel:
        window = shutter - travel
        if window > 0:
            opened = f"open {units.format_time(window)}"
        else:
            opened = "never open as a whole"
        note += f", curtains {units.format_time(travel)}, {opened}"
    elif physics.travel_s is None:
        note += ", curtain travel not known"
    ribbon.note("text", left, right, note)
    ribbon.next_lane()


def _room(ribbon: _Ribbon, physics: Physics) -> None:
    svg, x, y = ribbon.svg, ribbon.x, ribbon.y
    ribbon.label("Room")
    if physics.ambient_offset_stops is None:
        # A room that was not stated is a dark one by the scene's own words, so that nothing is
        # hidden here.
        ribbon.note("room-text", ribbon.left, ribbon.left, "dark")
        return
    end = x(physics.scene.exposure.shutter_s)
    svg.hatched("room", ribbon.left, end, y - 5, y + 5)
    under = physics.ghost_margin_stops
    if under is None:
        text = f"{units.format_stops(physics.ambient_offset_stops)} stops"
    else:
        if under >= 0:
            where = "under"
        else:
            where = "over"
        text = f"{units.format_stops(abs(under), signed=False)} stops {where} the flash"
    ribbon.note("room-text", ribbon.left, end, text)


def _chain(ribbon: _Ribbon, physics: Physics) -> None:
    ribbon.next_lane()
    svg, x, y = ribbon.svg, ribbon.x, ribbon.y
    timing = physics.timing
    ribbon.label("Chain")
    ends = ribbon.left
    for delay in timing.delays:
        # A lag that is not known has no place on an axis; the note and the table name it.
        if delay.lag_s is None or delay.lag_s < LOW_S:
            continue
        at = x(delay.lag_s)
        svg.polyline("time-line", [(at - 4, y - 5), (at, y), (at - 4, y + 5)])
        if delay.jitter_s:
            low, high = (
                # A jitter wider than its lag would reach below zero, where a logarithm has no
                # place.
                x(max(delay.lag_s - delay.jitter_s, LOW_S)),
                x(delay.lag_s + delay.jitter_s),
            )
            svg.rect("time", low, y - 5, max(high - low, 3), 10, fill_opacity="0.55")
        ends = max(ends, at)
    ribbon.note("time-text", ends, ends + 4, _when(physics))


def _when(physics: Physics) -> str:
    """When the light comes and how far the subject is by then, or what is not known."""
    timing = physics.timing
    if timing.flash_after_event_s is None:
        return f"not known: {', '.join(timing.unknown)}"
    when = units.format_time_within(timing.flash_after_event_s, timing.jitter_s)
    if not timing.told_travel_m:
        return f"light {when} after the event"
    return f"light {when}, {units.format_length(timing.told_travel_m)} on"


def draw_ribbon(physics: Physics, narrow: bool = False) -> Drawing:
    """The ribbon with its table: one row for each thing that takes time; `narrow` for the width of a phone."""
    limit = physics.limit_s
    if math.isfinite(limit):
        limit_text = units.format_fraction(limit)
    else:
        limit_text = "none, nothing moves"
    title = f"Time ribbon. Freeze limit {limit_text}."
    ribbon = _Ribbon(len(physics.lights) + 4, title, narrow)
    _axis(ribbon)
    _limit(ribbon, physics)
    for lit in physics.lights:
        _light(ribbon, physics, lit)
    _shutter(ribbon, physics)
    _room(ribbon, physics)
    _chain(ribbon, physics)
    if math.isfinite(limit):
        ribbon.next_lane()
        words = f"freeze limit {limit_text}; what is left of it is frozen"
        _limit_words(ribbon, ribbon.x(limit), words)
    headers = ("What", "From", "To", "Says")
    return Drawing(ribbon.svg, title, headers, _rows(physics, limit_text))


def _limit_words(ribbon: _Ribbon, x: float, words: str) -> None:
    """What the limit's line says, on the side where there is room; on a phone above the lane."""
    if ribbon.narrow:
        ribbon.svg.text("limit-text", 2, ribbon.y - 12, words)
    elif x + 6 + text_width(words) <= ribbon.width:
        ribbon.svg.text("limit-text", x + 6, ribbon.y + 4, words, "start")
    else:
        ribbon.svg.text("limit-text", x - 6, ribbon.y + 4, words, "end")


def _rows(physics: Physics, limit_text: str) -> list[tuple[str, ...]]:
    rows: list[tuple[str, ...]] = [
        ("Freeze limit", "", limit_text, physics.frame.criterion_says)
    ]
    for lit in physics.lights:
        known = lit.known
        low, high = (format_known_time(time_s) for time_s in known.t01_range_s)
        rows.append(
            (
                f"{lit.light.called} at {units.format_power(lit.light.power)}",
                f"t.5 {units.format_time(known.t05_s)}",
                f"t.1 {units.format_time(known.t01_s)}",
                f"{known.provenance}: {known.basis}, {low} … {high}",
            )
        )
    travel, shutter = physics.travel_s, physics.scene.exposure.shutter_s
    rows.append(
        (
            "Shutter",
            "curtains not known"
            if travel is None
            else f"curtains {units.format_time(travel)}"
            if travel
            else "",
            units.format_shutter(shutter),
            physics.scene.camera.shutter.replace("_", " "),
        )
    )
    for delay in physics.timing.delays:
        rows.append(
            (
                f"Chain: {delay.name}",
                "",
                format_known_time(delay.lag_s),
                f"± {format_known_time(delay.jitter_s)}",
            )
        )
    return rows
