"""The one door of the core: a scene document in, its evaluation out."""

import math
from collections.abc import Mapping
from typing import Any

from rapzel.core.document.evaluation import (
    Evaluation,
    FrameFacts,
    LagFact,
    LightResult,
    PaceFacts,
    ShutterFacts,
    TimingFacts,
)
from rapzel.core.document.possible import read_possible_scene
from rapzel.core.document.scene import Scene
from rapzel.core.frame import framing
from rapzel.core.light import amount
from rapzel.core.physics import Lit, Physics
from rapzel.core.shared.units import format_number, format_shutter
from rapzel.core.shared.working import least_certain
from rapzel.core.shutter import row_model
from rapzel.core.verdict import margins

_ENLARGED = 1.5  # a limb drawn this much larger than the body looks swollen; common practice


def _light_result(physics: Physics, lit: Lit) -> LightResult:
    return LightResult(
        name=lit.light.name,
        t05_s=lit.known.t05_s,
        t01_s=lit.known.t01_s,
        light_span_s=lit.known.light_span_s,
        provenance=lit.provenance,
        smear_px=physics.frame.smear_px(lit.stopping_s),
        flash_offset_stops=physics.offset_stops(lit.n_squared),
        share=physics.share(lit),
        basis=lit.known.basis,
        stopping_s=lit.stopping_s,
    )


def _shutter_facts(physics: Physics) -> ShutterFacts:
    result = physics.shutter
    continuous = physics.scene.exposure.method in ("hss", "ambient")
    skew = physics.frame.image_speed_m_s * row_model.travel_s(physics.scene) / physics.frame.pixel_pitch_m
    return ShutterFacts(
        worst_row_loss_stops=result.worst_row_loss_stops,
        dark_share=result.dark_share,
        fastest_safe_shutter_s=result.fastest_safe_s,
        hss_loss_stops=margins.hss_loss_stops(physics),
        skew_px=skew if continuous else None,
        best_row_loss_stops=result.best_row_loss_stops,
        open_window_s=result.open_window_s,
        offset_s=result.offset_s,
    )


def _timing_facts(physics: Physics) -> TimingFacts:
    result = physics.timing
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


def _warnings(physics: Physics) -> list[str]:
    scene, found = physics.scene, []
    for one in scene.lights:
        near = amount.near_source_warning(one)
        if near:
            found.append(near)
    if physics.frame.enlargement > _ENLARGED:
        times = format_number(physics.frame.enlargement, 2)
        found.append(f"The nearest part is drawn {times} times larger than the body, and smears by as much more.")
    exposure, camera = scene.exposure, scene.camera
    above_sync = exposure.shutter_s < camera.sync_speed_s * 0.98
    if exposure.method == "pulse" and camera.shutter == "focal_plane" and above_sync and scene.lights:
        speed = format_shutter(camera.sync_speed_s)
        found.append(f"With HSS off many bodies silently fall back to {speed}: check the shutter in the file.")
    if physics.frame.towards_decides:
        found.append("The approach towards the camera smears more than the movement across.")
    return found


def evaluate_setup(physics: Physics) -> Evaluation:
    """The evaluation of a scene whose physics has been worked out already."""
    frame, lit_s = physics.frame, physics.stopping_s
    found = [margin(physics) for margin in margins.MARGINS]
    return Evaluation(
        freeze_limit_s=frame.limit_s if math.isfinite(frame.limit_s) else None,
        magnification=frame.magnification,
        speed_m_s=physics.speed[0],
        speed_across_m_s=frame.speed_across_m_s,
        lights=[_light_result(physics, lit) for lit in physics.lights],
        flash_offset_stops=physics.flash_offset_stops,
        ambient_offset_stops=physics.ambient_offset_stops,
        ghost_margin_stops=physics.ghost_margin_stops,
        smear_px=None if lit_s is None else frame.smear_px(lit_s),
        ambient_smear_px=frame.smear_px(physics.scene.exposure.shutter_s),
        stopping_s=lit_s,
        shutter=_shutter_facts(physics),
        timing=_timing_facts(physics),
        pace=PaceFacts(
            sustained_fps=physics.pace.sustained_fps,
            asked_fps=physics.pace.asked_fps,
            frames_before_short=physics.pace.frames_before_short,
        ),
        framing=FrameFacts(**framing.frame_facts(frame)),
        margins=found,
        provenance=least_certain(lit.provenance for lit in physics.lights),
        sentence=margins.sentence(physics, found),
        warnings=_warnings(physics),
    )


def evaluate(scene: Mapping[str, Any] | Scene) -> Evaluation:
    """Whether the motion freezes, is bright enough, and when the light comes: the answer to one scene document.

    Pure: the same document gives the same answer. Raises DocumentError with the JSON path and the reason of
    everything that is malformed or physically impossible. See `Evaluation` for units and meanings.
    """
    return evaluate_setup(Physics(read_possible_scene(scene)))
