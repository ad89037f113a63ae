"""A beam across the subject's way: how many of its triggers land, where it should stand, what of it is useless."""

import math
from typing import Any, Literal

import numpy as np
from pydantic import Field

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.motion.trajectory import Axes
from rapzel.core.physics import Physics
from rapzel.core.physics.passing import Passing, beam_of
from rapzel.core.shared.part import Part, shown
from rapzel.core.shared.units import format_length, format_number, format_percent, format_time
from rapzel.core.tools.tool import Tool, ToolAnswer
from rapzel.core.trigger.beams import ClosedForm, Passes, closed_form, simulate, useless_share
from rapzel.core.trigger.crossing import Line, line_of
from rapzel.core.trigger.tries import Window

_HEAT_ZONE_M = 1.0  # that a passive heat sensor covers along the way (memory)
_HEAT_LAG_S = 0.2  # that it takes to answer (memory)


class BeamAsked(Part):
    """The subject's passes, the beam, the chain behind it, and what the camera sees."""

    speed_m_s: float = shown(..., "Speed at the beam", "speed", ge=0.001, le=1e5)
    speed_sd_m_s: float = shown(0.0, "Spread of speeds", "speed", ge=0, le=1e4)
    gains_m_s2: float = shown(
        0.0, "Gains speed, m/s²", "number", "9.81 falling; 0 steady", ge=-1e5, le=1e5
    )
    angle_deg: float = shown(
        90.0, "Direction", "angle", "90° across, 0° at the camera", ge=0, le=180
    )
    climb_deg: float = shown(0.0, "Climbs", "angle", "−90° falls, 90° rises", ge=-90, le=90)
    lag_s: float | None = shown(
        None, "Beam to light", "duration", "set delay included; empty: not known", ge=0, le=3600
    )
    jitter_s: float | None = shown(
        None, "Its jitter (sd)", "duration", "empty: not known", ge=0, le=3600
    )
    upstream_m: float = shown(0.0, "Beam upstream", "length", "before the place", ge=0, le=1e4)
    aside_sd_m: float = shown(0.0, "Ways spread aside ±", "length", ge=0, le=1e4)
    above_sd_m: float = shown(0.0, "Ways spread up ±", "length", ge=0, le=1e4)
    ways_shape: Literal["normal", "uniform"] = shown(
        "normal",
        "That is",
        "choice",
        choices={"normal": "a standard deviation", "uniform": "half of an even spread"},
    )
    thick_m: float | None = shown(
        None, "Subject cuts with", "length", "square to its way; empty: enough", ge=0, le=1e4
    )
    lies: Literal["natural", "depth", "across", "up"] = shown(
        "natural",
        "The beam lies",
        "choice",
        choices={
            "natural": "as suits the way",
            "depth": "along the optical axis",
            "across": "across the frame",
            "up": "upright",
        },
    )
    length_m: float | None = shown(
        None, "Its length", "length", "or set range; empty: not known", ge=1e-3, le=1e4
    )
    turned_deg: float = shown(0.0, "Turned", "angle", "towards the way", ge=-80, le=80)
    offset_m: float = shown(0.0, "Cut off its middle by", "length", ge=-1e4, le=1e4)
    zone_m: float = shown(0.0, "Wide along the way", "length", ge=0, le=1e4)
    field_width_m: float = shown(..., "Field width", "length", ge=1e-4, le=1e5)
    field_height_m: float = shown(..., "Field height", "length", ge=1e-4, le=1e5)
    focus_m: float = shown(..., "Focused at", "length", ge=1e-3, le=1e5)
    near_m: float = shown(..., "Sharp from", "length", ge=1e-4, le=1e5)
    far_m: float | None = shown(None, "Sharp to", "length", "empty: infinity", ge=1e-4, le=1e6)
    extent_m: float = shown(0.0, "Must be in the frame", "length", "along its way", ge=0, le=1e4)
    place_m: float | None = shown(
        None, "Right within ±", "length", "of the place; empty: not judged", gt=0, le=1e4
    )
    tries: int = shown(200_000, "Tries drawn", "count", ge=1000, le=2_000_000)


class Closed(ToolAnswer):
    """The same shares for normal spreads, without the beam's ends and the place."""

    share_in_frame: float
    share_in_focus: float
    share: float
    along_sd_m: float
    past_place_m: float


class BeamAnswered(ToolAnswer):
    """Shares of the triggers that land [0 … 1]; None where lag or jitter is not known."""

    share_in_frame: float | None
    share_in_focus: float | None
    share_in_place: float | None
    share: float | None = Field(
        description="in frame and focus, and in the place where that is stated"
    )
    share_framed_and_sharp: float | None = Field(description="in frame and focus, wherever")
    share_noticed: float | None = Field(description="of all passes, that the beam notices")
    standard_error: float | None
    along_sd_m: float | None
    travel_m: float | None = Field(description="from the beam to the light")
    upstream_m: float | None = Field(description="where the beam should stand for this lag")
    right_lag_s: float | None = Field(
        description="from beam to light, for the beam where it stands"
    )
    focus_m: float | None = Field(description="where the usual subject is when the light comes")
    useless_beam_share: float | None
    useless_beam_m: float | None
    closed_form: Closed | None
    heat_share: float | None = Field(
        description="of a passive heat sensor in its place, 1 m wide and 0.2 s slow (memory)"
    )


def way_of(asked: BeamAsked) -> Axes:
    """Unit vector of the usual way in the camera's axes."""
    angle, climb = math.radians(asked.angle_deg), math.radians(asked.climb_deg)
    level = math.cos(climb)
    return Axes(level * math.sin(angle), math.sin(climb), level * math.cos(angle))


