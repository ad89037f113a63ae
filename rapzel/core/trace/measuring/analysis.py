"""What one sweep of light did: its figures, their doubt, and every mistake that it shows.

Order of work: the ground (baseline, polarity, noise), the window with the light, its pulses, the main pulse's figures,
and then the mistakes. Source of the levels: ISO 2827; of the list of mistakes: common practice at the bench.
"""

import itertools
import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.ndimage import uniform_filter1d
from scipy.signal import find_peaks, savgol_filter

from rapzel.core.trace.measuring import doubts, pops, uncertainty
from rapzel.core.trace.measuring.figures import Figures, measure
from rapzel.core.trace.measuring.fit import as_ruler, described, solve
from rapzel.core.trace.measuring.ground import Array, Ground, grouping, look
from rapzel.core.trace.measuring.result import (
    PulseFigures,
    RecordingResult,
    TraceResult,
    Train,
)
from rapzel.core.trace.measuring.smoothing import smoothing, sudden
from rapzel.core.trace.reading.samples import Recording, TraceError

_PROMINENT = 0.05  # of the peak, for a pulse of its own
# stretches of a window among which pulses are looked for, by the most of each
_LOOKED_AT = 8000
_SMOOTH = 0.0022  # noise, of the peak, below which a smoothed curve needs no model
_TRAIN = 4  # pulses at even distances that make a train
# times their width: pulses further apart than this are pops, not a train
_TRAIN_GAP = 12.0


@dataclass(frozen=True)
class Window:
    """The stretch of a sweep with the light in it: above its baseline, light upwards, in groups of samples."""

    curve: Array
    begin: int  # in samples of the sweep
    group: int
    dt_s: float  # between the groups
    noise: float  # of one group

    def time_s(self, place: float) -> float:
        """A place in the window on the sweep's clock, from its first sample [s]."""
        return (
            self.begin + (self.group - 1) / 2
        ) * self.dt_s / self.group + place * self.dt_s


def analyse(
    values: npt.NDArray[np.floating],
    dt_s: float,
    detector_s: float | None = None,
    fit: bool = False,
    ground: Ground | None = None,
) -> TraceResult:
    """The analysis of one sweep that holds one pop.

    values: samples of one channel in any unit; dt_s: time between two of them [s]; detector_s: the detector's time
    constant [s], if known; fit: also fit the circuit model; ground: as `look` found it, if it has been asked.
    Raises TraceError for samples that are not finite, fewer than eight, or an interval that is not above 0.
    """
    if not (math.isfinite(dt_s) and dt_s > 0):
        raise TraceError(
            f"The interval between two samples is {dt_s:g} s, but must be above 0."
        )
    if values.ndim != 1 or len(values) < 8:
        raise TraceError(
            f"A trace needs at least eight samples in a row; this one has {values.size}."
        )
    if not np.isfinite([float(values.min()), float(values.max())]).all():
        raise TraceError("The trace holds samples that are not finite numbers.")
    ground = ground or look(values, dt_s)
    # A converter's steps are noise, too: an even spread of one step is 1/√12 of it wide.
    noise = math.hypot(ground.noise, ground.step / math.sqrt(12))
    if doubts.nothing_there(values, ground):
        return TraceResult(
            baseline=ground.baseline,
            noise=ground.noise,
            warnings=[doubts.no_pulse(ground)],
        )
    window = _window(values, ground, dt_s, noise)
    return _measured(values, window, ground, detector_s, fit)


