"""What a try is evidence of: the parts of its plan that must be as they are now for it to teach of today's plan.

A try that was logged with another body, another frame or another chain teaches of another set. What is listed here
is asked of every log by the same rule: by what takes teach, by a dial-in, and by the columns of the log.
"""

from collections.abc import Mapping
from typing import Any, Literal

from rapzel.core.document import places

Question = Literal["lateness", "landing"]

_RELEASE = (  # of a camera: when it says that its light may come
    "camera.name", "camera.shutter", "camera.lag_s", "camera.lag_jitter_s", "camera.mirror_up", "camera.mirror_s",
    "camera.electronic_first_curtain", "camera.first_curtain_s", "camera.asleep", "camera.wake_s",
)  # fmt: skip
_FRAME = (  # what is in it, what is sharp in it, and how long it is lit
    "camera.sensor_width_mm", "camera.sensor_height_mm", "camera.pixels_wide", "camera.pixels_high",
    "camera.sync_speed_s", "camera.curtain_travel_s", "lens", "criterion", "exposure.shutter_s", "exposure.f_number",
    "exposure.panning",
    "ambient.ev100", "ambient.lux", "ambient.meter", "ambient.sky", "ambient.trail_stops", "lights", "lamps",
)  # fmt: skip

# By how much the light is late: all that moves the light, the event, or the wanted instant. Whether a try lands: that,
# and what it has to land in.
_LATENESS = (
    "motion", "subject", "moment", "trigger", "drops", "exposure.method", "exposure.offset_s", "exposure.flash_at",
    *_RELEASE,
)  # fmt: skip
PARTS: dict[Question, tuple[str, ...]] = {
    "lateness": _LATENESS,
    "landing": (*_LATENESS, *_FRAME),
}

# The second curtain's flash waits for the end of the exposure: what says when that is moves the light.
BEHIND_SECOND_CURTAIN = (
    "exposure.shutter_s",
    "camera.curtain_travel_s",
    "camera.sync_speed_s",
)

# What may change between two tries of a dial-in: it moves no light and changes no picture.
OF_NO_TRY = (
    "name", "pinned", "plan", "hazards", "rehearsal", "drops.observations", "drops.frame_above_m", "look",
)  # fmt: skip


def evidence(of: Question, plan: Mapping[str, Any]) -> tuple[Any, ...]:
    """What a plan has in those parts, None where it lacks one."""
    parts = PARTS[of]
    if places.get(plan, "exposure.flash_at") == "second":
        parts = (*parts, *BEHIND_SECOND_CURTAIN)
    return tuple(_stated(places.get(plan, path)) for path in parts)


def _stated(value: Any) -> Any:
    """A part without what is null in it: an older plan lacks keys that a newer one has as null."""
    if isinstance(value, Mapping):
        return {key: _stated(one) for key, one in value.items() if one is not None}
    if isinstance(value, list | tuple):
        return [_stated(one) for one in value]
    return value


def is_evidence(of: Question, tried: Mapping[str, Any], now: Mapping[str, Any]) -> bool:
    """Whether a try of one plan teaches of another."""
    return evidence(of, tried) == evidence(of, now)
