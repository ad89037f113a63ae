"""A beam across the subject's way: how many of its triggers land, where it should stand, what of it is useless."""

import math
from typing import Any

import numpy as np

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.motion.trajectory import Axes
from rapzel.core.physics import Physics
from rapzel.core.physics.passing import Passing, beam_of
from rapzel.core.tools.beam_asked import (
    BeamAnswered,
    BeamAsked,
    Closed,
    beam_line,
    passes_of,
    window_of,
)
from rapzel.core.tools.beam_words import lists, says
from rapzel.core.tools.tool import Tool
from rapzel.core.trigger.beams import (
    ClosedForm,
    closed_form,
    simulate,
    useless_share,
)
from rapzel.core.trigger.tries import Window

_HEAT_ZONE_M = 1.0  # that a passive heat sensor covers along the way (memory)
_HEAT_LAG_S = 0.2  # that it takes to answer (memory)


def solve(asked: BeamAsked) -> BeamAnswered:
    """Shares by simulation and in closed form; what is not known leaves them out."""
    right = passes_of(asked, 0.0, 0.0).time_to_s(asked.upstream_m)
    known = asked.lag_s is not None and asked.jitter_s is not None
    if not known:
        unknown: dict[str, Any] = dict.fromkeys(BeamAnswered.model_fields)
        return BeamAnswered(
            **unknown | {"right_lag_s": right if math.isfinite(right) else None}
        )
    assert asked.lag_s is not None, "held by known"
    assert asked.jitter_s is not None, "held by known"
    passes, window, line = (
        passes_of(asked, asked.lag_s, asked.jitter_s),
        window_of(asked),
        beam_line(asked),
    )
    landed = simulate(passes, window, line, asked.tries)
    if line is None:
        useless = None
    else:
        useless = useless_share(passes, window, line)
    # The way to the light is where the beam belongs upstream: the same figure twice, by two names.
    gone = float(passes.gone_m(asked.lag_s))
    # A second way to the same shares: where the two differ, the law is not normal or the beam too
    # short.
    closed = closed_form(passes, window, line)
    return BeamAnswered(
        share_in_frame=landed.in_frame,
        share_in_focus=landed.in_focus,
        share_in_place=landed.in_place,
        share=landed.joint,
        share_framed_and_sharp=landed.framed_and_sharp,
        share_noticed=landed.noticed,
        standard_error=landed.error_share,
        along_sd_m=landed.along_sd_m,
        travel_m=gone,
        upstream_m=gone,
        right_lag_s=right if math.isfinite(right) else None,
        focus_m=asked.focus_m - (gone - asked.upstream_m) * float(passes.way.towards),
        useless_beam_share=useless,
        useless_beam_m=None
        if useless is None or asked.length_m is None
        else useless * asked.length_m,
        closed_form=_closed(closed),
        heat_share=_by_heat(asked, window),
    )


def _closed(form: ClosedForm) -> Closed:
    return Closed(
        share_in_frame=form.in_frame,
        share_in_focus=form.in_focus,
        share=form.joint,
        along_sd_m=form.along_sd_m,
        past_place_m=form.along_mean_m,
    )


def _by_heat(asked: BeamAsked, window: Window) -> float:
    """The share of a heat sensor's triggers that land, however well it is aimed: its zone spreads the place."""
    gone = float(passes_of(asked, _HEAT_LAG_S, 0.0).gone_m(_HEAT_LAG_S))
    # Aimed as well as it can be: what is left is its width and slowness.
    wide = asked.model_copy(
        update={"zone_m": _HEAT_ZONE_M, "upstream_m": max(gone, 0.0)}
    )
    passes = passes_of(wide, _HEAT_LAG_S, 0.05)
    return simulate(passes, window, None, min(asked.tries, 20_000)).joint


def _angle_deg(way: Axes) -> float:
    """Direction on the level: 90 across, 0 at the camera; 90 for what only rises or falls."""
    if math.hypot(float(way.across), float(way.towards)) < 1e-6:
        return 90.0
    return math.degrees(math.atan2(abs(float(way.across)), float(way.towards)))