def _window(
    values: npt.NDArray[np.floating], ground: Ground, dt_s: float, noise: float
) -> Window:
    """The light with enough dark before and after it; long stretches are averaged in groups."""
    first, last = ground.windows[0][0], ground.windows[-1][1]
    # A slow tail needs room after the light, a soft rise some before it.
    reach = max(last - first, 24)
    begin, end = (
        max(first - reach // 2 - 16, 0),
        min(last + 3 * reach + 16, len(values)),
    )
    part = values[begin:end]
    rough = ground.sign * (
        part[:: max(len(part) // 50_000, 1)].astype(np.float64) - ground.baseline
    )
    above = int(np.count_nonzero(rough > 0.5 * ground.peak)) * max(
        len(part) // 50_000, 1
    )
    group = grouping(len(part), above)
    curve = part.astype(np.float64)
    if group > 1:
        curve = curve[: len(curve) // group * group].reshape(-1, group).mean(axis=1)
    curve = ground.sign * (curve - ground.baseline)
    curve -= ground.sign * _underneath(
        ground, (begin + group * np.arange(len(curve))) * dt_s, len(values) * dt_s
    )
    return Window(curve, begin, group, dt_s * group, noise / math.sqrt(group))


def _underneath(ground: Ground, times: Array, length_s: float) -> Array:
    """What the ground does under the window: its drift since the baseline was read, and the mains ripple."""
    under = ground.drift * (times - ground.baseline_at_s) / length_s
    if ground.ripple_hz is not None:
        turn = math.tau * ground.ripple_hz * times
        under = under + ground.wave[0] * np.sin(turn) + ground.wave[1] * np.cos(turn)
    return np.asarray(under)


def _peaks(window: Window) -> list[int]:
    """Places of the pulses: maxima that stand out of the smoothed curve by more than noise and ripple do."""
    width = smoothing(window.curve, window.noise)
    if width > 1:
        plain = uniform_filter1d(window.curve, width)
    else:
        plain = window.curve
    peak = float(plain.max())
    # Seven deviations: among thousands of smoothed samples none gets there by itself.
    floor = max(_PROMINENT * peak, 7 * window.noise / math.sqrt(width))
    step = max(width // 4, len(plain) // _LOOKED_AT, 1)
    # The most of each stretch: a long sweep is searched by some thousand values.
    tops = np.pad(plain, (0, -len(plain) % step), constant_values=0.0).reshape(-1, step)
    found, _ = find_peaks(
        np.concatenate([[0.0], tops.max(axis=1), [0.0]]), prominence=floor, height=floor
    )
    kept: list[int] = []
    for place in (
        int(each - 1) * step + int(tops[each - 1].argmax()) for each in found
    ):
        # Two equally high tops of one pulse are each prominent by definition: a valley has to lie between.
        if (
            kept
            and float(plain[kept[-1] : place + 1].min())
            > min(plain[kept[-1]], plain[place]) - floor
        ):
            kept[-1] = max(kept[-1], place, key=lambda at: plain[at])
        else:
            kept.append(place)
    return kept or [int(np.argmax(plain))]


def _parts(window: Window, peaks: list[int]) -> list[tuple[int, int]]:
    """The stretch of each pulse: between the valleys beside its peak."""
    cuts = [0]
    for left, right in itertools.pairwise(peaks):
        # At the lowest point between two pulses each is charged with its own tail.
        cuts.append(left + int(np.argmin(window.curve[left : right + 1])))
    cuts.append(len(window.curve))
    return list(itertools.pairwise(cuts))


def _measured(
    values: npt.NDArray[np.floating],
    window: Window,
    ground: Ground,
    detector_s: float | None,
    fit: bool,
) -> TraceResult:
    """The light of a window: its pulses, the figures of the one that counts, its doubts, and how sure they are."""
    peaks = _peaks(window)
    parts = _parts(window, peaks)
    single = [
        measure(window.curve[low:high], window.dt_s, window.noise)
        for low, high in parts
    ]
    train = _train(window, peaks, single)
    begin, curve, figures = _main(window, parts, single, train)
    corrected = _corrected(curve, window, detector_s)
    pulses = _listed(window, parts, single)
    seen = doubts.Seen(
        values=values,
        curve=curve,
        group=window.group,
        noise=window.noise,
        figures=figures,
        ground=ground,
        pulses=len(pulses),
        train=train,
        detector_s=detector_s,
        corrected=corrected,
    )
    warnings = doubts.warnings(seen)
    codes = {warning.code for warning in warnings}
    solution, doubt = _how_sure(
        window, ground, curve, figures, fit, bool(codes & _UNFIT)
    )
    return TraceResult(
        **{
            **_plain(figures, window.time_s(begin)),
            "light_integral": figures.light_integral,
            **doubt,
        },
        peak=figures.peak,
        baseline=ground.baseline,
        noise=ground.noise,
        ripple=ground.ripple,
        saturated="clipped" in codes,
        inverted=ground.sign < 0,
        corrected_t05_s=corrected.t05_s if corrected else None,
        corrected_t01_s=corrected.t01_s if corrected else None,
        pulses=pulses,
        train=train,
        warnings=warnings,
        fit=described(solution) if fit and solution else None,
    )


def _main(
    window: Window,
    parts: list[tuple[int, int]],
    single: list[Figures],
    train: Train | None,
) -> tuple[int, Array, Figures]:
    """(begin in the window, curve, figures) of what counts: the pulse with the most light, or all of a train.

    A train is one light to a picture, so its figures are those of the whole.
    """
    if train is not None:
        return 0, window.curve, measure(window.curve, window.dt_s, window.noise)
    # The most light, not the highest peak: a short spike exposes little.
    most = max(range(len(parts)), key=lambda place: single[place].light_integral)
    low, high = parts[most]
    return low, window.curve[low:high], single[most]


def _listed(
    window: Window, parts: list[tuple[int, int]], single: list[Figures]
) -> list[PulseFigures]:
    """Every pulse of the window with its share of all light."""
    total = sum(max(pulse.light_integral, 0.0) for pulse in single) or 1.0
    return [
        PulseFigures(
            at_s=window.time_s(low) + (pulse.first01_s or 0.0),
            peak=pulse.peak,
            t05_s=pulse.t05_s,
            t01_s=pulse.t01_s,
            light_integral=pulse.light_integral,
            share=max(pulse.light_integral, 0.0) / total,
        )
        for (low, _), pulse in zip(parts, single, strict=True)
    ]


def _how_sure(
    window: Window,
    ground: Ground,
    curve: Array,
    figures: Figures,
    fit: bool,
    unfit: bool,
) -> tuple[Any, dict[str, Any]]:
    """(the fitted model or None, the figures' uncertainties).

    Where noise stays visible however far the curve is smoothed, the fitted model is the better ruler, and the figures
    come from it; a recording with a mistake that no model knows is never fitted.
    """
    rough = _beyond_smoothing(curve, window.noise)
    wanted = (fit or rough) and not unfit
    if wanted:
        solution = solve(curve, window.dt_s, window.noise, figures)
    else:
        solution = None
    if solution and rough:
        ruler = as_ruler(solution)
    else:
        ruler = None
    if ruler:
        doubt = uncertainty.by_two_rulers(ruler, figures)
    else:
        doubt = uncertainty.of(curve, window.dt_s, window.noise, figures, ground.step)
    doubt |= uncertainty.with_baseline(
        doubt, curve, window.dt_s, window.noise, ground.u_baseline
    )
    return solution, doubt


def _beyond_smoothing(curve: Array, noise: float) -> bool:
    """Whether noise stays visible however far the curve is smoothed; then the model is the better ruler.

    Not where both flanks are sudden: noise moves them by hardly a sample.
    """
    width = smoothing(curve, noise)
    if width == 1 or len(sudden(curve, width)) == 2:
        return False
    return 1.5 * noise / math.sqrt(width) > _SMOOTH * float(curve.max())


_UNFIT = {"two_levels", "clipped", "tail_missing", "undersampled", "no_pulse"}


def _plain(figures: Figures, offset: float) -> dict[str, float | None]:
    """Durations as they are; instants on the sweep's clock."""
    names = ("first05_s", "last05_s", "first01_s", "last01_s")
    instants = {name: getattr(figures, name) for name in names}
    return {
        "t05_s": figures.t05_s,
        "t01_s": figures.t01_s,
        "rise_s": figures.rise_s,
        "time_to_peak_s": figures.time_to_peak_s,
        "light_span_s": figures.light_span_s,
        **{name: None if at is None else at + offset for name, at in instants.items()},
    }


def _train(window: Window, peaks: list[int], single: list[Figures]) -> Train | None:
    """A train is four or more alike pulses at even, short distances; its plateau is where half its light is left."""
    if len(peaks) < _TRAIN:
        return None
    # A train is even in time and alike in height; a pre-flash with its main pulse is neither.
    heights = window.curve[peaks]
    gaps = np.diff(peaks)
    widths = [each.t05_s for each in single if each.t05_s]
    usual = float(np.median(gaps))
    even = float(np.mean(np.abs(gaps - usual) <= 0.3 * usual)) >= 0.75
    near = not widths or usual * window.dt_s <= _TRAIN_GAP * float(np.median(widths))
    if not (even and near and float(np.median(heights)) > 0.3 * float(heights.max())):
        return None
    inner = window.curve[peaks[0] : peaks[-1] + 1]
    smooth = uniform_filter1d(window.curve, max(int(usual), 1))
    lit = np.flatnonzero(
        smooth > 0.5 * float(np.median(smooth[peaks[0] : peaks[-1] + 1]))
    )
    high, low = float(np.percentile(inner, 97)), float(np.percentile(inner, 3))
    return Train(
        frequency_hz=1 / (usual * window.dt_s),
        plateau_s=float(lit[-1] - lit[0] + 1) * window.dt_s,
        ripple_share=(high - low) / (high + low) if high + low > 0 else 0.0,
    )


def _corrected(
    curve: Array, window: Window, detector_s: float | None
) -> Figures | None:
    """The figures with a first-order detector's lag taken out: light = v + τ dv/dt."""
    if not detector_s or len(curve) < 9:
        return None
    width = max(smoothing(curve, window.noise), 5)
    width = min(width, (len(curve) - 1) // 2 * 2 - 1)
    # A derivative multiplies noise, so that it is taken of a smoothed curve.
    slope = savgol_filter(curve, width, 2, deriv=1, delta=window.dt_s)
    noise = math.hypot(
        window.noise, detector_s * window.noise * math.sqrt(12 / width**3) / window.dt_s
    )
    return measure(curve + detector_s * slope, window.dt_s, noise)


def analyse_recording(
    recording: Recording, channel: int | None = None, fit: bool = True
) -> RecordingResult:
    """Every pop of one channel, with statistics over them.

    channel: its number; None takes the first that looks like light. A sweep with several alike pops far apart is
    parted into them. Raises TraceError for a channel that is not there.
    """
    place = recording.channel(channel)
    singles = pops.singles(recording, place)
    results = [
        analyse(
            segment.values[0],
            segment.dt_s,
            recording.detector_s,
            fit=fit and number == 0,
            ground=ground,
        )
        for number, (segment, ground) in enumerate(singles)
    ]
    return pops.summed(recording, place, [segment for segment, _ in singles], results)
