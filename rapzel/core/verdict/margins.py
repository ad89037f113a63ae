"""The six margins: signed, zero is the line between works and does not, each with its reason and its working."""

import math
from collections.abc import Callable
from typing import Any

from rapzel.core.document.evaluation import Margin
from rapzel.core.motion.presets import RULE_OF_THUMB
from rapzel.core.physics import Physics
from rapzel.core.shared import constants
from rapzel.core.shared.units import (
    format_f_number,
    format_number,
    format_percent,
    format_shutter,
    format_stops,
    format_time,
)
from rapzel.core.shared.working import Step, step
from rapzel.core.trigger import success

ASKED_SHARE = 0.5  # of tries that should land: every other one; common practice with an athlete one knows


def _margin(
    name: Any, value: float | None, unit: str, passes: bool, says: str, working: list[Step], **shown: Any
) -> Margin:
    figure, figure_unit = shown.get("figure", value), shown.get("figure_unit", unit)
    return Margin(
        name=name,
        value=value,
        unit=unit,
        passes=passes,
        says=says,
        figure=figure,
        figure_unit=figure_unit,
        working=working,
    )


def freeze(physics: Physics) -> Margin:
    """log2(freeze limit / time that stops the motion) [stops]."""
    frame, lit_s = physics.frame, physics.stopping_s
    working = [physics.speed[1], *frame.working]
    if lit_s is None:
        return _margin("freeze", None, "stops", False, "no light stops the motion yet", working)
    slowest = physics.slowest
    by_shutter = physics.scene.exposure.method in ("hss", "ambient")
    name = "t_s" if by_shutter or slowest is None else f"t.1 {slowest.light.name}".strip()
    known = None if by_shutter or slowest is None else slowest.provenance
    source = constants.SOURCE_DEFINITION if by_shutter else constants.SOURCE_ISO_2827
    basis = "the shutter" if by_shutter or slowest is None else slowest.known.basis
    working.append(step(name, lit_s, "s", basis, source, known))
    if not math.isfinite(frame.limit_s):
        return _margin("freeze", None, "stops", True, "nothing moves", working)
    value = math.log2(frame.limit_s / lit_s)
    working.append(step("t_freeze", frame.limit_s, "s", "c / v image", constants.SOURCE_DEFINITION))
    working.append(step("rule of thumb", None, "", RULE_OF_THUMB, constants.SOURCE_PRACTICE))
    working.append(step("freeze", value, "stops", f"log2(t_freeze / {name})", constants.SOURCE_DEFINITION, known))
    allowed = frame.circle_m / frame.pixel_pitch_m
    says = f"{format_number(frame.smear_px(lit_s), 2)} px of {format_number(allowed, 2)}"
    return _margin("freeze", value, "stops", value >= 0, says, working)


def light(physics: Physics) -> Margin:
    """Exposure of the moving part against correct [stops]."""
    working = [line for lit in physics.on_part for line in lit.working]
    value, exposure = physics.exposed_stops, physics.scene.exposure
    if value is None:
        return _margin("light", None, "stops", False, "no light reaches the subject", working)
    formula = "log2(Σ N² / N²), minus ND and row loss" if physics.on_part else "EV100 + log2(ISO/100) − log2(N²/t) − ND"
    known = None if not physics.on_part else _doubt(physics)
    working.append(step("light", value, "stops", formula, constants.SOURCE_ISO_1230, known))
    wants = format_f_number(exposure.f_number * 2 ** (value / 2))
    says = f"{format_f_number(exposure.f_number)} wants {wants}"
    return _margin("light", value, "stops", value >= 0, says, working)


def _doubt(physics: Physics) -> Any:
    # A guide number is a maker's claim until it is metered.
    return "claimed" if physics.on_part else None


