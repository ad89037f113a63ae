"""The evaluation of a scene, version 1: plain numbers in SI, stops signed, None where a thing does not apply."""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

from rapzel.core.shared.working import Provenance, Step


class _Result(BaseModel):
    model_config = ConfigDict(frozen=True, allow_inf_nan=False)


class LightResult(_Result):
    name: str
    t05_s: float
    t01_s: float
    light_span_s: float
    provenance: Provenance
    smear_px: float
    flash_offset_stops: float | None
    share: float
    basis: str
    stopping_s: float


class ShutterFacts(_Result):
    worst_row_loss_stops: float
    dark_share: float
    fastest_safe_shutter_s: float | None
    hss_loss_stops: float | None
    skew_px: float | None
    best_row_loss_stops: float
    open_window_s: float
    offset_s: float


class LagFact(_Result):
    name: str
    lag_s: float
    jitter_s: float


class TimingFacts(_Result):
    flash_after_event_s: float | None
    jitter_s: float | None
    needed_delay_s: float | None
    position_sd_m: float | None
    share_in_frame: float | None
    share_in_focus: float | None
    share_in_window: float | None
    offset_m: float | None
    too_late_s: float
    lags: list[LagFact]


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


class PaceFacts(_Result):
    sustained_fps: float | None
    asked_fps: float | None
    frames_before_short: int | None


class Margin(_Result):
    """Signed, zero is the line between works and does not. `figure` is what to show large, in `figure_unit`."""

    name: Literal["freeze", "light", "ghost", "sync", "timing", "pace"]
    value: float | None
    unit: str
    passes: bool
    says: str
    figure: float | None
    figure_unit: str
    working: list[Step]

    def __bool__(self) -> bool:
        return self.passes


class Evaluation(_Result):
    format: Literal["rapzel.evaluation"] = "rapzel.evaluation"
    version: Literal[1] = 1
    freeze_limit_s: float | None
    magnification: float
    speed_m_s: float
    speed_across_m_s: float
    lights: list[LightResult]
    flash_offset_stops: float | None
    ambient_offset_stops: float | None
    ghost_margin_stops: float | None
    smear_px: float | None
    ambient_smear_px: float
    stopping_s: float | None
    shutter: ShutterFacts
    timing: TimingFacts
    pace: PaceFacts
    framing: FrameFacts
    margins: list[Margin]
    provenance: Provenance
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


def evaluation_schema() -> dict[str, Any]:
    """The published JSON Schema of the evaluation (draft 2020-12)."""
    schema = Evaluation.model_json_schema(mode="serialization")
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **schema,
        "title": "Rapzel evaluation, version 1",
    }
