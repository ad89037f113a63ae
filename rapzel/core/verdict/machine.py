"""The margins of sync and pace: does every row see the light, do lights and shutter keep up (science §7, §10)."""

import math

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.physics import Physics
from rapzel.core.physics.pace import LONGEST_BURST
from rapzel.core.shared import constants
from rapzel.core.shared.units import (
    format_number,
    format_percent,
    format_shutter,
    format_stops,
    format_time,
)
from rapzel.core.shared.working import Step, step
from rapzel.core.shutter.curve import RowCurves, best_offset_s
from rapzel.core.shutter.rows import Opening
from rapzel.core.verdict.exposed import TRAVEL_UNKNOWN
from rapzel.core.verdict.margin import listed, margin, state_of

_ROWS = "row model"
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
    shutter, safe, curves = (
        physics.scene.exposure.shutter_s,
        physics.fastest_safe_s or 0.0,
        physics.curves,
    )
    slack_ms = (shutter - safe) * 1000
    # A pulse may be longer than told, the curtains slower, the radio later: each independently.
    longer = max((physics.pessimistic_safe_s or safe) - safe, 0.0)
    travel_sd, jitter = (
        physics.scene.camera.curtain_travel_sd_s,
        physics.scene.trigger.radio_jitter_s,
    )
    doubt_ms = math.hypot(longer, travel_sd or 0.0, jitter) * 1000
    known = physics.travel_s is not None
    if known:
        travel = "curtain travel or readout"
    else:
        travel = "not known; at most the sync speed"
    working = [
        step("T_c", physics.assumed_travel_s, "s", travel, constants.SOURCE_DEFINITION),
        step(
            "L",
            physics.scene.trigger.contact_to_light_s,
            "s",
            "trigger latency",
            constants.SOURCE_DEFINITION,
        ),
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
            "pulses as long as they may be, the travel's own, and the radios' jitter",
            constants.SOURCE_MEMORY,
        ),
    ]
    state = state_of(slack_ms, doubt_ms)
    # By the longest travel that the sync speed allows: if that is safe, the real one is; else
    # nothing is known.
    if not known and state != "passes":
        return margin("sync", None, "ms", "unknown", TRAVEL_UNKNOWN, working)
    if state == "passes":
        says = f"{format_shutter(shutter)} is safe"
    elif state == "unsure":
        says = f"{format_shutter(shutter)} is probably safe"
    elif curves.dark_share > 0:
        says = f"dark over {format_percent(curves.dark_share)}"
    else:
        says = f"side {format_stops(-curves.worst_loss_stops)} stops"
    return margin("sync", slack_ms, "ms", state, says, working, doubt_ms)


def _at_once(physics: Physics) -> Margin:
    """A whole frame that opens at once cuts every row alike: light lost, counted in the exposure, and no band."""
    curves, scene = physics.curves, physics.scene
    captured = float(curves.by_row.max())
    lost = curves.best_loss_stops
    placed = scene.camera.shutter == "global"
    at = format_time(curves.opening.offset_s)
    working = [
        step("opening", curves.opening.offset_s, "s", "after the contact", _ROWS),
        step("captured", captured, "", "∫ of the light inside the opening", _ROWS),
        step("sync", -lost, "stops", "log2(captured)", _ROWS),
    ]
    best = physics.best_possible_share
    state: State = "passes"
    says = f"keeps {format_percent(captured)} of the light"
    if placed:
        says += (
            f", best opening at {at}"
            if scene.exposure.offset_s is None
            else f", opening at {at}"
        )
    # Judged against the best that this opening could do: a leaf shutter never keeps all of a long
    # pulse.
    if captured < best * 2**-_TENTH or captured < 2.0**-constants.DARKEST_STOPS:
        state = "fails"
        if placed:
            says = f"opening at {at} misses the light"
        else:
            says = "closed again before the light"
    return margin("sync", -lost, "stops", state, says, working, 0.0)


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


def pace(physics: Physics) -> Margin:
    """Frames a second that lights and shutter sustain, above what is asked."""
    result = physics.pace
    if result.unknown:
        says = f"recycle of {listed(list(result.unknown))} not known: time it, ready to ready"
        return margin("pace", None, "frames/s", "unknown", says, [])
    if physics.method.flashes and not physics.scene.lights:
        return margin("pace", None, "frames/s", "unknown", "no light yet", [])
    assert result.sustained_fps is not None, "known where nothing is unknown"
    formula = f"1 / the longest of recycle, exposure and drive, {result.slowest}"
    working = [
        step("sustained", result.sustained_fps, "1/s", formula, "reservoir model")
    ]
    if result.bears_fps is not None:
        heat = "pops a minute at full power / power"
        working.append(
            step("heat", result.bears_fps, "1/s", heat, "the strobe's own figure")
        )
    if result.drives.says:
        working.append(
            step("drive", None, "", result.drives.says, "the camera's table")
        )
    shown = {"figure": result.sustained_fps}
    if result.asked_fps is None:
        says = f"{format_time(1 / result.sustained_fps)} apart, by {result.slowest}"
        return margin("pace", None, "frames/s", "passes", says, working, **shown)
    value = result.sustained_fps - result.asked_fps
    # A rate that is asked for as it is shown is held: nobody counts the last half a percent of a frame.
    held = value >= -0.005 * result.asked_fps
    asked = format_number(result.asked_fps, 2)
    if held:
        return margin(
            "pace",
            max(value, 0.0),
            "frames/s",
            "passes",
            f"{asked} asked",
            working,
            0.0,
            **shown,
        )
    # Lights that cannot keep up for ever may keep up for the burst that is wanted.
    run = result.frames_before_short
    if _burst_holds(physics, run):
        spare = float((run or LONGEST_BURST) - (physics.scene.exposure.burst or 0))
        says = f"{asked} asked, holds {'longer' if run is None else run} frames"
        return margin("pace", spare, "frames", "passes", says, working, 0.0, **shown)
    says = f"{asked} asked, {result.slowest} allows {format_number(result.sustained_fps, 3)}"
    if result.drives.says and result.slowest.startswith("drive"):
        says = f"{asked} asked; {result.drives.says}"
    if run:
        says = f"{asked} asked, short from frame {run + 1}"
    return margin("pace", value, "frames/s", "fails", says, working, 0.0, **shown)


def _burst_holds(physics: Physics, run: int | None) -> bool:
    """Whether a burst of the wanted length is over before a light is short, at a rate that the shutter keeps."""
    exposure, frame_s = physics.scene.exposure, physics.pace.frame_s
    if exposure.burst is None or exposure.frames_per_s is None:
        return False
    # However full the charge, the body has to make so many frames a second.
    if 1 / frame_s < exposure.frames_per_s * 0.995:
        return False
    return run is None or run >= exposure.burst