def ghost(physics: Physics) -> Margin:
    """Stops by which the room is further under the flash than the clear threshold asks."""
    room = physics.scene.ambient
    if physics.scene.exposure.method in ("hss", "ambient"):
        return _margin("ghost", None, "stops", True, "shutter stops it too", [])
    under, ev = physics.ghost_margin_stops, physics.ev100[1]
    if ev is None:
        return _margin("ghost", None, "stops", True, "a dark room leaves no ghost", [])
    working = [
        ev,
        step("ambient", physics.ambient_offset_stops, "stops", "EV100 + log2(ISO/100) − log2(N²/t) − ND", "definition"),
    ]
    if under is None:
        return _margin("ghost", None, "stops", False, "no flash to outshine the room", working)
    value = under - room.clear_stops
    working.append(
        step("flash", physics.flash_offset_stops, "stops", "best-lit row", constants.SOURCE_ISO_1230, "claimed")
    )
    working.append(step("under", under, "stops", "flash − ambient", constants.SOURCE_DEFINITION))
    threshold = f"under − {room.clear_stops:g}, beyond 5–6 stops no trail is seen"
    working.append(step("ghost", value, "stops", threshold, constants.SOURCE_PRACTICE))
    says = f"{format_stops(under, signed=False)} under, {format_number(room.clear_stops)} asked"
    return _margin("ghost", value, "stops", value >= 0, says, working)


def sync(physics: Physics) -> Margin:
    """Slack of the shutter against the fastest that gives every row its light [ms]."""
    scene, result = physics.scene, physics.shutter
    method = scene.exposure.method
    if method == "ambient":
        return _margin("sync", None, "ms", True, "no flash to synchronise", [])
    if method == "open_shutter":
        return _margin("sync", None, "ms", True, "shutter stands open", [])
    if method == "hss":
        return _hss_sync(physics)
    if result.fastest_safe_s is None:
        return _margin("sync", None, "ms", False, "no light to synchronise", [])
    t_s = scene.exposure.shutter_s
    slack_ms = (t_s - result.fastest_safe_s) * 1000
    missed = result.worst_row_loss_stops > 0.1 + 1e-6
    working = [
        step("T_c", setup_travel(physics), "s", "curtain travel or readout", constants.SOURCE_DEFINITION),
        step("L", scene.trigger.latency_s, "s", "trigger latency", constants.SOURCE_DEFINITION),
        step("t_safe", result.fastest_safe_s, "s", "T_c + L + time of 93.3 % of the light", "row model"),
        step(
            "worst row", -result.worst_row_loss_stops, "stops", "light inside the opening of the worst row", "row model"
        ),
        step("sync", slack_ms, "ms", "t_s − t_safe", "row model"),
    ]
    if missed and slack_ms >= 0:  # a global shutter that opens at the wrong moment
        lost = 0.1 - result.worst_row_loss_stops
        return _margin("sync", lost, "stops", False, "the opening misses the light", working)
    if result.dark_share > 0:
        says = f"dark over {format_percent(result.dark_share)}"
    elif slack_ms < 0:
        says = f"side {format_stops(-result.worst_row_loss_stops)} stops"
    else:
        says = f"{format_shutter(t_s)} is safe"
    return _margin("sync", slack_ms, "ms", slack_ms >= 0, says, working)


def setup_travel(physics: Physics) -> float:
    """T_c of the scene [s], as the row model uses it."""
    return physics.scene.exposure.shutter_s - physics.shutter.open_window_s


def _hss_sync(physics: Physics) -> Margin:
    left_out = [lit.light.name for lit in physics.lights if not lit.fires]
    loss = hss_loss_stops(physics)
    working = [
        step("HSS", None if loss is None else -loss, "stops", "−log2((T_c + t_s) / t_s) − own loss", "row model")
    ]
    if left_out:
        names = ", ".join(left_out)
        return _margin("sync", None, "stops", False, f"no HSS: {names}", working)
    if loss is None:
        return _margin("sync", None, "stops", False, "no light to synchronise", working)
    return _margin("sync", None, "stops", True, "even rows, by HSS", working, figure=-loss)


def hss_loss_stops(physics: Physics) -> float | None:
    """What HSS costs all lights together [stops, positive]; None where it is not used."""
    if physics.scene.exposure.method != "hss" or not physics.on_part:
        return None
    bare = sum(lit.n_squared * 2**lit.shutter_loss_stops for lit in physics.on_part)
    return math.log2(bare / physics.n_squared)


