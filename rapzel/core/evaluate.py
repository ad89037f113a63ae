"""The one door of the core: a scene document in, its evaluation out."""

import math
from collections.abc import Mapping
from typing import Any

from rapzel.core import framing, light, margins, shutter
from rapzel.core.evaluation import (
    Evaluation,
    FrameFacts,
    LagFact,
    LightResult,
    PaceFacts,
    ShutterFacts,
    TimingFacts,
)
from rapzel.core.plausible import read_possible_scene
from rapzel.core.scene import Scene
from rapzel.core.setup import Lit, Setup
from rapzel.core.units import format_number, format_shutter
from rapzel.core.working import least_certain

_ENLARGED = 1.5  # a limb drawn this much larger than the body looks swollen; common practice


def _light_result(setup: Setup, lit: Lit) -> LightResult:
    return LightResult(
        name=lit.light.name,
        t05_s=lit.known.t05_s,
        t01_s=lit.known.t01_s,
        light_span_s=lit.known.light_span_s,
        provenance=lit.provenance,
        smear_px=setup.frame.smear_px(lit.stopping_s),
        flash_offset_stops=setup.offset_stops(lit.n_squared),
        share=setup.share(lit),
        basis=lit.known.basis,
        stopping_s=lit.stopping_s,
    )


def _shutter_facts(setup: Setup) -> ShutterFacts:
    result = setup.shutter
    continuous = setup.scene.exposure.method in ("hss", "ambient")
    skew = setup.frame.image_speed_m_s * shutter.travel_s(setup.scene) / setup.frame.pixel_pitch_m
    return ShutterFacts(
        worst_row_loss_stops=result.worst_row_loss_stops,
        dark_share=result.dark_share,
        fastest_safe_shutter_s=result.fastest_safe_s,
        hss_loss_stops=margins.hss_loss_stops(setup),
        skew_px=skew if continuous else None,
        best_row_loss_stops=result.best_row_loss_stops,
        open_window_s=result.open_window_s,
        offset_s=result.offset_s,
    )


def _timing_facts(setup: Setup) -> TimingFacts:
    result = setup.timing
    return TimingFacts(
        flash_after_event_s=result.flash_after_event_s,
        jitter_s=result.jitter_s,
        needed_delay_s=result.needed_delay_s,
        position_sd_m=result.position_sd_m,
        share_in_frame=result.share_in_frame,
        share_in_focus=result.share_in_focus,
        share_in_window=result.share_in_window,
        offset_m=result.offset_m,
        too_late_s=result.too_late_s,
        lags=[LagFact(name=lag.name, lag_s=lag.lag_s, jitter_s=lag.jitter_s) for lag in result.lags],
    )


def _warnings(setup: Setup) -> list[str]:
    scene, found = setup.scene, []
    for one in scene.lights:
        near = light.near_source_warning(one)
        if near:
            found.append(near)
    if setup.frame.enlargement > _ENLARGED:
        times = format_number(setup.frame.enlargement, 2)
        found.append(f"The nearest part is drawn {times} times larger than the body, and smears by as much more.")
    exposure, camera = scene.exposure, scene.camera
    above_sync = exposure.shutter_s < camera.sync_speed_s * 0.98
    if exposure.method == "pulse" and camera.shutter == "focal_plane" and above_sync and scene.lights:
        speed = format_shutter(camera.sync_speed_s)
        found.append(f"With HSS off many bodies silently fall back to {speed}: check the shutter in the file.")
    if setup.frame.towards_decides:
        found.append("The approach towards the camera smears more than the movement across.")
    return found


def evaluate_setup(setup: Setup) -> Evaluation:
    """The evaluation of a scene whose physics has been worked out already."""
    frame, lit_s = setup.frame, setup.stopping_s
    found = [margin(setup) for margin in margins.MARGINS]
    return Evaluation(
        freeze_limit_s=frame.limit_s if math.isfinite(frame.limit_s) else None,
        magnification=frame.magnification,
        speed_m_s=setup.speed[0],
        speed_across_m_s=frame.speed_across_m_s,
        lights=[_light_result(setup, lit) for lit in setup.lights],
        flash_offset_stops=setup.flash_offset_stops,
        ambient_offset_stops=setup.ambient_offset_stops,
        ghost_margin_stops=setup.ghost_margin_stops,
        smear_px=None if lit_s is None else frame.smear_px(lit_s),
        ambient_smear_px=frame.smear_px(setup.scene.exposure.shutter_s),
        stopping_s=lit_s,
        shutter=_shutter_facts(setup),
        timing=_timing_facts(setup),
        pace=PaceFacts(
            sustained_fps=setup.pace.sustained_fps,
            asked_fps=setup.pace.asked_fps,
            frames_before_short=setup.pace.frames_before_short,
        ),
        framing=FrameFacts(**framing.frame_facts(frame)),
        margins=found,
        provenance=least_certain(lit.provenance for lit in setup.lights),
        sentence=margins.sentence(setup, found),
        warnings=_warnings(setup),
    )


def evaluate(scene: Mapping[str, Any] | Scene) -> Evaluation:
    """Whether the motion freezes, is bright enough, and when the light comes: the answer to one scene document.

    Pure: the same document gives the same answer. Raises DocumentError with the JSON path and the reason of
    everything that is malformed or physically impossible. See `Evaluation` for units and meanings.
    """
    return evaluate_setup(Setup(read_possible_scene(scene)))
