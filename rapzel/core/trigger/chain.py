"""From event to light: lags, jitter, and where the subject is when the light comes (science §11)."""

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from rapzel.core.document.scene import Leap, Link, Scene
from rapzel.core.frame.framing import Frame
from rapzel.core.motion.speeds import VERTICAL, apex_window_s
from rapzel.core.shared import constants
from rapzel.core.shared.working import Provenance

_DRAWS = 8192  # of the simulation that combines links of different shape; its share is good to about 1 %


def speed_of_sound_m_s(temperature_c: float) -> float:
    """Speed of sound in dry air [m/s]: 331.3 √(1 + T/273.15); 2.9 ms per metre at 20 °C."""
    return constants.SOUND_AT_0C_M_S * math.sqrt(1 + temperature_c / constants.ZERO_CELSIUS_K)


@dataclass(frozen=True, slots=True)
class Lag:
    """One lag of the chain: what it is, its mean [s], and its jitter as a standard deviation [s]."""

    name: str
    lag_s: float
    jitter_s: float
    uniform: bool = False
    provenance: Provenance | None = None


def _link_lag(link: Link) -> Lag:
    uniform = link.jitter_shape == "uniform"
    sd = link.jitter_s / math.sqrt(3) if uniform else link.jitter_s
    travel = link.distance_m / speed_of_sound_m_s(link.temperature_c) if link.kind == "sound" else 0.0
    name = link.name or link.kind
    if link.kind == "sound":
        name = f"{name}, {link.distance_m:g} m of air"
    return Lag(name, link.lag_s + travel, sd, uniform, link.lag_provenance)


def lags_of(scene: Scene) -> list[Lag]:
    """The links from the event to the light, in order; the camera counts only where it is what the trigger fires."""
    lags = [_link_lag(link) for link in scene.trigger.links]
    if scene.trigger.fires == "camera":
        lags.append(
            Lag("camera", scene.camera.lag_s, scene.camera.lag_jitter_s, provenance=scene.camera.lag_provenance)
        )
    if scene.exposure.method in ("pulse", "open_shutter"):
        lags.append(Lag("trigger to light", scene.trigger.latency_s, 0.0))
    return lags


def total_jitter_s(lags: list[Lag]) -> float:
    """Standard deviation of the whole chain [s]: √Σσ², for independent links."""
    return math.sqrt(sum(lag.jitter_s**2 for lag in lags))


_GAUSS = np.random.default_rng(20).standard_normal((8, _DRAWS))
_EVEN = np.random.default_rng(21).uniform(-math.sqrt(3), math.sqrt(3), (8, _DRAWS))


def simulated_errors_s(lags: list[Lag]) -> np.ndarray:
    """Errors in time of many tries [s], drawn link by link with a fixed seed."""
    total = np.zeros(_DRAWS)
    for place, lag in enumerate(lags):
        if lag.jitter_s:
            total += lag.jitter_s * np.roll((_EVEN if lag.uniform else _GAUSS)[place % 8], 997 * (place // 8))
    return total


def wanted_delay_s(scene: Scene, speed_m_s: float) -> float | None:
    """The delay after the event at which the subject is where it is wanted [s].

    As set; else what a beam upstream implies (distance over speed); else unknown.
    """
    if scene.trigger.wanted_delay_s is not None:
        return scene.trigger.wanted_delay_s
    upstream = sum(link.distance_m for link in scene.trigger.links if link.kind == "beam")
    return upstream / speed_m_s if upstream and speed_m_s else None


@dataclass(frozen=True, slots=True)
class Timing:
    """When the light comes and where that finds the subject. Shares are of many tries, None where unknown."""

    lags: tuple[Lag, ...]
    flash_after_event_s: float
    jitter_s: float
    wanted_delay_s: float | None
    needed_delay_s: float | None
    position_sd_m: float
    offset_m: float  # mean place against the wanted one, along the movement
    share_in_frame: float
    share_in_focus: float
    share_in_window: float | None  # of a leap's apex: slow enough for the light
    share: float

    @property
    def too_late_s(self) -> float:
        """By how much the light comes too late even without a delay [s]; 0 when it can be on time."""
        return max(0.0, -(self.needed_delay_s or 0.0))


def _share_within(mean: float, sd: float, low: float, high: float) -> float:
    if sd == 0:
        return float(low <= mean <= high)
    return float(ndtr((high - mean) / sd) - ndtr((low - mean) / sd))


def _apex_share(scene: Scene, lags: list[Lag], frame: Frame, stopping_s: float | None) -> float | None:
    """Share of tries in which a leap is slow enough for the light: |Δt| within half the apex window."""
    if not isinstance(scene.motion, Leap) or not stopping_s or frame.magnification <= 0:
        return None
    slow_enough = frame.circle_m / (frame.magnification * frame.enlargement * stopping_s)
    away = scene.motion.from_apex_s + simulated_errors_s(lags)
    return float(np.mean(np.abs(away) <= apex_window_s(slow_enough) / 2))


def timing_of(scene: Scene, frame: Frame, speed_m_s: float, stopping_s: float | None) -> Timing:
    """The chain's answer. σ_x² = (t_lag σ_v)² + (v σ_t)²; the subject counts as a point.

    speed in m/s; `stopping_s` is the time of light that stops the motion, which decides how long an apex lasts.
    """
    lags = lags_of(scene)
    passed = sum(lag.lag_s for lag in lags)
    total = passed + scene.trigger.set_delay_s
    jitter = total_jitter_s(lags)
    wanted = wanted_delay_s(scene, speed_m_s)
    offset = 0.0 if wanted is None else speed_m_s * (total - wanted)
    spread = math.hypot(total * scene.motion.speed_sd_m_s, speed_m_s * jitter)
    angle = math.radians(scene.motion.angle_deg)
    across, along = math.sin(angle), math.cos(angle)
    side = frame.field_height_m if scene.motion.kind in VERTICAL else frame.field_width_m
    in_frame = _share_within(offset * across, spread * across, -side / 2, side / 2)
    subject = scene.lens.subject_distance_m
    near, far = frame.depth.near_m - subject, frame.depth.far_m - subject
    in_focus = _share_within(offset * along, spread * abs(along) if abs(along) > 1e-9 else 0.0, near, far)
    window = _apex_share(scene, lags, frame, stopping_s)
    return Timing(
        lags=tuple(lags),
        flash_after_event_s=total,
        jitter_s=jitter,
        wanted_delay_s=wanted,
        needed_delay_s=None if wanted is None else wanted - passed,
        position_sd_m=spread,
        offset_m=offset,
        share_in_frame=in_frame,
        share_in_focus=in_focus,
        share_in_window=window,
        share=in_frame * in_focus * (1.0 if window is None else window),
    )
