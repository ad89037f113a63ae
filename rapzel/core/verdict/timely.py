"""The timing margin: the share of simulated tries that land, where something says what landing is (science §11)."""

import math

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.physics import Physics
from rapzel.core.physics.timing import OFF_SD, Timing
from rapzel.core.physics.wanted import beam_against_moment_m
from rapzel.core.shared import constants, draws
from rapzel.core.shared.units import format_length, format_percent, format_time
from rapzel.core.shared.working import Step, step
from rapzel.core.trigger import success
from rapzel.core.trigger.tries import Shares
from rapzel.core.verdict.freeze import freeze
from rapzel.core.verdict.margin import listed, margin

# of tries that should land: every other one; common practice with an athlete one knows
ASKED_SHARE = 0.5
_DRAWN = f"{draws.TRIES} drawn tries"
_SAMPLING = 0.005  # how far a share of so many evenly spread tries may be off
_WIDE = 0.1  # a range of shares that is worth telling


def _working(timing: Timing) -> list[Step]:
    steps = [
        step(
            one.name,
            one.lag_s,
            "s",
            "not known" if one.jitter_s is None else f"± {format_time(one.jitter_s)}",
            "as set",
            one.provenance,
        )
        for one in timing.delays
    ]
    steps += [
        step(
            "t after event",
            timing.flash_after_event_s,
            "s",
            "Σ lags + set delay",
            constants.SOURCE_DEFINITION,
        ),
        step(
            "travel",
            timing.travel_m,
            "m",
            "way of the subject from the event to the light",
            "trajectory",
        ),
        step(
            "past the place", timing.offset_m, "m", "x(light) − x(wanted)", "trajectory"
        ),
        step("σ_t", timing.jitter_s, "s", "√Σσ²", "independent links"),
        step("σ_x", timing.position_sd_m, "m", "spread of places at the light", _DRAWN),
    ]
    shares = timing.shares
    if shares is not None:
        named = (
            ("noticed", shares.noticed, "of all passes, by the beam"),
            ("in frame", shares.in_frame, "whole extent inside the frame"),
            ("in focus", shares.in_focus, "inside the depth of field"),
            ("slow enough", shares.slow_enough, "smear within the criterion"),
            ("in the moment", shares.in_moment, "inside its time and place"),
            ("heard", shares.heard, "fired by the event, and once"),
            ("all of them", shares.joint, "on the same tries, of all there are"),
            ("at worst", shares.low, "in nine of ten such plans, by what is doubtful"),
            ("at best", shares.high, "the same"),
        )
        steps += [
            step(name, share, "", what, _DRAWN)
            for name, share, what in named
            if share is not None
        ]
    return steps


def timing(physics: Physics) -> Margin:
    """Share of tries that land in the frame, in focus, slow enough and within the moment, above the asked share."""
    result = physics.timing
    working = _working(result)
    if result.unknown:
        first = list(result.unknown)
        # A light that is not chosen yet cannot be measured.
        if first[0] == "a light":
            makes_known = ""
        else:
            makes_known = ": measure it on the bench"
        if first == ["a light"]:
            says = "no light yet"
        else:
            says = f"{listed(first)} not known{makes_known}"
        return margin("timing", None, "share", "unknown", says, working)
    apart = beam_against_moment_m(physics.scene)
    if apart:
        # Whichever of the two is wrong, no share of such tries is one of the real ones.
        says = f"beam and moment disagree by {format_length(apart)}"
        return margin("timing", None, "share", "unknown", says, working)
    assert result.shares is not None, "known where nothing is unknown"
    travelled = format_length(result.travel_m or 0.0)
    # How many stay in the frame is no verdict: it is told, and the moment is asked for.
    if not result.judged:
        return _frame_only(result.shares, travelled, working)
    share = result.shares.joint
    value = share - ASKED_SHARE
    state, doubt = _state(result.shares)
    # Where it is not sure that the light is short enough, it is not sure that a try is sharp.
    if state == "passes" and freeze(physics).state == "unsure":
        state = "unsure"
    says = _says(result, share)
    if state == "unsure":
        says = _unsure_says(result, result.shares)
    shown = {"figure": share, "figure_unit": "share"}
    return margin("timing", value, "share", state, says, working, doubt, **shown)


def _frame_only(shares: Shares, travelled: str, working: list[Step]) -> Margin:
    """Without a moment only what stays in the frame is known; few that do are too few, whatever the moment is."""
    parts = (shares.in_frame, shares.noticed, shares.heard)
    inside = math.prod(part for part in parts if part is not None)
    if inside < ASKED_SHARE:
        says = f"only {format_percent(inside)} stay in frame, {travelled} on"
        shown = {"figure": inside, "figure_unit": "framed"}
        value = inside - ASKED_SHARE
        return margin(
            "timing", value, "share", "fails", says, working, _SAMPLING, **shown
        )
    says = f"state the moment; {format_percent(inside)} stay in frame, {travelled} on"
    return margin("timing", None, "share", "unknown", says, working)


