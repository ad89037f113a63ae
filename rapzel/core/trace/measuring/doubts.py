"""The mistakes of the bench, each caught by its own rule and named in words that say what to do (handbook §4 list).

A rule looks at what was seen and answers with the words, or None. Thresholds are common practice at the bench unless a
reason stands beside them.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.ndimage import uniform_filter1d

from rapzel.core.shared.units import format_number
from rapzel.core.trace.measuring.figures import Figures
from rapzel.core.trace.measuring.ground import Array, Ground
from rapzel.core.trace.measuring.result import Code, Train, Warned
from rapzel.core.trace.measuring.ripple import MAINS_HZ
from rapzel.core.trace.measuring.smoothing import smoothing

_TWO_LEVELS = 0.995  # share of the samples that lie on one of two levels
_FEWEST_HALF, _FEWEST_TENTH = 8, 16  # samples above half and a tenth of the peak
# of t.5: a detector's time constant beyond this lengthens the figures visibly
_SLOW = 0.1
_NO_PULSE = 6.0  # times the noise of the best smoothed curve
_REPEATED = 0.003  # of the window's samples at the very same highest level: a limit
_LIT = 1.0  # baseline over the height of the pulse


@dataclass(frozen=True)
class Seen:
    """What the rules look at."""

    values: npt.NDArray[np.floating]
    curve: Array  # the main pulse, above its baseline
    group: int
    noise: float
    figures: Figures
    ground: Ground
    pulses: int
    train: Train | None
    detector_s: float | None
    corrected: Figures | None


def nothing_there(values: npt.NDArray[np.floating], ground: Ground) -> bool:
    """Whether nothing stands out of the noise, however much it is smoothed."""
    if ground.peak <= 0 or not ground.windows:
        return True
    if ground.peak > 12 * ground.noise:
        return False
    # Averaged first, a faint light of a long sweep still stands out, and noise does not.
    if len(values) <= 400_000:
        thinned = values
    else:
        thinned = values[: len(values) // 50 * 50].reshape(-1, 50).mean(axis=1)
    noise = ground.noise / math.sqrt(len(values) / len(thinned))
    away = ground.sign * (thinned.astype(np.float64) - ground.baseline)
    for width in (1, 5, 25, 125):
        # So wide a mean over so short a sweep would find its own baseline.
        if width * 8 > len(away):
            break
        if float(uniform_filter1d(away, width).max()) > _NO_PULSE * noise / math.sqrt(
            width
        ):
            return False
    return True


def no_pulse(ground: Ground) -> Warned:
    """The warning of an empty trace."""
    return Warned(
        code="no_pulse",
        says="No pulse stands out of the noise. Check that the trigger fell inside the sweep, that the detector sees "
        "the light, and that this is the right channel.",
    )


def _two_levels(seen: Seen) -> str | None:
    """Everything lies on two levels and the edges take a sample or two: a logic output, not light."""
    high = float(seen.curve.max())
    band = max(4 * seen.noise, 0.03 * high)
    if band > 0.25 * high:
        return None  # with so much noise two levels are not told from many
    low_or_high = (np.abs(seen.curve) <= band) | (np.abs(seen.curve - high) <= 2 * band)
    edges = int(np.count_nonzero(np.diff(seen.curve > 0.5 * high)))
    between = int(np.count_nonzero(~low_or_high))
    # An edge of a logic output is caught by at most two samples on its way.
    on_the_way = between > max(2 * edges, (1 - _TWO_LEVELS) * len(seen.curve))
    if on_the_way or np.count_nonzero(seen.curve > high / 2) < 4:
        return None
    above = seen.curve[seen.curve > 0.5 * high]
    # Light that lasts sinks or wavers a little; a logic level does neither.
    if len(above) > 6 and float(np.std(above[1:-1])) > max(
        1.5 * seen.noise, 0.01 * high
    ):
        return None
    return (
        "The trace has two levels only: that is a logic output, which tells when there is light but not how much. No "
        "t.5 or t.1 can be read; take the photodiode's analogue output."
    )


def _clipped(seen: Seen) -> str | None:
    """The top is flat where a pulse of this slope would have gone on rising."""
    curve, high = seen.curve, float(seen.curve.max())
    step = seen.ground.step / math.sqrt(seen.group)
    # A limit is met exactly, again and again; where noise lies over it, the top is a band.
    exact = seen.noise <= 0.002 * high or _repeats(seen)
    top = _flat_top(seen, step, exact)
    if top is None:
        return None
    first, last = top
    width = last - first + 1
    reach = max(width // 2, 2)
    before, after = (
        curve[max(first - reach, 0)],
        curve[min(last + reach, len(curve) - 1)],
    )
    # A natural peak is flat, too, but for a short time: half its width away a clipped pulse has sunk visibly.
    smallest = max(12 * step, 6 * seen.noise, 0.03 * high)
    if high - before < smallest or high - after < smallest:
        return None
    natural = _steep(curve, high, last, width) or _curved(
        curve[first : last + 1], seen.noise
    )
    if not exact and natural:
        return None
    return (
        "The top is flat: the amplifier or the scope was overdriven, so the true peak is higher and t.5 and t.1 are "
        "shorter than they look. Move the detector away, or turn the gain down."
    )


def _flat_top(seen: Seen, step: float, exact: bool) -> tuple[int, int] | None:
    """First and last sample of a top that stays within its band; None where it is too short to tell, or has gaps."""
    curve, high = seen.curve, float(seen.curve.max())
    if exact:
        band = max(0.6 * step, 1e-9 * high)
    else:
        band = 7 * seen.noise
    flat = curve >= high - band
    first, last = int(np.argmax(flat)), len(curve) - 1 - int(np.argmax(flat[::-1]))
    # Five samples, or a twentieth of the pulse: less is what any peak has.
    shortest = max(5, 0.05 * np.count_nonzero(curve > 0.5 * high))
    gaps = float(np.mean(flat[first : last + 1])) < 0.9
    if last - first + 1 < shortest or gaps:
        return None
    return (first, last)


def _repeats(seen: Seen) -> bool:
    """Whether the highest sample of the recording comes many times over, as it does at a limit."""
    edge = float(seen.values.max() if seen.ground.sign > 0 else seen.values.min())
    return int(np.count_nonzero(seen.values == edge)) >= max(
        5, _REPEATED * seen.group * len(seen.curve)
    )


def _curved(top: Array, noise: float) -> bool:
    """Whether a noisy top bends or leans: a natural peak does, a limit does not."""
    if len(top) < 16:
        return True
    bend, lean, _ = np.polyfit(np.linspace(-1, 1, len(top)), top, 2)
    return bool(abs(bend) > 1.2 * noise or abs(lean) > 1.2 * noise)


def _steep(curve: Array, high: float, last: int, width: int) -> bool:
    """Whether the light falls at once after its flat top, as the plateau of a pulse train does."""
    below = np.flatnonzero(curve[last:] < 0.5 * high)
    return bool(below.size and below[0] < 0.15 * width)


def _tail_missing(seen: Seen) -> str | None:
    figures = seen.figures
    margin = (
        3
        * seen.noise
        / max(figures.peak, 1e-300)
        / math.sqrt(max(smoothing(seen.curve, seen.noise) // 2, 1))
    )
    if figures.last01_s is None and figures.ends_at <= 0.1:
        return (
            f"The trace ends at {figures.ends_at:.0%} of the peak, and its noise hides when the light falls below the "
            "tenth that t.1 needs. Record longer, or average several pops."
        )
    if figures.last01_s is None or figures.ends_at > 0.1 + margin:
        return (
            f"The trace ends while the light is still at {figures.ends_at:.0%} of its peak, above the tenth that t.1 "
            "needs. Record longer, or move the trigger point to the left."
        )
    if figures.first01_s is None:
        return (
            "The trace begins when the light is on already, so the beginning of t.5 and t.1 is missing. Record some "
            "time before the trigger."
        )
    return None


def _undersampled(seen: Seen) -> str | None:
    high = float(seen.curve.max())
    # Groups are averages of samples: what was sampled is what is counted.
    half = int(np.count_nonzero(seen.curve > 0.5 * high)) * seen.group
    tenth = int(np.count_nonzero(seen.curve > 0.1 * high)) * seen.group
    if half >= _FEWEST_HALF and tenth >= _FEWEST_TENTH:
        return None
    return (
        f"Only {half} samples lie above half of the peak and {tenth} above a tenth: the pulse is shorter than the "
        "sampling can show. Sample faster, or shorten the sweep."
    )


def _slow_detector(seen: Seen) -> str | None:
    measured = seen.figures.t05_s
    if not seen.detector_s or measured is None:
        return None
    if seen.corrected:
        corrected = seen.corrected.t05_s
    else:
        corrected = None
    # Against the corrected figure: the measured one is drawn out by the very lag that is judged.
    if seen.detector_s < _SLOW * (corrected or measured):
        return None
    return (
        f"The detector's time constant of {seen.detector_s * 1e6:.3g} µs is not short against the pulse, which it "
        "draws out. Corrected figures stand beside; a smaller load resistor or a faster amplifier is the remedy."
    )


def _baseline_drift(seen: Seen) -> str | None:
    peak = max(seen.figures.peak, 1e-300)
    if seen.ground.drift:
        return (
            f"The baseline drifts by {abs(seen.ground.drift) / peak:.1%} of the peak over the sweep; a straight line "
            "was taken off. Let the amplifier settle, couple it to DC, and darken the room."
        )
    if abs(seen.ground.baseline) > _LIT * peak:
        return (
            f"The baseline stands {abs(seen.ground.baseline) / peak:.1f} times as high as the pulse: the detector is "
            "lit or offset. Darken the room or shade the detector."
        )
    return None


def _ripple(seen: Seen) -> str | None:
    if seen.ground.ripple_hz is None:
        return None
    hertz, share = (
        seen.ground.ripple_hz,
        seen.ground.ripple / max(seen.figures.peak, 1e-300),
    )
    if hertz in MAINS_HZ:
        return (
            f"Mains ripple of {hertz:.0f} Hz, {share:.1%} of the peak from top to bottom, lies under the pulse: room "
            "lamps or the supply. Switch the lamps off, shield the cable."
        )
    return (
        f"A ripple of {format_number(hertz)} Hz, {share:.1%} of the peak from top to bottom, lies under the pulse and "
        "was taken off: a switching supply, a dimmed lamp or a screen nearby. Switch it off, shield the cable."
    )


def _several_pulses(seen: Seen) -> str | None:
    if seen.train is not None:
        return (
            f"This is a train of {seen.pulses} pulses at {seen.train.frequency_hz / 1000:.3g} kHz, as high-speed sync "
            "gives: to the picture it is one plateau. For a single pulse switch high-speed sync off."
        )
    if seen.pulses > 1:
        return (
            f"The sweep holds {seen.pulses} pulses: a pre-flash, or a pulse in parts. The figures are those of the "
            "strongest. Set the flash to manual, and automatic metering and red-eye reduction off."
        )
    return None


def _inverted(seen: Seen) -> str | None:
    if seen.ground.sign > 0:
        return None
    return "The light goes downwards: the detector is connected the other way round. The trace was turned over."


RULES: dict[Code, Callable[[Seen], str | None]] = {
    "two_levels": _two_levels,
    "clipped": _clipped,
    "tail_missing": _tail_missing,
    "undersampled": _undersampled,
    "slow_detector": _slow_detector,
    "baseline_drift": _baseline_drift,
    "ripple": _ripple,
    "several_pulses": _several_pulses,
    "inverted": _inverted,
}
_HIDES: dict[Code, set[Code]] = {
    "two_levels": {
        "clipped",
        "undersampled",
        "several_pulses",
        "tail_missing",
        "baseline_drift",
    },
    "several_pulses": {"clipped"},
}


def warnings(seen: Seen) -> list[Warned]:
    """Every mistake that shows, in a fixed order; one that explains another stands alone."""
    found = {code: says for code, rule in RULES.items() if (says := rule(seen))}
    if found:
        hidden = set().union(*(_HIDES.get(code, set()) for code in found))
    else:
        hidden = set()
    return [
        Warned(code=code, says=says)
        for code, says in found.items()
        if code not in hidden
    ]