def from_scene(scene: Scene, evaluation: Evaluation) -> dict[str, Any]:
    """A scene's passes, chain and frame; without a beam link the beam keeps what it begins with."""
    physics, beam = Physics(scene), beam_of(scene)
    passing, timing = Passing(scene, physics.trajectory), physics.timing
    way = passing.way
    if beam:
        upstream = beam.distance_m
    else:
        upstream = 0.0
    speed = max(float(physics.trajectory.speed_m_s(0.0)), 0.001)
    wanted, subject = timing.wanted_delay_s or 0.0, scene.subject
    given: dict[str, Any] = {
        "speed_m_s": speed,
        "speed_sd_m_s": scene.motion.stated_sd_m_s,
        # The even acceleration that covers the same way in the same time.
        "gains_m_s2": 2 * (upstream - speed * wanted) / wanted**2
        if wanted > 0 and scene.motion.bent
        else 0.0,
        "climb_deg": math.degrees(math.asin(float(np.clip(way.up, -1, 1)))),
        "angle_deg": _angle_deg(way),
        "lag_s": timing.flash_after_event_s,
        "jitter_s": timing.jitter_s,
        "upstream_m": upstream,
        "aside_sd_m": subject.aside_sd_m or 0.0,
        "above_sd_m": subject.above_sd_m or 0.0,
        "ways_shape": subject.ways_shape,
        "thick_m": subject.thick_m,
        "extent_m": subject.extent_m,
        "place_m": scene.moment.place_m,
        "field_width_m": evaluation.framing.field_width_m,
        "field_height_m": evaluation.framing.field_height_m,
        "focus_m": scene.lens.subject_distance_m,
        "near_m": evaluation.framing.depth_near_m,
        "far_m": evaluation.framing.depth_far_m,
    }
    if beam is not None:
        given |= {
            name: getattr(beam, name)
            for name in ("length_m", "turned_deg", "offset_m", "zone_m")
        }
        given["lies"] = beam.lies or "natural"
    return given


def table(asked: BeamAsked) -> tuple[list[str], list[list[float]]]:
    """Shares [0 … 1] in closed form over where the beam stands [m]: from the place to twice as far as is right."""
    header = ["upstream_m", "share_in_frame", "share_in_focus", "share"]
    lag, jitter = asked.lag_s, asked.jitter_s
    if lag is None or jitter is None:
        return header, []
    window, line = window_of(asked), beam_line(asked)
    reach = max(
        2 * float(passes_of(asked, lag, jitter).gone_m(lag)),
        2 * asked.upstream_m,
        asked.field_width_m,
    )
    rows = []
    for upstream in map(float, np.linspace(0, reach, 41)):
        passes = passes_of(
            asked.model_copy(update={"upstream_m": upstream}), lag, jitter
        )
        form = closed_form(passes, window, line)
        rows.append([upstream, form.in_frame, form.in_focus, form.joint])
    return header, rows


def lacks(scene: Scene) -> str:
    """What a scene lacks."""
    if beam_of(scene):
        return ""
    return "this scene has no beam: add a link of the kind beam"


BEAM = Tool(
    slug="beam",
    title="Beam",
    purpose="The subject cuts a beam: how many of the triggers land, and where should it stand?",
    asks=BeamAsked,
    answers=BeamAnswered,
    beginning={
        "speed_m_s": 8.0,
        "speed_sd_m_s": 0.8,
        "lag_s": 0.04,
        "jitter_s": 0.002,
        "upstream_m": 0.3,
        "aside_sd_m": 0.1,
        "length_m": 1.2,
        "field_width_m": 1.2,
        "field_height_m": 0.8,
        "focus_m": 3.0,
        "near_m": 2.85,
        "far_m": 3.17,
    },
    solve=solve,
    says=says,
    from_scene=from_scene,
    table=table,
    lists=lists,
    lacks=lacks,
)
