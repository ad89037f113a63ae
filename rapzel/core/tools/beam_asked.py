"""What is asked of a beam and answered of it, and the same in the words of the kernels."""

import math
from typing import Literal

from pydantic import Field

from rapzel.core.motion.trajectory import Axes
from rapzel.core.shared.part import Part, shown
from rapzel.core.tools.tool import ToolAnswer
from rapzel.core.trigger.beams import Passes
from rapzel.core.trigger.crossing import Line, line_of
from rapzel.core.trigger.tries import Window


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
    climb_deg: float = shown(
        0.0, "Climbs", "angle", "−90° falls, 90° rises", ge=-90, le=90
    )
    # What the chain takes decides everything here, and is seldom known: empty has to be allowed.
    lag_s: float | None = shown(
        None,
        "Beam to light",
        "duration",
        "set delay included; empty: not known",
        ge=0,
        le=3600,
    )
    jitter_s: float | None = shown(
        None, "Its jitter (sd)", "duration", "empty: not known", ge=0, le=3600
    )
    upstream_m: float = shown(
        0.0, "Beam upstream", "length", "before the place", ge=0, le=1e4
    )
    aside_sd_m: float = shown(0.0, "Ways spread aside ±", "length", ge=0, le=1e4)
    above_sd_m: float = shown(0.0, "Ways spread up ±", "length", ge=0, le=1e4)
    ways_shape: Literal["normal", "uniform"] = shown(
        "normal",
        "That is",
        "choice",
        choices={"normal": "a standard deviation", "uniform": "half of an even spread"},
    )
    # A slim subject passes beside the beam more often; empty says that it is wide enough.
    thick_m: float | None = shown(
        None,
        "Subject cuts with",
        "length",
        "square to its way; empty: enough",
        ge=0,
        le=1e4,
    )
    # Natural is square to the way: where a beam is cut for sure.
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
    # Sensors with a field, such as heat or motion, do not fire at a line.
    zone_m: float = shown(0.0, "Wide along the way", "length", ge=0, le=1e4)
    field_width_m: float = shown(..., "Field width", "length", ge=1e-4, le=1e5)
    field_height_m: float = shown(..., "Field height", "length", ge=1e-4, le=1e5)
    focus_m: float = shown(..., "Focused at", "length", ge=1e-3, le=1e5)
    near_m: float = shown(..., "Sharp from", "length", ge=1e-4, le=1e5)
    # Infinity has no number in JSON: null stands for it.
    far_m: float | None = shown(
        None, "Sharp to", "length", "empty: infinity", ge=1e-4, le=1e6
    )
    extent_m: float = shown(
        0.0, "Must be in the frame", "length", "along its way", ge=0, le=1e4
    )
    place_m: float | None = shown(
        None,
        "Right within ±",
        "length",
        "of the place; empty: not judged",
        gt=0,
        le=1e4,
    )
    # Shares by drawing: with 200 000 tries they are good to a quarter of a percent.
    tries: int = shown(200_000, "Tries drawn", "count", ge=1000, le=2_000_000)


class Closed(ToolAnswer):
    """The same shares for normal spreads, without the beam's ends and the place."""

    share_in_frame: float
    share_in_focus: float
    share: float
    along_sd_m: float
    past_place_m: float


class BeamAnswered(ToolAnswer):
    """Shares of the triggers [0 … 1], and `share` of all passes; None where lag or jitter is not known."""

    share_in_frame: float | None
    share_in_focus: float | None
    share_in_place: float | None
    share: float | None = Field(
        description="of all passes: noticed, in frame and focus, and in the place where that is stated"
    )
    share_framed_and_sharp: float | None = Field(
        description="in frame and focus, wherever"
    )
    share_noticed: float | None = Field(
        description="of all passes, that the beam notices"
    )
    standard_error: float | None
    along_sd_m: float | None
    travel_m: float | None = Field(description="from the beam to the light")
    upstream_m: float | None = Field(
        description="where the beam should stand for this lag"
    )
    right_lag_s: float | None = Field(
        description="from beam to light, for the beam where it stands"
    )
    focus_m: float | None = Field(
        description="where the usual subject is when the light comes"
    )
    useless_beam_share: float | None
    useless_beam_m: float | None
    closed_form: Closed | None
    # People have such a sensor at hand; what it would cost is told beside the beam.
    heat_share: float | None = Field(
        description="of a passive heat sensor in its place, 1 m wide and 0.2 s slow (memory)"
    )


def way_of(asked: BeamAsked) -> Axes:
    """Unit vector of the usual way in the camera's axes."""
    angle, climb = math.radians(asked.angle_deg), math.radians(asked.climb_deg)
    # The angle is that of the way's level part; a fall has none left.
    level = math.cos(climb)
    return Axes(level * math.sin(angle), math.sin(climb), level * math.cos(angle))


def passes_of(asked: BeamAsked, lag_s: float, jitter_s: float) -> Passes:
    """The passes in the kernel's words; lag and jitter of the beam in [s]."""
    if asked.ways_shape == "uniform":
        # An even spread of half width a has the standard deviation a / √3.
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
    return line_of(
        lies, asked.turned_deg, way_of(asked), asked.offset_m, asked.length_m
    )
