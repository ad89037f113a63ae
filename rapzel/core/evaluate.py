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
    TrailFact,
)
from rapzel.core.document.scene import Scene
from rapzel.core.physics import Lit, Physics
from rapzel.core.physics.framing import frame_facts
from rapzel.core.physics.ratios import against_key_stops, mired_from_key
from rapzel.core.possible import read_possible_scene
from rapzel.core.shared.working import least_certain
from rapzel.core.shutter import rows
from rapzel.core.verdict.margins import MARGINS
from rapzel.core.verdict.sentence import sentence
from rapzel.core.verdict.warnings import warnings_of


def _light_results(physics: Physics) -> list[LightResult]:
    scene = physics.scene
    facts = zip(
        # All three come in the order of the scene's lights.
        physics.lights,
        against_key_stops(scene),
        mired_from_key(scene),
        strict=True,
    )
    return [
        _light_result(physics, lit, against, mired) for lit, against, mired in facts
    ]


def _light_result(
    physics: Physics,
    lit: Lit,
    against_key_stops: float | None,
    mired_from_key: float | None,
) -> LightResult:
    # How long it lights counts: in HSS, and where the room cuts in, that is not its t.1.
    known, lasts = lit.known, physics.time_s(lit)
    return LightResult(
        name=lit.light.name,
        t05_s=known.t05_s,
        t01_s=known.t01_s,
        t01_range_s=known.t01_range_s,
        light_span_s=known.light_span_s,
        provenance=lit.provenance,
        smear_px=physics.frame.smear_px(lasts, physics.centred),
        flash_offset_stops=physics.light_offset_stops(lit),
        share=physics.share(lit),
        basis=known.basis,
        stopping_s=lasts,
        light_provenance=lit.gives,
        light_doubt_stops=lit.light_doubt_stops,
        count=lit.light.count,
        against_key_stops=against_key_stops,
        mired_from_key=mired_from_key,
    )


def _shutter_facts(physics: Physics) -> ShutterFacts:
    curves, frame, travel = physics.curves, physics.frame, physics.travel_s
    if travel is None:
        skew = None
    else:
        skew = rows.skew_m(frame.image_speed_m_s, travel) / frame.pixel_pitch_m
    lit = bool(physics.on_part)
    # (without a light on what moves there is nothing to be cut off)
    pulsed = physics.method.pulsed and lit  # only such a pulse can leave a band dark
    cut = lit and (pulsed or physics.method.leads)
    return ShutterFacts(
        # A plateau that lasts as long as the curtains loses no row anything.
        worst_row_loss_stops=curves.worst_loss_stops if cut else 0.0,
        dark_share=curves.dark_share if pulsed else 0.0,
        fastest_safe_shutter_s=physics.fastest_safe_s,
        hss_loss_stops=physics.hss_loss_stops,
        # Where a flash makes the picture all rows are lit at once: only a shutter that freezes skews.
        skew_px=None if physics.method.room_apart else skew,
        best_row_loss_stops=curves.best_loss_stops if cut else 0.0,
        captured_share=float(curves.by_row.max()) if cut else None,
        open_window_s=None
        if travel is None
        else physics.scene.exposure.shutter_s - travel,
        offset_s=curves.opening.offset_s,
    )


def _timing_facts(physics: Physics) -> TimingFacts:
    timing, shares = physics.timing, physics.timing.shares
    width = physics.frame.field_width_m
    return TimingFacts(
        flash_after_event_s=timing.flash_after_event_s,
        jitter_s=timing.jitter_s,
        wanted_s=timing.wanted_delay_s,
        needed_delay_s=timing.needed_delay_s,
        travel_m=timing.travel_m,
        # As a share of the frame: “a third of the picture too far” is what one sees.
        travel_frames=None if timing.travel_m is None else timing.travel_m / width,
        position_sd_m=timing.position_sd_m,
        share_in_frame=None if shares is None else shares.in_frame,
        share_in_focus=None if shares is None else shares.in_focus,
        share_slow_enough=None if shares is None else shares.slow_enough,
        share_in_moment=None if shares is None else shares.in_moment,
        share=timing.share,
        share_low=timing.share_low,
        share_high=timing.share_high,
        judged=timing.judged,
        unknown=list(timing.unknown),
        offset_m=timing.offset_m,
        too_late_s=timing.too_late_s,
        lags=[
            LagFact(
                name=one.name,
                kind=one.kind,
                lag_s=one.lag_s,
                jitter_s=one.jitter_s,
                identity=one.identity,
                uniform=one.uniform,
                provenance=one.provenance,
                doubt_s=one.doubt_s,
            )
            for one in timing.delays
        ],
        share_noticed=None if shares is None else shares.noticed,
        share_heard=None if shares is None else shares.heard,
        metered=timing.metered,
        resolution_s=physics.scene.trigger.resolution_s,
    )


