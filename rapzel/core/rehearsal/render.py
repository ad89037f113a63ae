"""The rehearsal: the picture a scene would give, integrated row by row and instant by instant.

The moving layers are displaced by image speed × time under the same light curves and row openings that `evaluate`
uses, so that ghost, smear, band, gradient and skew appear because they are computed. The light of a row is cut into
short segments of time; within one, the subject's image is spread evenly over its way, by differences of its running
integral along the movement, so that ways of a fraction of a pixel come out right.
"""

import math
import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rapzel.core.motion.speeds import VERTICAL
from rapzel.core.physics import Physics
from rapzel.core.rehearsal import tone
from rapzel.core.rehearsal.pen import Layer, Picture, View
from rapzel.core.rehearsal.subject import BACKGROUNDS, SUBJECTS, drawn_height_m, layers_of
from rapzel.core.shared.errors import CoreError
from rapzel.core.shutter import row_model
from rapzel.core.shutter.row_model import Flash

FLASH_TINT = np.array([1.0, 0.965, 0.90], dtype=np.float32)  # warm, and the room steel blue: told apart by eye
ROOM_TINT = np.array([0.70, 0.86, 1.0], dtype=np.float32)
FULL_WELL_PER_UM2 = 1500.0  # electrons at ISO 100 a µm² of pixel (memory)
READ_NOISE = 3.0  # electrons (memory)
_SEGMENTS = 40
_UNMOVED_PX = 0.02  # a shorter way within a segment is no way: its integral would drown in rounding
_LIGHT_OUT = 0.998  # of a pulse; what comes later is spread over the last segment

BUDGET_S = 20.0  # of wall time for one picture: a hundred times what one takes


class RenderTooLong(CoreError):
    """The picture would take too long; str() is fit to show."""


class Budget:
    """The time that one picture may take."""

    def __init__(self, seconds: float) -> None:
        self._end = time.monotonic() + seconds

    def check(self) -> None:
        """Raises RenderTooLong once the time is over."""
        if time.monotonic() >= self._end:
            raise RenderTooLong("This picture takes too long to compute. The figures stand; make the subject smaller.")


@dataclass(frozen=True)
class Rehearsal:
    """The computed picture: frame and 100 % crop as sRGB bytes (height × width × 3), and what it shows in words."""

    frame: npt.NDArray[np.uint8]
    crop: npt.NDArray[np.uint8]
    clipped_share: float
    crop_clipped_share: float
    says: str


def moved(layer: Picture, weights: Picture, edges_px: npt.NDArray[np.float64], axis: int) -> Picture:
    """The layer laid out along its path: Σ_j weights[:, j] · (mean of the layer over edges_px[j] … [j+1]).

    layer: height × width; weights: height × segments (light of each row in each segment); edges_px: displacement at
    the segments' ends [px]; axis: 1 along the rows, 0 down the columns.
    """
    total = np.zeros_like(layer)
    length = layer.shape[axis]
    edges = np.clip(edges_px, -length - 1.0, length + 1.0)
    running: _RunningSum | None = None
    right_edge, right = math.nan, total
    for place in range(weights.shape[1]):
        weight = weights[:, place : place + 1]
        if not weight.any():
            continue
        low, high = float(edges[place]), float(edges[place + 1])
        travelled = float(edges_px[place + 1] - edges_px[place])
        if abs(travelled) < _UNMOVED_PX:
            total += weight * _shifted(layer, (low + high) / 2, axis)
            continue
        running = running or _RunningSum(layer, edges, axis)
        left = right if right_edge == low else running.at(low)
        right_edge, right = high, running.at(high)
        total += (weight / np.float32(travelled)) * (left - right)
    return total