def timing(physics: Physics) -> Margin:
    """Share of tries that land in the frame, in focus and slow enough, above the asked share."""
    result = physics.timing
    value = result.share - ASKED_SHARE
    working = [
        step(lag.name, lag.lag_s, "s", f"± {format_time(lag.jitter_s)}", "as set", lag.provenance)
        for lag in result.lags
    ]
    working += [
        step("t after event", result.flash_after_event_s, "s", "Σ lags + set delay", constants.SOURCE_DEFINITION),
        step("σ_t", result.jitter_s, "s", "√Σσ²", "independent links"),
        step("σ_x", result.position_sd_m, "m", "√((t σ_v)² + (v σ_t)²)", "independent spreads"),
        step("in frame", result.share_in_frame, "", "normal share within the frame", constants.SOURCE_DEFINITION),
        step(
            "in focus", result.share_in_focus, "", "normal share within the depth of field", constants.SOURCE_DEFINITION
        ),
    ]
    if result.share_in_window is not None:
        working.append(step("at the apex", result.share_in_window, "", "|Δt| ≤ v_lim / g", "8192 drawn tries"))
    shown = {"figure": result.share, "figure_unit": "share"}
    if result.too_late_s > 0:
        says = f"late by {format_time(result.too_late_s)}"
    elif result.share_in_window is not None:
        says = f"at the apex ± {format_time(result.jitter_s)}"
    else:
        tries = success.tries_for(result.share)
        says = "hardly ever lands" if tries is None else f"{tries} {'try' if tries == 1 else 'tries'} for 95 %"
    return _margin("timing", value, "share", value >= 0, says, working, **shown)


def pace(physics: Physics) -> Margin:
    """Frames a second that the lights sustain, above what is asked."""
    result = physics.pace
    if physics.scene.exposure.method == "ambient" or not physics.scene.lights:
        return _margin("pace", None, "frames/s", True, "no flash to wait for", [])
    if result.sustained_fps is None:
        return _margin("pace", None, "frames/s", True, "recycle time not known", [])
    recycle = f"1 / (power × full recycle) of {result.slowest or 'the slowest light'}"
    working = [step("sustained", result.sustained_fps, "1/s", recycle, "reservoir model")]
    shown = {"figure": result.sustained_fps}
    if result.asked_fps is None:
        says = f"{format_time(1 / result.sustained_fps)} apart"
        return _margin("pace", None, "frames/s", True, says, working, **shown)
    value = result.sustained_fps - result.asked_fps
    asked = format_number(result.asked_fps)
    run = result.frames_before_short
    says = f"{asked} asked" if value >= 0 or run is None else f"{asked} asked, short from frame {run + 1}"
    return _margin("pace", value, "frames/s", value >= 0, says, working, **shown)


MARGINS: tuple[Callable[[Physics], Margin], ...] = (freeze, light, ghost, sync, timing, pace)


def _good_and_bad(physics: Physics, margins: dict[str, Margin]) -> tuple[list[str], list[str]]:
    good, bad = [], []
    lit_s = physics.stopping_s
    if lit_s is not None and margins["freeze"].value is not None:
        px = format_number(physics.frame.smear_px(lit_s), 2)
        if margins["freeze"]:
            good.append(f"frozen to {px} px")
        else:
            allowed = format_number(physics.frame.circle_m / physics.frame.pixel_pitch_m, 2)
            bad.append(f"smeared over {px} px where {allowed} are allowed")
    elif margins["freeze"]:
        good.append("nothing moves")
    if margins["ghost"].value is not None:
        room = physics.scene.ambient
        clear = margins["ghost"].value >= 0
        visible = (physics.ghost_margin_stops or 0.0) < room.trail_stops
        (good if clear else bad).append("no ghost" if clear else "a visible ghost" if visible else "a faint ghost")
    value = margins["light"].value
    if value is None:
        bad.append("no light on the subject")
    elif value < 0:
        short = format_stops(-value, signed=False)
        bad.append(f"{short} {'stop' if -value <= 1.05 else 'stops'} short of light")
    elif value > 1 / 3:
        good.append(f"{format_stops(value, signed=False)} stops of light to spare")
    else:
        good.append("bright enough")
    for name, words in (
        ("sync", "the shutter clips the light"),
        ("timing", "the light comes at the wrong time"),
        ("pace", "too fast a burst for the lights"),
    ):
        if not margins[name]:
            bad.append(f"{words} ({margins[name].says})")
    return good, bad


def sentence(physics: Physics, margins: list[Margin]) -> str:
    """What a person would say: what holds, then what does not."""
    good, bad = _good_and_bad(physics, {margin.name: margin for margin in margins})
    if not bad:
        text = _listed(good)
    elif not good:
        text = _listed(bad)
    else:
        text = f"{', '.join(good)}, but {_listed(bad)}"
    return f"{text[0].upper()}{text[1:]}."


def _listed(parts: list[str]) -> str:
    return parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}"
