"""What a person would say of a scene: what holds, what probably does, what does not, and what is not known."""

from rapzel.core.document.evaluation import Margin
from rapzel.core.physics import Physics
from rapzel.core.shared.units import format_number, format_percent, format_shutter, format_stops
from rapzel.core.verdict.look import stopping_mark_s
from rapzel.core.verdict.margin import listed

_FAILING = {
    "sync": "the shutter and the light do not meet",
    "timing": "it seldom lands",
    "pace": "too fast a burst",
}
_SUBJECT = {
    "freeze": "whether it freezes",
    "light": "whether it is bright enough",
    "ghost": "whether the room trails",
    "sync": "whether every row sees the light",
    "timing": "whether it lands",
    "pace": "how fast the lights keep up",
}


def _freeze(physics: Physics, margin: Margin) -> str:
    lasts = physics.stopping_s
    if margin.value is None or lasts is None:
        return "nothing moves"
    px = format_number(physics.frame.smear_px(lasts, physics.centred), 2)
    if margin.says.startswith("second image"):
        return f"doubled: a {margin.says}"
    if margin.state == "fails":
        slow = physics.slowest
        by = f" by {slow.name}" if slow and len(physics.on_part) > 1 else ""
        allowed = format_number(physics.frame.criterion_px, 2)
        return f"smeared over {px} px{by} where {allowed} are allowed"
    if margin.state == "unsure":
        faint = [trail for trail in physics.trails if trail.faint and trail.of != "room"]
        if faint:
            longest = max(faint, key=lambda trail: trail.px)
            return f"frozen to {px} px with a faint trail of {longest.of} over {format_number(longest.px, 2)} px"
        return f"probably frozen ({px} px)"
    return f"frozen to {px} px"


def _light(physics: Physics, margin: Margin) -> str:
    value = margin.value
    if value is None:
        return "no light on the subject"
    stops = f"{format_stops(abs(value), signed=False)} {'stop' if abs(value) <= 1.05 else 'stops'}"
    if margin.state == "fails":
        clipped = physics.clipped_share
        white = (
            f", {format_percent(clipped)} of the subject white"
            if clipped and clipped >= 0.005
            else ""
        )
        return f"{stops} over{white}" if value > 0 else f"{stops} short of light"
    return "probably bright enough" if margin.state == "unsure" else "bright enough"


def _ghost(physics: Physics, margin: Margin) -> str:
    if physics.scene.look.room != "black":
        return _wanted_room(physics, margin)
    if margin.value is None:
        return margin.says if margin.state == "fails" else "no ghost"
    if margin.state == "passes":
        return "no ghost"
    if margin.state == "unsure":
        return "a faint ghost" if margin.value < 0 else "probably no ghost"
    return f"a visible ghost {format_number(physics.room_trail_px, 2)} px long"


def _wanted_room(physics: Physics, margin: Margin) -> str:
    """What of a room that is wanted holds, or does not."""
    lit = physics.scene.look.room == "lit"
    if margin.figure_unit == "px" and lit:
        px = format_number(physics.room_trail_px, 2)
        if margin.state != "fails":
            return f"a faint trail of {px} px in the room's light"
        mark = stopping_mark_s(physics.limit_s)
        stops = "" if mark is None else f", which {format_shutter(mark)} would stop"
        only = "only high-speed sync, a leaf or global shutter or a fast shutter alone can"
        return f"moving parts trail {px} px in the room's light{stops} ({only})"
    if margin.state == "fails" or not physics.method.flashes:
        return margin.says
    if margin.state == "unsure":
        return f"probably as wanted ({margin.says})"
    return "the room as wanted" if lit else "the trail as wanted"


def _part(physics: Physics, margin: Margin) -> str:
    wording = {"freeze": _freeze, "light": _light, "ghost": _ghost}
    if margin.name in wording:
        return wording[margin.name](physics, margin)
    if margin.name == "sync" and physics.method.leads and margin.value is not None:
        return f"uneven ({margin.says})"
    return f"{_FAILING[margin.name]} ({margin.says})"


def _told(margin: Margin) -> bool:
    """Whether a margin that holds is worth a word: those that people look at, not those that only must not fail."""
    return margin.name in ("freeze", "light") or (
        margin.name == "ghost" and margin.value is not None
    )


def _failing(physics: Physics, margins: list[Margin]) -> list[Margin]:
    """What fails; tries that only fail because the motion is not frozen are said once, with the freeze."""
    failing = [one for one in margins if one.state == "fails"]
    shares = physics.timing.shares
    smeared = any(one.name == "freeze" for one in failing)
    if not smeared or shares is None or shares.slow_enough is None or shares.slow_enough > 0.5:
        return failing
    rest = min(
        shares.in_frame, shares.in_focus, 1.0 if shares.in_moment is None else shares.in_moment
    )
    return [one for one in failing if one.name != "timing" or rest < 0.5]


def sentence(physics: Physics, margins: list[Margin]) -> str:
    """What holds, then what does not, then what is not known."""
    if not physics.scene.lights and physics.method.flashes:
        return "No light yet: add one to see whether it freezes, is bright enough and lands."
    holds = [_part(physics, one) for one in margins if one.state == "passes" and _told(one)]
    perhaps = [
        _part(physics, one)
        for one in margins
        if one.state == "unsure" and one.name in ("freeze", "light", "ghost")
    ]
    fails = [_part(physics, one) for one in _failing(physics, margins)]
    unknown = [_SUBJECT[one.name] for one in margins if one.state == "unknown"]
    good = [*holds, *perhaps]
    if good and fails:
        text = f"{', '.join(good)}, but {listed(fails)}"
    else:
        text = listed(good or fails) if good or fails else ""
    if unknown:
        text = f"{text}; not known: {listed(unknown)}" if text else f"not known: {listed(unknown)}"
    return f"{text[0].upper()}{text[1:]}." if text else "Nothing to say yet."