class _RunningSum:
    """The running integral of a layer along an axis, readable at any displacement within the given edges [px].

    Between pixel centres the layer is taken as linear, so that its integral is quadratic there.
    """

    def __init__(self, layer: Picture, edges_px: npt.NDArray[np.float64], axis: int) -> None:
        self._axis, self._length = axis, layer.shape[axis]
        self._before = max(math.ceil(float(edges_px.max())) + 2, 0)  # pixels from before the first: nothing there
        after = max(math.ceil(-float(edges_px.min())) + 2, 0)  # and from after the last: the whole integral
        pads = [(0, 0), (0, 0)]
        pads[axis] = (self._before, after)
        self._layer = np.pad(layer, pads)
        self._sum = np.cumsum(self._layer, axis=axis, dtype=np.float32)
        self._sum -= self._layer / 2

    def _back(self, picture: Picture, whole: int) -> Picture:
        cut = [slice(None), slice(None)]
        cut[self._axis] = slice(self._before - whole, self._before - whole + self._length)
        return picture[tuple(cut)]

    def at(self, by_px: float) -> Picture:
        """The integral up to `by_px` short of each pixel's centre."""
        whole = math.ceil(by_px)
        part = np.float32(whole - by_px)
        if part == 0:
            return self._back(self._sum, whole)
        near, far = self._back(self._layer, whole - 1), self._back(self._layer, whole)
        total: Picture = self._back(self._sum, whole) + (part - part**2 / 2) * far + part**2 / 2 * near
        return total


def _shifted(picture: Picture, by_px: float, axis: int) -> Picture:
    """The picture moved by a fraction of pixels towards higher indices; nothing comes in from outside."""
    whole = math.floor(by_px)
    part = np.float32(by_px - whole)
    result = np.zeros_like(picture)
    for step, weight in ((whole, 1 - part), (whole + 1, part)):
        if weight > 0:
            into, out_of = _slices(picture.shape, step, axis)
            result[into] += weight * picture[out_of]
    return result


def _slices(shape: tuple[int, ...], step: int, axis: int) -> tuple[tuple[slice, ...], tuple[slice, ...]]:
    length = shape[axis]
    step = max(-length, min(step, length))
    into, out_of = [slice(None), slice(None)], [slice(None), slice(None)]
    into[axis] = slice(max(step, 0), length + min(step, 0))
    out_of[axis] = slice(max(-step, 0), length - max(step, 0))
    return tuple(into), tuple(out_of)


@dataclass(frozen=True)
class _Exposure:
    """One kind of light over the frame: time edges [s] and the light of each row in each segment."""

    edges_s: npt.NDArray[np.float64]
    weights: Picture
    level: float  # exposure relative to correct, all of it

    @property
    def by_row(self) -> Picture:
        return np.asarray(self.weights.sum(axis=1, keepdims=True))


def _segments(begin_s: float, end_s: float, px_per_s: float) -> npt.NDArray[np.float64]:
    """Segment edges [s]: as many as pixels are crossed, within bounds."""
    count = int(min(max(math.ceil(abs(px_per_s) * (end_s - begin_s) * 1.5), 1), _SEGMENTS))
    return np.linspace(begin_s, end_s, count + 1)


def _flash_exposure(physics: Physics, rows: npt.NDArray[np.float64], px_per_s: float) -> _Exposure | None:
    flashes = physics.flashes
    if not flashes:
        return None
    begin = min(flash.start_s for flash in flashes)
    end = max(flash.start_s + flash.pulse.time_at_s(_LIGHT_OUT) for flash in flashes)
    edges = _segments(begin, end, px_per_s)
    ends = edges.copy()
    ends[-1] += 100 * (end - begin)  # the last segment takes the rest of every tail
    opens, closes = _openings(physics, rows)
    weights = sum(_light_in(flash, ends, opens, closes) for flash in flashes) / physics.n_squared
    level = physics.n_squared / physics.scene.exposure.f_number**2 * 2**-physics.scene.exposure.nd_stops
    return _Exposure(edges, np.asarray(weights, dtype=np.float32), level)


