"""The evaluation of a scene, version 2: plain numbers in SI, stops signed, None where not known."""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from rapzel.core.shared.working import Provenance, Step

State = Literal["passes", "fails", "unsure", "unknown"]
# from worst to best
STATES: tuple[State, ...] = ("fails", "unknown", "unsure", "passes")


class _Result(BaseModel):
    model_config = ConfigDict(frozen=True, allow_inf_nan=False)


class LightResult(_Result):
    """One light: t.1 and t.5 of its pulse, `stopping_s` of it as recorded, its share of the recorded flash."""

    name: str
    t05_s: float
    t01_s: float
    t01_range_s: tuple[float, float]
    light_span_s: float
    provenance: Provenance
    smear_px: float
    flash_offset_stops: float | None
    share: float
    basis: str
    stopping_s: float
    light_provenance: Provenance
    light_doubt_stops: float
    count: int = 1
    against_key_stops: float | None = None
    mired_from_key: float | None = None


class TrailFact(_Result):
    of: str
    px: float
    stops: float
    visible: bool
    faint: bool


class ShutterFacts(_Result):
    worst_row_loss_stops: float
    dark_share: float
    fastest_safe_shutter_s: float | None
    hss_loss_stops: float | None
    skew_px: float | None
    best_row_loss_stops: float
    captured_share: float | None
    open_window_s: float | None
    offset_s: float


class LagFact(_Result):
    """One lag of the chain; `identity` names its link, or camera and latency."""

    name: str
    kind: str
    lag_s: float | None
    jitter_s: float | None
    identity: str | None = None
    uniform: bool = False
    provenance: Provenance | None = None
    doubt_s: float = 0.0  # once for the whole plan; holds in nine of ten cases


class TimingFacts(_Result):
    flash_after_event_s: float | None
    jitter_s: float | None
    wanted_s: float | None
    needed_delay_s: float | None
    travel_m: float | None
    travel_frames: float | None
    position_sd_m: float | None
    share_in_frame: float | None
    share_in_focus: float | None
    share_slow_enough: float | None
    share_in_moment: float | None
    share: float | None
    judged: bool
    unknown: list[str]
    offset_m: float | None
    too_late_s: float
    lags: list[LagFact]
    # of all passes, that the beam notices: in frame, focus and moment are shares of these, `share` is of all
    share_noticed: float | None = None
    share_heard: float | None = None  # of all tries, fired by the event and only once
    # where `share` lies in nine of ten plans like this one, by what is claimed or not stated in it
    share_low: float | None = None
    share_high: float | None = None
    metered: bool = False  # two beams set the delay for every try anew
    resolution_s: float = 0.0  # steps in which the delay can be set


class FrameFacts(_Result):
    pixel_pitch_m: float
    field_width_m: float
    field_height_m: float
    criterion_m: float
    criterion_says: str
    depth_near_m: float
    depth_far_m: float | None
    hyperfocal_m: float
    enlargement: float
    towards_decides: bool
    bellows_stops: float
    diffraction_m: float
    reach_blur_m: float


class PaceFacts(_Result):
    sustained_fps: float | None
    asked_fps: float | None
    frames_before_short: int | None
    unknown: list[str]
    bears_fps: float | None = None
    drive: str | None = None
    blocked_drive: str = ""


class Margin(_Result):
    """Signed, zero is the line between works and does not; where `two_sided`, `within` of zero holds.

    `state` says how sure that is, `doubt` how far `value` may be off. `figure` is what to show large, in
    `figure_unit`. `passes` is true for the state `passes` only.
    """

    name: str  # of its kind, a row of the table of margins (`verdict.margins`)
    value: float | None
    unit: str
    state: State
    passes: bool
    doubt: float | None
    says: str
    figure: float | None
    figure_unit: str
    two_sided: bool = False
    within: float | None = None  # of a two-sided margin, in its unit
    working: list[Step]

    def __bool__(self) -> bool:
        return self.passes

    @property
    def probably_fails(self) -> bool:
        """Whether it is unsure with the best guess on the wrong side."""
        if self.state != "unsure" or self.value is None:
            return False
        # Where zero is right, as far off as still holds is the mark.
        if self.within is not None:
            return abs(self.value) > self.within + 1e-9
        return self.value < -1e-9

    @property
    def leans(self) -> bool:
        """Whether it wants a change although it is not sure; of a share, and of a faint trail, nobody asks for one."""
        return self.probably_fails and self.name not in ("timing", "ghost")

    @property
    def rank(self) -> int:
        """Higher is better: fails, unknown, unsure, passes."""
        return STATES.index(self.state)


class Evaluation(_Result):
    format: Literal["rapzel.evaluation"] = "rapzel.evaluation"
    version: Literal[2] = 2
    freeze_limit_s: float | None
    magnification: float
    speed_m_s: float
    speed_across_m_s: float
    lights: list[LightResult]
    flash_offset_stops: float | None
    ambient_offset_stops: float | None
    exposure_offset_stops: float | None
    clipped_share: float | None
    ghost_margin_stops: float | None
    smear_px: float | None
    diffraction_px: float
    ambient_smear_px: float
    trails: list[TrailFact]
    stopping_s: float | None
    shutter: ShutterFacts
    timing: TimingFacts
    pace: PaceFacts
    framing: FrameFacts
    margins: list[Margin]
    provenance: Provenance | None
    sentence: str
    warnings: list[str]

    def margin(self, name: str) -> Margin:
        """The margin of that name."""
        return next(margin for margin in self.margins if margin.name == name)

    @property
    def works(self) -> bool:
        """Whether every margin passes."""
        return all(margin.passes for margin in self.margins)

    def to_document(self) -> dict[str, Any]:
        """The evaluation as a JSON document."""
        return self.model_dump(mode="json")
