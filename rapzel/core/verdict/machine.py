"""The margin of sync: does every row see the light, frame after frame (science §7)."""

import math
from typing import Any

import numpy as np

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.physics import Physics, exposing
from rapzel.core.shared import constants
from rapzel.core.shared.units import (
    SHUTTERS_S,
    format_percent,
    format_shutter,
    format_stops,
    format_time,
)
from rapzel.core.shared.working import Step, step
from rapzel.core.shutter.curve import RowCurves, best_offset_s
from rapzel.core.shutter.jitter import Frames
from rapzel.core.shutter.rows import Opening
from rapzel.core.verdict.exposed import TRAVEL_UNKNOWN
from rapzel.core.verdict.margin import margin, state_of

_ROWS = "row model"
_JITTER_UNKNOWN = "jitter of the radio not known: measure it on the bench"
_TENTH = 0.1  # stop: a row that loses no more is not seen to be darker


def sync(physics: Physics) -> Margin:
    """Slack of the shutter against the fastest that gives every row its light [ms]."""
    scene, method = physics.scene, physics.method
    # What excludes itself is said before anything is computed from it.
    conflict = method.conflict(scene)
    if conflict:
        return margin("sync", None, "ms", "fails", conflict, [])
    if not method.flashes:
        return margin("sync", None, "ms", "passes", "no flash to synchronise", [])
    if method.through_slit and scene.lights:
        if method.train:
            return _train(physics)
        return _burning_down(physics)
    unknown = _not_known(physics)
    if unknown:
        return margin("sync", None, "ms", "unknown", unknown, [])
    if method.by_hand:
        return _open(physics)
    if physics.assumed_travel_s == 0:
        return _at_once(physics)
    return _curtains(physics)


def _not_known(physics: Physics) -> str:
    """What is missing before anything can be said of the shutter and a pulse; empty where nothing is."""
    if not physics.scene.lights:
        return "no light yet"
    if not physics.on_part:
        return "no light on the moving part"
    if physics.scene.trigger.contact_to_light_s is None and not physics.method.by_hand:
        return "latency from contact to light not known: measure it on the bench"
    return ""


def _open(physics: Physics) -> Margin:
    lost = physics.curves.worst_loss_stops
    if lost > _TENTH:
        return margin(
            "sync", -lost, "stops", "fails", "the shutter closes into the light", []
        )
    return margin("sync", None, "ms", "passes", "shutter stands open", [])


def _curtains(physics: Physics) -> Margin:
    """Slack of a shutter whose curtains pass, for the usual frame and for nineteen in twenty that jump about."""
    trigger, curves = physics.scene.trigger, physics.curves
    shutter, safe = physics.scene.exposure.shutter_s, physics.fastest_safe_s or 0.0
    slack_ms = (shutter - safe) * 1000
    # A pulse may be longer than told, the curtains slower, the trigger later: each independently.
    longer = max((physics.pessimistic_safe_s or safe) - safe, 0.0)
    travel_sd = physics.scene.camera.curtain_travel_sd_s or 0.0
    others = math.hypot(travel_sd, trigger.contact_doubt_s)
    doubt_ms = math.hypot(longer, others) * 1000
    known = physics.travel_s is not None
    if known:
        travel = "curtain travel or readout"
    else:
        travel = "not known; at most the sync speed"
    working = [
        step("T_c", physics.assumed_travel_s, "s", travel, constants.SOURCE_DEFINITION),
        step(
            "L",
            trigger.contact_to_light_s,
            "s",
            "trigger latency",
            constants.SOURCE_DEFINITION,
        ),
        *_jitter_steps(physics),
        step("t_safe", safe, "s", "T_c + L + time of 93.3 % of the light", _ROWS),
        step(
            "worst row",
            -curves.worst_loss_stops,
            "stops",
            "light inside the opening of the worst row",
            _ROWS,
        ),
        step("sync", slack_ms, "ms", "t_s − t_safe", _ROWS),
        step(
            "doubt",
            doubt_ms,
            "ms",
            "pulses as long as they may be, the travel's own, and the trigger's",
            constants.SOURCE_MEMORY,
        ),
    ]
    # A pulse may be as many times shorter than told as longer.
    shorter = max(safe - (physics.optimistic_safe_s or safe), 0.0)
    better_ms = math.hypot(shorter, others) * 1000
    state = state_of(slack_ms, doubt_ms, better=better_ms)
    # By the longest travel that the sync speed allows: if that is safe, the real one is; else
    # nothing is known.
    if state != "passes" and not known:
        return margin("sync", None, "ms", "unknown", TRAVEL_UNKNOWN, working)
    if state != "passes" and trigger.contact_jitter_s is None:
        return margin("sync", None, "ms", "unknown", _JITTER_UNKNOWN, working)
    if state == "passes":
        says = f"{format_shutter(shutter)} is safe"
    elif slack_ms >= 0:
        says = f"{format_shutter(shutter)} is probably safe"
    else:
        says = _cut_by_curtains(physics)
    return margin("sync", slack_ms, "ms", state, says, working, doubt_ms)


