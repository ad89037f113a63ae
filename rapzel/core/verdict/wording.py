"""What each margin adds to the sentence, as a person would say it (words.md: verdict first, then the figure)."""

from rapzel.core.document.evaluation import Margin
from rapzel.core.physics import Physics
from rapzel.core.shared.units import (
    format_number,
    format_percent,
    format_shutter,
    format_stops,
)
from rapzel.core.verdict.ambient import by_backdrop, stops_too_bright
from rapzel.core.verdict.freeze import softened
from rapzel.core.verdict.ghost import stopping_mark_s
from rapzel.core.verdict.streaks import where_the_trail_lies


def of_freeze(physics: Physics, margin: Margin) -> str:
    """Whether it freezes, over how many pixels [px]."""
    lasts = physics.stopping_s
    if margin.value is None or lasts is None:
        return "nothing moves"
    px = format_number(physics.frame.smear_px(lasts, physics.centred), 2)
    # Two pops are not smear: the word decides what one does about it.
    if margin.says.startswith("second image"):
        return f"doubled: a {margin.says}"
    # Motion is stopped, and all the same it is not sharp.
    if margin.state != "passes" and softened(physics, margin):
        soft = "not sharp" if margin.state == "fails" else "hardly sharp"
        return f"{soft} ({margin.says})"
    if margin.state == "fails":
        slow = physics.slowest
        # With one light there is nobody else to blame.
        if slow and len(physics.on_part) > 1:
            by = f" by {slow.name}"
        else:
            by = ""
        allowed = format_number(physics.frame.criterion_px, 2)
        return f"smeared over {px} px{by} where {allowed} are allowed"
    if margin.state == "unsure":
        faint = [
            trail for trail in physics.trails if trail.faint and trail.of != "room"
        ]
        if faint:
            # Of several faint trails the longest is the one that is seen.
            longest = max(faint, key=lambda trail: trail.px)
            return f"frozen to {px} px with a faint trail of {longest.of} over {format_number(longest.px, 2)} px"
        if margin.probably_fails:
            allowed = format_number(physics.frame.criterion_px, 2)
            return f"probably smeared over {px} px where {allowed} are allowed"
        return f"probably frozen ({px} px)"
    return f"frozen to {px} px"


def of_light(physics: Physics, margin: Margin) -> str:
    """Whether it is bright enough, or by how many stops it is not."""
    value = margin.value
    if value is None:
        return "no light on the subject"
    # One stop, and all that reads as one, is singular.
    stops = f"{format_stops(abs(value), signed=False)} {'stop' if abs(value) <= 1.05 else 'stops'}"
    if margin.state == "fails" or margin.probably_fails:
        perhaps = "probably " if margin.probably_fails else ""
        clipped = physics.clipped_share
        # Less than half a percent of white is a highlight on sweat, and no fault.
        if clipped and clipped >= 0.005:
            white = f", {format_percent(clipped)} of the subject white"
        else:
            white = ""
        if value > 0:
            return f"{perhaps}{stops} over{white}"
        return f"{perhaps}{stops} short of light"
    if margin.state == "unsure":
        return "probably bright enough"
    return "bright enough"


def of_room(physics: Physics, margin: Margin) -> str:
    """Whether the room is as dark, or as bright, as the look wants it."""
    black = physics.scene.look.room == "black"
    if margin.state == "passes":
        return "black behind it" if black else "the room as wanted"
    perhaps = "probably " if margin.probably_fails else ""
    if margin.state == "unsure" and not perhaps:
        return "probably black behind it" if black else "the room probably as wanted"
    off = stops_too_bright(margin)
    if not off:
        return margin.says
    stops = f"{format_stops(abs(off), signed=False)} {'stop' if abs(off) <= 1.05 else 'stops'}"
    if black:
        what = "the backdrop" if by_backdrop(physics) else "the room"
        return f"{what} is {perhaps}{stops} too bright for black"
    too = "bright" if off > 0 else "dark"
    return f"the room is {perhaps}{stops} too {too} for the look"


def of_ghost(physics: Physics, margin: Margin) -> str:
    """Whether the room trails, or draws the trail that is wanted."""
    if physics.scene.look.room in ("trail", "streaks"):
        return _wanted_trail(physics, margin)
    if margin.value is None:
        if margin.state == "fails":
            return margin.says
        return "no ghost"
    if margin.state == "passes":
        return "no ghost"
    px = format_number(physics.room_trail_px, 2)
    if margin.state == "unsure":
        if margin.value < 0:
            return f"a faint trail of {px} px in the room's light"
        return "probably no ghost"
    if physics.scene.look.room == "lit":
        return _lit_trail(physics, px)
    return f"a visible ghost {px} px long"


def _wanted_trail(physics: Physics, margin: Margin) -> str:
    if physics.scene.look.room == "streaks":
        what = "the streaks"
    else:
        what = "the trail"
    if margin.state == "passes":
        if what == "the trail":
            return f"the trail as wanted, {where_the_trail_lies(physics)}"
        return f"{what} as wanted"
    if margin.state == "unsure":
        return f"{what} probably as wanted ({margin.says})"
    return margin.says


def _lit_trail(physics: Physics, px: str) -> str:
    """A room that is wanted cannot be made darker: what would stop its trail is told."""
    mark = stopping_mark_s(physics.limit_s)
    if mark is None:
        stops = ""
    else:
        stops = f", which {format_shutter(mark)} would stop"
    only = "only high-speed sync, a leaf or global shutter or a fast shutter alone can"
    return f"moving parts trail {px} px in the room's light{stops} ({only})"


def of_sync(physics: Physics, margin: Margin) -> str:
    """How shutter and light do not meet; a light that leads leaves rows uneven instead."""
    if physics.method.leads and margin.value is not None:
        perhaps = "probably " if margin.probably_fails else ""
        return f"{perhaps}uneven ({margin.says})"
    if margin.probably_fails:
        return f"the shutter may cut the light ({margin.says})"
    return f"the shutter and the light do not meet ({margin.says})"


def of_timing(physics: Physics, margin: Margin) -> str:
    """Why it seldom lands, or what it depends on."""
    if margin.state == "unsure":
        return f"how often it lands is not sure ({margin.says})"
    return f"it seldom lands ({margin.says})"


def of_pace(physics: Physics, margin: Margin) -> str:
    """Why the lights do not keep up."""
    if margin.state == "unsure":
        return f"the lights may not keep up ({margin.says})"
    return f"the lights do not keep up ({margin.says})"