def _light_in(
    flash: Flash, edges: npt.NDArray[np.float64], opens: npt.NDArray[np.float64], closes: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """Light of one flash in each segment as each row sees it, weighted (rows × segments)."""
    clipped = np.clip(edges[None, :], opens[:, None], closes[:, None])
    return flash.weight * np.diff(flash.pulse.cumulative(clipped - flash.start_s), axis=1)


def _openings(
    physics: Physics, rows: npt.NDArray[np.float64]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    return row_model.opening_s(physics.scene, rows, physics.shutter.offset_s)


def _room_exposure(physics: Physics, rows: npt.NDArray[np.float64], px_per_s: float) -> _Exposure | None:
    offset = physics.ambient_offset_stops
    if offset is None:
        return None
    opens, closes = _openings(physics, rows)
    # While every row is open their light is alike: only the curtains' way in and out needs fine segments.
    first, second = sorted((float(opens.max()), float(closes.min())))
    into = _segments(float(opens.min()), first, px_per_s)
    edges = np.concatenate([into, _segments(second, float(closes.max()), px_per_s)])
    edges = np.unique(edges) if first < second else edges
    clipped = np.clip(edges[None, :], opens[:, None], closes[:, None])
    weights = np.diff(clipped, axis=1) / physics.scene.exposure.shutter_s
    return _Exposure(edges, weights.astype(np.float32), 2.0**offset)


def _reference_s(physics: Physics) -> float:
    """The instant at which the subject is drawn in its place: the pulse, or the middle of a continuous exposure."""
    if physics.scene.exposure.method in ("pulse", "open_shutter") and physics.flashes:
        return physics.flashes[0].start_s
    return (row_model.travel_s(physics.scene) + physics.scene.exposure.shutter_s) / 2


def _gather(
    exposure: _Exposure,
    layers: tuple[Layer, ...],
    ground: float,
    travel: Callable[[float], float],
    axis: int,
    budget: Budget,
) -> Picture:
    """Reflected light of one kind of exposure over the view: background, then each layer over what is behind."""
    shape = layers[0].cover.shape
    total = exposure.by_row
    safe = np.maximum(total, np.float32(1e-9))
    light: Picture = np.broadcast_to(np.float32(ground) * total, shape).copy()
    for layer in layers:
        budget.check()
        edges_px = np.array([travel(edge) for edge in exposure.edges_s]) * layer.speed
        box = _region(layer, edges_px, axis)
        if box is None:
            continue
        weights = exposure.weights[box[0]]
        covered = moved(layer.cover[box], weights, edges_px, axis)
        lit = moved(layer.lit[box], weights, edges_px, axis)
        light[box] = light[box] * (1 - covered / safe[box[0]]) + lit
    return light * np.float32(exposure.level)


def _region(layer: Layer, edges_px: npt.NDArray[np.float64], axis: int) -> tuple[slice, slice] | None:
    """The part of the view that the layer reaches on its way; None where it stays outside."""
    bounds = []
    for along in (0, 1):
        used = np.flatnonzero(layer.cover.max(axis=1 - along))
        if used.size == 0:
            return None
        size = layer.cover.shape[along]
        low, high = used[0], used[-1] + 1
        if along == axis:
            low = low + min(math.floor(float(edges_px.min())) - 2, 0)
            high = high + max(math.ceil(float(edges_px.max())) + 2, 0)
        bounds.append(slice(max(int(low), 0), min(int(high), size)))
    return bounds[0], bounds[1]


def _electrons_full(physics: Physics) -> float:
    """Electrons of a pixel at clipping, at the scene's ISO."""
    pitch_um = physics.frame.pixel_pitch_m * 1e6
    return FULL_WELL_PER_UM2 * pitch_um**2 * 100 / physics.scene.exposure.iso


_NOISE = np.random.default_rng(2718).standard_normal((1024, 1600), dtype=np.float32)
_SRGB_BYTES = np.round(tone.encoded(np.arange(4097) / 4096) * 255).astype(np.uint8)


def _noise(shape: tuple[int, int]) -> Picture:
    tiled = np.tile(_NOISE, (-(-shape[0] // _NOISE.shape[0]), -(-shape[1] // _NOISE.shape[1])))
    return tiled[: shape[0], : shape[1]]


def develop(physics: Physics, flash: Picture, room: Picture, binned: float) -> tuple[npt.NDArray[np.uint8], float]:
    """Sensor and development: noise, clipping, tone curve. Returns sRGB bytes and the share of clipped pixels.

    flash, room: reflected light, 18 % at correct exposure being mid grey; `binned`: sensor pixels in one of these.
    Noise: √(electrons + read²), averaged over the binned pixels.
    """
    light = flash + room
    full = _electrons_full(physics)
    spread = np.sqrt(np.maximum(light, 0) / np.float32(full * binned) + np.float32((READ_NOISE / full) ** 2 / binned))
    noisy = light + spread * _noise(light.shape)
    clipped = float(np.mean(light >= 1.0))
    share = room / np.maximum(light, np.float32(1e-9))
    picture = np.empty((*light.shape, 3), dtype=np.uint8)
    for channel in range(3):
        tint = FLASH_TINT[channel] + (ROOM_TINT[channel] - FLASH_TINT[channel]) * share
        values = np.clip(noisy * tint, 0, 1) * np.float32(4096)
        picture[..., channel] = _SRGB_BYTES[values.astype(np.uint16)]
    return picture, clipped


def _draw(
    physics: Physics, view: View, row_bounds: tuple[float, float], binned: float, budget: Budget
) -> tuple[npt.NDArray[np.uint8], float]:
    scene, frame = physics.scene, physics.frame
    size_m = drawn_height_m(scene.rehearsal.subject, scene.rehearsal.size_m, frame.field_height_m)
    layers = layers_of(scene.rehearsal.subject, size_m, view)
    # Vertical movement falls: towards higher row indices. What is late has gone further by its offset.
    axis = 0 if scene.motion.kind in VERTICAL else 1
    px_per_s = frame.image_speed_m_s / frame.magnification * view.px_per_m
    start_px = float(np.clip(physics.timing.offset_m * view.px_per_m, -1e5, 1e5))
    reference = _reference_s(physics)

    def travel(time_s: float) -> float:
        return float(np.clip(px_per_s * (time_s - reference) + start_px, -1e5, 1e5))

    centres = (np.arange(view.height) + 0.5) / view.height
    # The image stands on its head and the curtains run down: the lower edge of the picture is uncovered first.
    rows = 1 - (row_bounds[0] + centres * (row_bounds[1] - row_bounds[0]))
    ground = BACKGROUNDS[scene.rehearsal.background]
    pictures = []
    for exposure in (_flash_exposure(physics, rows, px_per_s), _room_exposure(physics, rows, px_per_s)):
        empty = np.zeros((view.height, view.width), dtype=np.float32)
        pictures.append(empty if exposure is None else _gather(exposure, layers, ground, travel, axis, budget))
    return develop(physics, pictures[0], pictures[1], binned)


def render(
    physics: Physics,
    size: tuple[int, int] = (960, 640),
    crop: tuple[int, int] = (336, 224),
    budget_s: float = BUDGET_S,
) -> Rehearsal:
    """The picture of a scene at `size` (width, height) and a 100 % crop of the moving part.

    Raises RenderTooLong where it takes more than `budget_s` [s]. The frame is scaled by the scene's magnification, a
    pixel of the crop is a pixel of the sensor.
    """
    frame, camera = physics.frame, physics.scene.camera
    view = View(size[0] / frame.field_width_m, *size)
    binned = (camera.pixels_wide / size[0]) ** 2
    budget = Budget(budget_s)
    whole, clipped = _draw(physics, view, (0.0, 1.0), max(binned, 1.0), budget)
    kind = physics.scene.rehearsal.subject
    size_m = drawn_height_m(kind, physics.scene.rehearsal.size_m, frame.field_height_m)
    detail_x, detail_y = (part * size_m for part in SUBJECTS[kind].detail)
    close = View(1 / (frame.pixel_pitch_m / frame.magnification), *crop, centre_x_m=detail_x, centre_y_m=detail_y)
    half = crop[1] / 2 / close.px_per_m
    top = 0.5 - (detail_y + half) / frame.field_height_m
    inset, crop_clipped = _draw(physics, close, (top, top + 2 * half / frame.field_height_m), 1.0, budget)
    says = f"{SUBJECTS[kind].says}, drawn {size_m:.3g} m high"
    return Rehearsal(whole, inset, clipped, crop_clipped, says)