def _cut_by_curtains(physics: Physics) -> str:
    """What a shutter that is too fast makes of the light: a dark band, a darker side, one light cut, or dark frames."""
    curves = physics.curves
    if curves.dark_share > 0:
        return f"dark over {format_percent(curves.dark_share)}"
    if curves.worst_loss_stops > _TENTH:
        return f"side {format_stops(-curves.worst_loss_stops)} stops"
    late = exposing.late_of(physics.scene)
    dark = 0.0
    for flash, lit in zip(curves.flashes, physics.on_part, strict=True):
        # A weak light may be alone on its side of the subject, where no other makes up for it.
        lost = RowCurves(curves.opening, (flash,)).worst_loss_stops
        if lost > _TENTH:
            return f"{lit.name} {format_stops(-lost)} stops on one side"
        dark = max(dark, Frames(curves.opening, (flash,), late).darker_than(1.0))
    return f"{_dark_frames(dark)} by the radio"


def _jitter_steps(physics: Physics) -> list[Step]:
    """The working of a light that jumps about; nothing where it does not."""
    late = exposing.late_of(physics.scene)
    if len(late) == 1:
        return []
    jitter = physics.scene.trigger.contact_jitter_s
    how = "radios, √Σσ²"
    if jitter is None:
        how = "not known; at most"
    frames = physics.frames()
    sd = float(np.std(late))
    return [
        step("jitter", sd, "s", how, "as set"),
        step("mean", frames.mean_share, "", "of the light, over many frames", _ROWS),
    ]


def _dark_frames(share: float) -> str:
    return f"{format_percent(share)} of frames dark by half a stop"


def _at_once(physics: Physics) -> Margin:
    """A whole frame that opens at once cuts every row alike: light lost, counted in the exposure, and no band."""
    curves = physics.curves
    captured = float(curves.by_row.max())
    best = physics.best_possible_share
    frames = physics.frames()
    lost = curves.best_loss_stops + physics.jitter_loss_stops
    dark = frames.darker_than(best)
    working = [
        step("opening", curves.opening.offset_s, "s", "after the contact", _ROWS),
        step("captured", captured, "", "∫ of the light inside the opening", _ROWS),
        *_jitter_steps(physics),
        step("dark", dark, "", "of frames, by more than half a stop", _ROWS),
        step("sync", -lost, "stops", "log2(captured, on average)", _ROWS),
    ]
    state, says = _opened_at_once(physics, captured, best, dark)
    # What is lost is told, but it is no distance from the line: nearly every frame has to keep as much.
    shown: dict[str, Any] = {"figure": -lost, "figure_unit": "stops"}
    return margin("sync", None, "stops", state, says, working, **shown)


def _opened_at_once(
    physics: Physics, captured: float, best: float, dark: float
) -> tuple[State, str]:
    """Whether enough frames keep what this opening can keep; `dark` is the share of those that do not."""
    scene, opening = physics.scene, physics.curves.opening
    placed = scene.camera.shutter == "global"
    at = format_time(opening.offset_s)
    # Judged against the best that this opening could do: a leaf shutter never keeps all of a long
    # pulse.
    if _misses(physics):
        return "fails", f"opening at {at} misses the light"
    if max(captured, best) < 2.0**-constants.DARKEST_STOPS:
        return "fails", "closed again before the light"
    if dark > constants.DARK_FRAMES:
        if scene.trigger.contact_jitter_s is None:
            return "unknown", _JITTER_UNKNOWN
        return "fails", f"{_dark_frames(dark)}; {_tolerant(physics)}"
    # The time from contact to light may be off for the whole shoot, and then every frame is.
    if _most_dark(physics) > constants.DARK_FRAMES:
        return (
            "unsure",
            "measure the time from contact to light: it may miss the opening",
        )
    says = f"keeps {format_percent(physics.frames().mean_share)} of the light"
    if placed:
        says += (
            f", best opening at {at}"
            if scene.exposure.offset_s is None
            else f", opening at {at}"
        )
    return "passes", says


def _tolerant(physics: Physics) -> str:
    """The fastest marked shutter that tolerates the jitter, in words."""
    shutter_s = tolerant_s(physics)
    if shutter_s is None:
        return "no shutter would do"
    return f"{format_shutter(shutter_s)} would do"