def _pace_facts(physics: Physics) -> PaceFacts:
    pace = physics.pace
    return PaceFacts(
        sustained_fps=pace.sustained_fps,
        asked_fps=pace.asked_fps,
        frames_before_short=pace.frames_before_short,
        unknown=list(pace.unknown),
        bears_fps=pace.bears_fps,
        drive=pace.drives.best.name if pace.drives.best else None,
        blocked_drive=pace.drives.says,
    )


def _speed_across(physics: Physics) -> float:
    # What comes at the camera smears nothing; only the part across and up does.
    velocity = physics.trajectory.velocity_m_s(physics.trajectory.wanted_s)
    return math.hypot(float(velocity.across), float(velocity.up))


def evaluate_physics(physics: Physics) -> Evaluation:
    """The evaluation of a scene whose physics has been worked out already."""
    frame, lasts, limit = physics.frame, physics.stopping_s, physics.limit_s
    # Every row of the table is judged, the ones that hold as well: a tile must be earned.
    margins = [
        kind.judge(physics) for kind in MARGINS.values() if kind.applies(physics)
    ]
    return Evaluation(
        # What stands still needs no limit; JSON has no infinity either.
        freeze_limit_s=limit if math.isfinite(limit) else None,
        magnification=frame.magnification,
        speed_m_s=physics.trajectory.wanted_speed_m_s,
        speed_across_m_s=_speed_across(physics),
        lights=_light_results(physics),
        flash_offset_stops=physics.flash_offset_stops,
        ambient_offset_stops=physics.ambient_offset_stops,
        exposure_offset_stops=physics.exposure_offset_stops,
        clipped_share=physics.clipped_share,
        ghost_margin_stops=physics.ghost_margin_stops,
        smear_px=None if lasts is None else frame.smear_px(lasts, physics.centred),
        diffraction_px=frame.diffraction_px,
        ambient_smear_px=physics.room_trail_px,
        trails=[
            TrailFact(
                of=one.of,
                px=one.px,
                stops=one.stops,
                visible=one.visible,
                faint=one.faint,
            )
            for one in physics.trails
        ],
        stopping_s=lasts,
        shutter=_shutter_facts(physics),
        timing=_timing_facts(physics),
        pace=_pace_facts(physics),
        framing=FrameFacts(**frame_facts(frame)),
        margins=margins,
        # An answer is known as well as the worst known of its lights.
        provenance=least_certain(lit.provenance for lit in physics.lights)
        if physics.lights
        else None,
        sentence=sentence(physics, margins),
        warnings=warnings_of(physics),
    )


def evaluate(scene: Mapping[str, Any] | Scene) -> Evaluation:
    """Whether the motion freezes, is bright enough, and when the light comes: the answer to one scene document.

    Pure: the same document gives the same answer. Raises DocumentError with the JSON path and the reason of
    everything that is malformed or physically impossible. See `Evaluation` for units and meanings.
    """
    return evaluate_physics(Physics(read_possible_scene(scene)))


def evaluation_schema() -> dict[str, Any]:
    """The published JSON Schema of the evaluation (draft 2020-12)."""
    schema = Evaluation.model_json_schema(mode="serialization")
    # The names come from the table, so that a margin more is published by being there.
    schema["$defs"]["Margin"]["properties"]["name"] = {
        "enum": list(MARGINS),
        "title": "Name",
        "type": "string",
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **schema,
        "title": "Rapzel evaluation, version 2",
    }