def passes_of(asked: BeamAsked, lag_s: float, jitter_s: float) -> Passes:
    """The passes in the kernel's words; lag and jitter of the beam in [s]."""
    if asked.ways_shape == "uniform":
        even = math.sqrt(3)
    else:
        even = 1.0
    return Passes(
        way_of(asked),
        asked.speed_m_s,
        asked.speed_sd_m_s,
        asked.gains_m_s2,
        asked.upstream_m,
        lag_s,
        jitter_s,
        asked.aside_sd_m / even,
        asked.above_sd_m / even,
        asked.zone_m,
        asked.thick_m,
        asked.ways_shape == "uniform",
    )


def window_of(asked: BeamAsked) -> Window:
    """What lands, in the kernel's words."""
    if asked.far_m is None:
        far = math.inf
    else:
        far = asked.far_m
    return Window(
        asked.field_width_m,
        asked.field_height_m,
        asked.extent_m,
        asked.near_m,
        far,
        asked.focus_m,
        None,
        asked.place_m,
    )


def beam_line(asked: BeamAsked) -> Line | None:
    """The beam as a line; None for one along the way."""
    if asked.lies == "natural":
        lies = None
    else:
        lies = asked.lies
    return line_of(lies, asked.turned_deg, way_of(asked), asked.offset_m, asked.length_m)


def solve(asked: BeamAsked) -> BeamAnswered:
    """Shares by simulation and in closed form; what is not known leaves them out."""
    right = passes_of(asked, 0.0, 0.0).time_to_s(asked.upstream_m)
    known = asked.lag_s is not None and asked.jitter_s is not None
    if not known:
        unknown: dict[str, Any] = dict.fromkeys(BeamAnswered.model_fields)
        return BeamAnswered(**unknown | {"right_lag_s": right if math.isfinite(right) else None})
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
    wide = asked.model_copy(update={"zone_m": _HEAT_ZONE_M, "upstream_m": max(gone, 0.0)})
    passes = passes_of(wide, _HEAT_LAG_S, 0.05)
    return simulate(passes, window, None, min(asked.tries, 20_000)).joint


def says(asked: BeamAsked, answer: BeamAnswered) -> str:
    """The answer in one sentence."""
    if answer.share is None or answer.travel_m is None:
        return "How long it takes from the beam to the light is not known, so how often it lands is not: measure it."
    text = f"{format_percent(answer.share)} of the triggers land in frame and focus"
    if answer.share_in_place is not None:
        text += f" within {format_length(asked.place_m or 0.0)} of the place"
    off = answer.travel_m - asked.upstream_m
    if off > 0:
        where = "past"
    else:
        where = "short of"
    # Within a tenth of the spread nobody needs to move a stand.
    near = max((answer.along_sd_m or 0.0) / 10, 1e-3)
    text += (
        "; the beam stands right"
        if abs(off) < near
        else (
            f"; the usual one is {format_length(abs(off))} {where} the place: beam at "
            f"{format_length(max(answer.upstream_m or 0.0, 0.0))} upstream"
        )
    )
    if answer.useless_beam_share is not None and answer.useless_beam_share >= 0.005:
        text += f"; {format_percent(answer.useless_beam_share)} of its length fires at nothing"
    return f"{text[0].upper()}{text[1:]}."


def lists(asked: BeamAsked, answer: BeamAnswered) -> list[tuple[str, list[str]]]:
    """What to do with it on the set."""
    if answer.share is None:
        return []
    steps = [
        f"Focus at {format_length(answer.focus_m or asked.focus_m)}: there the usual one is when the light comes.",
        f"From the beam to the light it goes {format_length(answer.travel_m or 0.0)}, "
        f"± {format_length(answer.along_sd_m or 0.0)}.",
    ]
    if answer.right_lag_s is not None and asked.upstream_m > 0:
        late = (asked.lag_s or 0.0) - answer.right_lag_s
        spare = f"{format_time(abs(late))} {'too long' if late > 0 else 'to spare'}"
        steps.append(f"From here the chain may take {format_time(answer.right_lag_s)}: {spare}.")
    if answer.closed_form is not None:
        steps.append(
            f"In frame and focus: {format_percent(answer.closed_form.share)} in closed form, "
            f"{format_percent(answer.share_framed_and_sharp or 0.0)} ± "
            f"{format_number((answer.standard_error or 0.0) * 100, 2)} % of {asked.tries} simulated tries."
        )
    if answer.heat_share is not None:
        steps.append(
            "A passive heat sensor in its place, 1 m wide and 0.2 s slow (memory), lands "
            f"{format_percent(answer.heat_share)} even if aimed well: fine to wait for, useless to focus on."
        )
    return [("On the set", steps)]


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
        "speed_sd_m_s": scene.motion.speed_sd_m_s,
        # The even acceleration that covers the same way in the same time.
        "gains_m_s2": 2 * (upstream - speed * wanted) / wanted**2
        if wanted > 0 and scene.motion.bent
        else 0.0,
        "climb_deg": math.degrees(math.asin(float(np.clip(way.up, -1, 1)))),
        "angle_deg": _angle_deg(way),
        "lag_s": timing.flash_after_event_s,
        "jitter_s": timing.jitter_s,
        "upstream_m": upstream,
        "aside_sd_m": subject.aside_sd_m,
        "above_sd_m": subject.above_sd_m,
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
            name: getattr(beam, name) for name in ("length_m", "turned_deg", "offset_m", "zone_m")
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
        passes = passes_of(asked.model_copy(update={"upstream_m": upstream}), lag, jitter)
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
