"""The freeze margin: stops between the freeze limit and the light that the eye takes for the picture (science §3)."""

import math

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.frame.criteria import freeze_stops
from rapzel.core.motion.presets import RULE_OF_THUMB
from rapzel.core.physics import Physics
from rapzel.core.shared import constants
from rapzel.core.shared.units import format_number, format_stops
from rapzel.core.shared.working import Step, step
from rapzel.core.verdict.margin import margin, state_of


def _working(physics: Physics, lasts: float) -> tuple[list[Step], str]:
    slowest = physics.slowest
    if slowest is None:
        return [
            step("t_s", lasts, "s", "the shutter", constants.SOURCE_DEFINITION)
        ], "t_s"
    name = f"t.1 {slowest.light.name}".strip()
    low, high = slowest.known.t01_range_s
    basis = f"{slowest.known.basis}, {low * 1e6:.3g} … {high * 1e6:.3g} µs"
    if lasts < slowest.known.t01_s * 0.999:
        basis += ", cut by the shutter"
    return [
        step(name, lasts, "s", basis, constants.SOURCE_ISO_2827, slowest.provenance)
    ], name


def freeze(physics: Physics) -> Margin:
    """log2(freeze limit / time that stops the motion) [stops]; a faint longer trail leaves it unsure."""
    frame, lasts = physics.frame, physics.stopping_s
    working = list(frame.working)
    if lasts is None:
        return margin("freeze", None, "stops", "unknown", "no light yet", working)
    more, name = _working(physics, lasts)
    working += more
    limit = physics.limit_s
    if not math.isfinite(limit):
        return margin("freeze", None, "stops", "passes", "nothing moves", working)
    if lasts <= 0:
        return margin(
            "freeze", None, "stops", "unknown", "the opening records no light", working
        )
    value = float(freeze_stops(limit, lasts))
    # Only the longer side counts: a pulse that is shorter than told freezes all the better.
    doubt = math.hypot(
        math.log2((physics.pessimistic_s or lasts) / lasts), _speed_doubt(physics)
    )
    if physics.slowest is None:
        known = None
    else:
        known = physics.slowest.provenance
    working += [
        step(
            "t_freeze",
            limit,
            "s",
            "the way of the image reaches c",
            constants.SOURCE_DEFINITION,
        ),
        step("rule of thumb", None, "", RULE_OF_THUMB, constants.SOURCE_PRACTICE),
        step(
            "S(t)",
            None,
            "",
            _shares_in_words(physics),
            "cumulative share of the exposure",
        ),
        step(
            "freeze",
            value,
            "stops",
            f"log2(t_freeze / {name})",
            constants.SOURCE_DEFINITION,
            known,
        ),
        step(
            "doubt",
            doubt,
            "stops",
            "how far the duration may be off, and a speed whose spread nobody states",
            constants.SOURCE_MEMORY,
        ),
    ]
    smear, allowed = frame.smear_px(lasts, physics.centred), frame.criterion_px
    working.append(
        step(
            "blur",
            frame.blur_px(smear),
            "px",
            "√(smear² + diffraction² + focus²), as smears of the same spread",
            "second moments",
        )
    )
    doubled = _doubled(physics)
    if doubled and doubled[0] == "fails":
        apart = physics.doubled[0] if physics.doubled else allowed
        # Two images are no smear, but as far apart as a smear of that length would be long.
        short = float(freeze_stops(allowed, apart))
        return margin("freeze", min(value, short), "stops", *doubled, working, doubt)
    state, says = _judged(physics, value, doubt, smear)
    if doubled and state != "fails" and not says.startswith("faint"):
        state, says = doubled
    # What motion leaves sharp the rest of the blur may not.
    soft = _softened(physics, smear)
    if soft is not None and (
        state == "passes" or (state, soft[0]) == ("unsure", "fails")
    ):
        state, says = soft
    return margin("freeze", value, "stops", state, says, working, doubt)


