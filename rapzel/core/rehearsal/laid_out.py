"""A layer laid out along its way: what a moving edge leaves on the sensor is the running integral of its light.

Ways are in pixels, positive towards higher indices; `axis` is 1 along the rows of the picture, 0 down its columns.
"""

import math

import numpy as np
import numpy.typing as npt

from rapzel.core.subjects.pen import Picture

Ways = npt.NDArray[np.float64]
# pixels of a way that are added up one by one; the running integral is quicker for more
_MOST_TAPS = 80
_UNMOVED_PX = 0.02  # a shorter way is no way: its integral would drown in rounding


class RunningSum:
    """The running integral of a layer along an axis, readable at any displacement up to `furthest_px` either way.

    Between pixel centres the layer is taken as linear, so that its integral is quadratic there.
    """

    def __init__(
        self, layer: Picture, least_px: float, most_px: float, axis: int
    ) -> None:
        self._axis, self._length = axis, layer.shape[axis]
        # pixels from before the first: nothing there
        self._before = max(math.ceil(most_px) + 2, 0)
        # and from after the last: the whole integral
        after = max(math.ceil(-least_px) + 2, 0)
        pads = [(0, 0), (0, 0)]
        pads[axis] = (self._before, after)
        self._layer = np.pad(layer, pads)
        self._sum = np.cumsum(self._layer, axis=axis, dtype=np.float32)
        self._sum -= self._layer / 2

    def _back(self, picture: Picture, whole: int) -> Picture:
        cut = [slice(None), slice(None)]
        cut[self._axis] = slice(
            self._before - whole, self._before - whole + self._length
        )
        return picture[tuple(cut)]

    def at(self, by_px: float) -> Picture:
        """The integral up to `by_px` short of each pixel's centre."""
        whole = math.ceil(by_px)
        part = np.float32(whole - by_px)
        if part == 0:
            return self._back(self._sum, whole)
        near, far = self._back(self._layer, whole - 1), self._back(self._layer, whole)
        total: Picture = (
            self._back(self._sum, whole)
            + (part - part**2 / 2) * far
            + part**2 / 2 * near
        )
        return total

    def at_rows(self, by_px: Ways) -> Picture:
        """The same with a displacement for each row of the picture, between the integral's values at the centres."""
        whole = np.ceil(by_px).astype(np.intp)
        part = (whole - by_px).astype(np.float32)[:, None]
        rows = np.arange(by_px.size)
        if self._axis == 0:
            behind = self._before + rows - whole
            return np.asarray(
                self._sum[behind] * (1 - part) + self._sum[behind + 1] * part
            )
        # Rows of one flat array, so that each is read from its own place.
        wide = self._sum.shape[1]
        first = (rows * wide + self._before - whole)[:, None] + np.arange(self._length)
        flat = self._sum.ravel()
        return np.asarray(flat[first] * (1 - part) + flat[first + 1] * part)


def laid_out(layer: Picture, weights: Picture, edges_px: Ways, axis: int) -> Picture:
    """The layer laid out along a way that all rows share: Σ_j weights[:, j] · (mean of the layer over segment j).

    layer: height × width; weights: height × segments (light of each row in each segment); edges_px: displacement at
    the segments' ends [px].
    """
    length = layer.shape[axis]
    edges = np.clip(edges_px, -length - 1.0, length + 1.0)
    # One pixel more on both sides: a layer that is linear between centres reaches that far.
    first, last = math.floor(edges.min()) - 1, math.ceil(edges.max()) + 1
    if last - first < _MOST_TAPS:
        taps = np.arange(first, last + 1)
        of_rows = weights @ _taps(edges, edges_px, taps)
        return _spread(layer, taps, of_rows.astype(np.float32), axis)
    return _laid_out_far(layer, weights, edges_px, edges, axis)