def tolerant_s(physics: Physics) -> float | None:
    """The fastest slower mark [s] at which a frame that opens at once surely catches the light; None: none does."""
    scene = physics.scene
    for shutter_s in sorted(SHUTTERS_S):
        if shutter_s <= scene.exposure.shutter_s:
            continue
        exposure = scene.exposure.model_copy(update={"shutter_s": shutter_s})
        slower = Physics(scene.model_copy(update={"exposure": exposure}))
        if not _misses(slower) and _most_dark(slower) <= constants.DARK_FRAMES:
            return shutter_s
    return None


def _misses(physics: Physics) -> bool:
    """Whether an opening that a person has set loses light that it could have."""
    captured = float(physics.curves.by_row.max())
    set_by_hand = physics.scene.exposure.offset_s is not None
    return set_by_hand and captured < physics.best_possible_share * 2**-_TENTH


def _most_dark(physics: Physics) -> float:
    """Share of dark frames, however far off the time from contact to light is for the whole shoot [0 … 1]."""
    doubt, best = physics.scene.trigger.contact_doubt_s, physics.best_possible_share
    return max(physics.frames(off).darker_than(best) for off in (-doubt, 0.0, doubt))


def _train(physics: Physics) -> Margin:
    # One strobe without the train stays dark in all of the picture, which no average shows.
    left_out = [lit.light.name for lit in physics.lights if not lit.fires]
    loss = physics.hss_loss_stops
    formula = "−log2((T_c + t_s) / t_s) − own loss"
    working: list[Step] = [
        step("HSS", None if loss is None else -loss, "stops", formula, _ROWS)
    ]
    if left_out:
        return margin(
            "sync", None, "stops", "fails", f"no HSS: {', '.join(left_out)}", working
        )
    if loss is None:
        if physics.on_part:
            unknown = TRAVEL_UNKNOWN
        else:
            unknown = "no light on the moving part"
        return margin("sync", None, "stops", "unknown", unknown, working)
    return margin(
        "sync", None, "stops", "passes", "even rows, by HSS", working, figure=-loss
    )


def _burning_down(physics: Physics) -> Margin:
    """How even the rows are that a long pulse lights on its way down: judged from the brightest to the darkest."""
    curves, opening = physics.curves, physics.curves.opening
    if physics.travel_s is None or not physics.on_part:
        if physics.on_part:
            unknown = TRAVEL_UNKNOWN
        else:
            unknown = "no light on the moving part"
        return margin("sync", None, "stops", "unknown", unknown, [])
    fall = curves.fall_stops
    value = constants.EVEN_STOPS - fall
    # Only shorter pulses make rows less even, so the doubt has one side.
    doubt = _fall_if_shorter(physics) - fall
    asked = format_stops(constants.EVEN_STOPS, signed=False)
    working = [
        step(
            "opening",
            opening.offset_s,
            "s",
            "of the first row, after the flash begins",
            _ROWS,
        ),
        step(
            "T_c",
            opening.travel_s,
            "s",
            "curtain travel or readout",
            constants.SOURCE_DEFINITION,
        ),
        step("fall", -fall, "stops", "brightest row to darkest row", _ROWS),
        step("sync", value, "stops", f"{asked} − fall", _ROWS),
        step(
            "doubt",
            doubt,
            "stops",
            "pulses as short as they may be",
            constants.SOURCE_MEMORY,
        ),
    ]
    says = f"rows {format_stops(fall, signed=False)} stops apart, {asked} is even"
    state = state_of(value, doubt)
    # Where the light jumps about, the rows of most frames are further apart than those of the usual one.
    uneven = float(np.mean(physics.frames().fall_stops > constants.EVEN_STOPS + 1e-9))
    if state != "fails" and uneven > constants.DARK_FRAMES:
        state = "fails"
        says = f"rows uneven in {format_percent(uneven)} of frames, by the radio"
        if physics.scene.trigger.contact_jitter_s is None:
            state, says = "unknown", _JITTER_UNKNOWN
    return margin("sync", value, "stops", state, says, working, doubt)


def _fall_if_shorter(physics: Physics) -> float:
    """The fall from row to row with every pulse as short as its doubt allows [stops].

    A pulse half as long is met by the same pulse and curtains that take twice as long.
    """
    slower = 2 ** max(lit.known.doubt_stops for lit in physics.on_part)
    opening, flashes = physics.curves.opening, physics.flashes
    stretched = Opening(opening.travel_s * slower, opening.shutter_s * slower)
    offset = best_offset_s(stretched, flashes)
    placed = Opening(stretched.travel_s, stretched.shutter_s, offset)
    return max(RowCurves(placed, flashes).fall_stops, physics.curves.fall_stops)