def _judged(
    physics: Physics, value: float, doubt: float, smear_px: float
) -> tuple[State, str]:
    """The state by the smear alone, and a longer faint trail beside it."""
    smear = format_number(smear_px, 2)
    says = f"{smear} px of {format_number(physics.frame.criterion_px, 2)}"
    # A pulse may be as much shorter than told as longer.
    state = state_of(value, doubt, better=doubt)
    faint = [trail for trail in physics.trails if trail.faint and trail.of != "room"]
    # What is between the thresholds some see and some do not: that is not for a tile to decide.
    if faint and state != "fails":
        longest = max(faint, key=lambda trail: trail.px)
        length = format_number(longest.px, 2)
        return (
            "unsure",
            f"faint {length} px of {longest.of}, {format_stops(longest.stops)}",
        )
    if state == "unsure":
        return state, f"probably {'not: ' if value < 0 else ''}{says}"
    return state, says


def softened(physics: Physics, margin_: Margin) -> bool:
    """Whether it is diffraction or focus, and not motion, that a margin of the freeze is told to be soft by."""
    lasts = physics.stopping_s
    if lasts is None or margin_.value is None or margin_.value < 0:
        return False
    soft = _softened(physics, physics.frame.smear_px(lasts, physics.centred))
    return soft is not None and soft[1] == margin_.says


def _softened(physics: Physics, smear_px: float) -> tuple[State, str] | None:
    """What diffraction and focus make of a part that motion leaves sharp; None where they leave it sharp too."""
    frame = physics.frame
    blur, allowed = frame.blur_px(smear_px), frame.criterion_px
    # Little beside the smear, it is the smear that is judged.
    if blur <= constants.BLUR_SHARP * allowed * (1 + 1e-9):
        return None
    by_focus = (
        constants.DISC_AS_SMEAR * frame.reach_blur_m
        > constants.AIRY_AS_SMEAR * frame.airy_m
    )
    what = "out of focus" if by_focus else "diffraction"
    words = f"{format_number(smear_px, 2)} px, but {format_number(blur, 2)} with {what}"
    return ("fails" if blur > constants.BLUR_SOFT * allowed else "unsure"), words


def _speed_doubt(physics: Physics) -> float:
    """By how much a speed of no stated spread, or what a camera that follows is off by, may be more than usual [stops].

    A stated spread is in the value already: the freeze is judged at mean + 1 sd.
    """
    motion, panning = physics.scene.motion, physics.scene.exposure.panning
    followed = 0.0
    if panning is not None and panning.error is None:
        # How well somebody follows is not known before the first tries.
        followed = constants.PANNING_DOUBT
    usual = physics.trajectory.wanted_speed_m_s
    if motion.speed_sd_m_s is not None or usual <= 0:
        return followed
    off = math.hypot(motion.mean_doubt_m_s(usual), constants.UNSAID_SPEEDS * usual)
    return math.hypot(math.log2(1 + off / usual), followed)


def _doubled(physics: Physics) -> tuple[State, str] | None:
    """What lights that fire at other times do: a second image, by the thresholds of every trail."""
    if physics.doubled is None:
        return None
    px, share = physics.doubled
    ambient = physics.scene.ambient
    # So weak a double is lost in the noise, wherever it lies.
    if share < 2.0**-ambient.clear_stops:
        return None
    seen = share >= 2.0**-ambient.trail_stops
    words = (
        f"second image {format_number(px, 2)} px away, {format_stops(math.log2(share))}"
    )
    return ("fails" if seen else "unsure"), words


def _shares_in_words(physics: Physics) -> str:
    """S(t) of the lights, slowest first."""
    if not physics.method.room_apart:
        return "the shutter alone: all of the exposure lasts as long"
    parts = [
        f"{share:.3g} ≥ {time * 1e6:.4g} µs"
        for time, share in physics.recorded.lasting()
    ]
    seen, clear = physics.scene.ambient.trail_stops, physics.scene.ambient.clear_stops
    return f"{'; '.join(parts)}; seen from 2^−{seen:g}, faint from 2^−{clear:g}"