def _taps(edges: Ways, edges_px: Ways, taps: npt.NDArray[np.intp]) -> Ways:
    """What each segment takes of the pixel so many places before (segments × taps), the layer being linear between."""
    low, high = edges[:-1, None], edges[1:, None]
    travelled = np.diff(edges_px)[:, None]
    moves = np.abs(travelled) >= _UNMOVED_PX
    come = _hats(high - taps) - _hats(low - taps)
    still = np.maximum(1 - np.abs((low + high) / 2 - taps), 0.0)
    return np.asarray(np.where(moves, come / np.where(moves, travelled, 1.0), still))


def _hats(upto: Ways) -> Ways:
    """The integral, from far below, of a tent of height 1 between -1 and 1."""
    inside = np.clip(upto, -1.0, 1.0)
    return np.asarray(0.5 + inside - inside * np.abs(inside) / 2)


def _spread(
    layer: Picture, taps: npt.NDArray[np.intp], weights: Picture, axis: int
) -> Picture:
    """Σ_k weights[:, k] · the layer moved by taps[k] whole pixels; nothing comes in from outside."""
    total = np.zeros_like(layer)
    for place, step in enumerate(taps):
        weight = weights[:, place : place + 1]
        if not weight.any():
            continue
        into, out_of = _slices(layer.shape, int(step), axis)
        total[into] += weight[into[0]] * layer[out_of]
    return total


def _laid_out_far(
    layer: Picture, weights: Picture, edges_px: Ways, edges: Ways, axis: int
) -> Picture:
    """The same for a way of many pixels, by the running integral."""
    total = np.zeros_like(layer)
    running: RunningSum | None = None
    right_edge, right = math.nan, total
    for place in range(weights.shape[1]):
        weight = weights[:, place : place + 1]
        if not weight.any():
            continue
        low, high = float(edges[place]), float(edges[place + 1])
        travelled = float(edges_px[place + 1] - edges_px[place])
        if abs(travelled) < _UNMOVED_PX:
            total += weight * shifted(layer, (low + high) / 2, axis)
            continue
        # Only a way of many pixels needs the integral, and many layers have none.
        running = running or RunningSum(
            layer, float(edges.min()), float(edges.max()), axis
        )
        if right_edge == low:
            left = right
        else:
            left = running.at(low)
        right_edge, right = high, running.at(high)
        total += (weight / np.float32(travelled)) * (left - right)
    return total


def laid_out_by_row(
    layer: Picture, weight: Picture, begin_px: Ways, end_px: Ways, axis: int
) -> Picture:
    """The layer laid out evenly between two displacements of each row [px]; weight: height × 1, light of each row."""
    length = layer.shape[axis]
    begin, end = (
        np.clip(way, -length - 1.0, length + 1.0) for way in (begin_px, end_px)
    )
    travelled = end_px - begin_px
    # A row that hardly moves is spread over the least way that is one.
    least = np.where(travelled < 0, -_UNMOVED_PX, _UNMOVED_PX)
    moves = np.where(np.abs(travelled) < _UNMOVED_PX, least, travelled)
    end = np.where(np.abs(travelled) < _UNMOVED_PX, begin + least, end)
    both = np.concatenate([begin, end])
    running = RunningSum(layer, float(both.min()), float(both.max()), axis)
    spread = running.at_rows(begin) - running.at_rows(end)
    return np.asarray(weight / moves.astype(np.float32)[:, None] * spread)


def shifted(picture: Picture, by_px: float, axis: int) -> Picture:
    """The picture moved by a fraction of pixels towards higher indices; nothing comes in from outside."""
    whole = math.floor(by_px)
    part = np.float32(by_px - whole)
    result = np.zeros_like(picture)
    for step, weight in ((whole, 1 - part), (whole + 1, part)):
        if weight > 0:
            into, out_of = _slices(picture.shape, step, axis)
            result[into] += weight * picture[out_of]
    return result


def _slices(
    shape: tuple[int, ...], step: int, axis: int
) -> tuple[tuple[slice, ...], tuple[slice, ...]]:
    length = shape[axis]
    step = max(-length, min(step, length))
    into, out_of = [slice(None), slice(None)], [slice(None), slice(None)]
    into[axis] = slice(max(step, 0), length + min(step, 0))
    out_of[axis] = slice(max(-step, 0), length - max(step, 0))
    return tuple(into), tuple(out_of)