def _state(shares: Shares) -> tuple[State, float]:
    """Whether enough tries land whatever is doubtful in the plan, and how far their share may be off."""
    doubt = max(shares.joint - shares.low, shares.high - shares.joint, _SAMPLING)
    if shares.low - _SAMPLING >= ASKED_SHARE:
        return "passes", doubt
    if shares.high + _SAMPLING < ASKED_SHARE:
        return "fails", doubt
    return "unsure", doubt


def _says(result: Timing, share: float) -> str:
    if _too_late(result):
        return f"late by {format_time(result.too_late_s)}, {format_length(result.travel_m or 0.0)} on"
    tries = success.tries_for(share)
    if tries is not None and share >= ASKED_SHARE:
        return f"by timing alone {tries} {'try' if tries == 1 else 'tries'} for 95 %"
    return why_not(result)


def _unsure_says(result: Timing, shares: Shares) -> str:
    if shares.high - shares.low < _WIDE:
        return f"{format_percent(shares.joint)}, and not sure to freeze"
    return f"{range_of(shares)} land: {doubtful(result)}"


def range_of(shares: Shares) -> str:
    """Where the share of tries that land lies, in words: '21 to 54 %'."""
    return f"{shares.low * 100:.0f} to {format_percent(shares.high)}"


def doubtful(result: Timing) -> str:
    """What in the plan its share of landing tries depends on most, in words; empty where nothing is doubtful."""
    if result.shares is None or result.shares.doubtful_by is None:
        return ""
    kind = result.shares.doubtful_by
    if kind == draws.LAGS:
        least_sure = max(result.delays, key=lambda one: one.doubt_s)
        if least_sure.kind == "finger":
            return "drill the finger"
        return f"measure the lag of {least_sure.name}"
    return _DOUBTFUL[kind]


_DOUBTFUL = {
    draws.MEAN_SPEED: "measure the speed",
    draws.OWN_SPEED: "say how much speeds differ",
    draws.DURATION: "measure the pulse",
    draws.WAYS: "say how far its ways spread",
    draws.DEAF: "say how long the unit is deaf",
}


def _too_late(result: Timing) -> bool:
    """Whether coming late, which no delay mends, is what most tries fail by."""
    shares = result.shares
    if not result.noticeably_late_s or shares is None:
        return False
    # Tries that are too fast for the light do not land either, but no delay is to blame for them.
    lost = [
        shares.in_frame,
        shares.in_focus,
        1.0 if shares.in_moment is None else shares.in_moment,
    ]
    return min(lost) < ASKED_SHARE


def why_not(result: Timing) -> str:
    """What most tries fail by, in words, and what to do about it where that is known."""
    shares = result.shares
    assert shares is not None, "asked of judged tries only"
    noticed, heard, slow, moment = (
        1.0 if share is None else share
        for share in (
            shares.noticed,
            shares.heard,
            shares.slow_enough,
            shares.in_moment,
        )
    )
    reasons = [
        (noticed, "miss the beam"),
        (heard, "fired by another sound"),
        (shares.in_frame, f"out of frame{_off(result) or _spread_of_places(result)}"),
        (shares.in_focus, f"out of focus{_off(result) or _SPREAD_OF_DEPTHS}"),
        (slow, "too fast for the light"),
        (moment, f"miss the moment{_off(result) or _spread_in_moment(result)}"),
    ]
    # The one that most tries fail by is the one that is worth mending first.
    lowest, words = min(reasons, key=lambda reason: reason[0])
    if lowest < 0.995:
        return f"{format_percent(1 - lowest)} {words}"
    return "hardly ever all at once"


def _off(result: Timing) -> str:
    """By how much the usual try is early or late; empty where tries fail by their spread."""
    late = (result.flash_after_event_s or 0.0) - (result.wanted_delay_s or 0.0)
    # A mean that is off by less than a fifth of the spread explains nothing.
    if abs(late) <= OFF_SD * (result.jitter_s or 0.0):
        return ""
    return f", {format_time(abs(late))} {'late' if late > 0 else 'early'}"


_SPREAD_OF_DEPTHS = ": its ways differ by more than the depth of field"


def _spread_of_places(result: Timing) -> str:
    if not result.position_sd_m:
        return ""
    return f": places differ by {format_length(result.position_sd_m)}"


def _spread_in_moment(result: Timing) -> str:
    """How much tries differ in time and place; of a finger, what would be steadier."""
    shares, jitter_s, places_m = result.shares, result.jitter_s, result.position_sd_m
    if shares is None or shares.in_moment is None or not jitter_s or not places_m:
        return ""
    widest = max(result.delays, key=lambda one: one.jitter_s or 0.0)
    if widest.kind != "finger":
        return (
            f": tries differ by {format_time(jitter_s)} and {format_length(places_m)}"
        )
    # A drilled finger is about half as wide as a common one (memory), and so twice as often right at best.
    if shares.in_moment < ASKED_SHARE / 2:
        return ": use a sensor"
    return ": drill the finger"
