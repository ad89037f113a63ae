"""The pulses of a kit at every power, as arrays: what a search needs of each setting, worked out at once.

The shapes are those of `pulse.shape.Discharge`; only their areas are written for many pulses at a time.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from rapzel.core.document.gear import Light, Strobe, lowest_power, own_hss_stops
from rapzel.core.light import guide
from rapzel.core.physics.pace import recycle_s
from rapzel.core.pulse import KnownPulse, pulse_at
from rapzel.core.strobes.compare import Source, sources_of

Array = npt.NDArray[np.float64]
_STOP_PARTS = 3  # powers in thirds of a stop


def powers_of(strobe: Strobe) -> list[float]:
    """The powers of a strobe in thirds of a stop, from full down to its lowest."""
    lowest = lowest_power(strobe)
    powers = []
    place = 0
    while (power := 2.0 ** (-place / _STOP_PARTS)) > lowest * 1.01:
        powers.append(power)
        place += 1
    return [*powers, lowest]


@dataclass(frozen=True)
class Shapes:
    """Pulses of many settings as arrays of one length; times in s. An afterglow of none is written as 1 s."""

    decay_s: Array
    rise_s: Array
    quench_s: Array
    afterglow_s: Array
    at_quench: Array
    energy_s: Array

    def of(self, chosen: npt.NDArray[np.int64]) -> "Shapes":
        """Some of them."""
        return Shapes(
            *(getattr(self, name)[chosen] for name in self.__dataclass_fields__)
        )

    def cumulative(self, time_s: Array) -> Array:
        """Share of all light of each pulse that has come by its own times [0 … 1]: settings × times in and out."""
        decay, rise, afterglow = (
            self.decay_s[:, None],
            self.rise_s[:, None],
            self.afterglow_s[:, None],
        )
        time = np.maximum(time_s, 0.0)
        lit = np.minimum(time, self.quench_s[:, None])
        area = -decay * np.expm1(-lit / decay) + rise * np.expm1(-lit / rise)
        area = area - self.at_quench[:, None] * afterglow * np.expm1(
            -(time - lit) / afterglow
        )
        return np.asarray(np.clip(area / self.energy_s[:, None], 0.0, 1.0))


@dataclass(frozen=True, eq=False)
class Settings:
    """Every power of every way to run a strobe: arrays of one length, one entry a setting. Equal to itself only."""

    sources: tuple[Source, ...]
    source: npt.NDArray[np.int64]  # which of `sources`
    power: Array
    pulses: tuple[KnownPulse, ...]
    t01_s: Array
    peak_s: Array  # when the light is strongest
    doubt_stops: Array
    mostly_out_s: Array  # when 93.3 % of the light is out
    half_stop_out_s: Array  # when all but half a stop is out
    long_out_s: Array  # when 93.3 % is out with the pulse as long as its doubt allows
    weight: Array  # N² at 1 m and ISO 100, without high-speed sync's own loss
    own_hss: Array  # share that is left by it
    recycle_s: Array  # at most; nan where not known
    shapes: Shapes

    def __len__(self) -> int:
        return len(self.power)

    def cumulative(self, time_s: npt.ArrayLike) -> Array:
        """Share of all light of each pulse that has come by a time [0 … 1]: settings × times."""
        return self.shapes.cumulative(
            np.atleast_1d(np.asarray(time_s, dtype=float))[None, :]
        )


@lru_cache(maxsize=8)
def settings_of(strobes: tuple[Strobe, ...]) -> Settings:
    """The settings of a kit's strobes, each of their modes apart; remembered, since a kit outlives many searches."""
    sources = tuple(source for strobe in strobes for source in sources_of(strobe))
    rows: list[tuple[int, float, KnownPulse, Light]] = []
    for place, source in enumerate(sources):
        for power in powers_of(source.strobe):
            known = pulse_at(source.strobe.circuit, source.table, power)
            light = Light(
                power=power,
                distance_m=1.0,
                mode=source.mode or None,
                strobe=source.strobe,
            )
            rows.append((place, power, known, light))
    return Settings(
        sources=sources,
        source=np.array([row[0] for row in rows], dtype=np.int64),
        power=np.array([row[1] for row in rows]),
        pulses=tuple(row[2] for row in rows),
        t01_s=np.array([row[2].t01_s for row in rows]),
        peak_s=np.array([row[2].shape.peak_s for row in rows]),
        doubt_stops=np.array([row[2].doubt_stops for row in rows]),
        mostly_out_s=np.array([row[2].mostly_out_s for row in rows]),
        half_stop_out_s=np.array([row[2].half_stop_out_s for row in rows]),
        long_out_s=np.array(
            [row[2].mostly_out_s * 2 ** row[2].doubt_stops for row in rows]
        ),
        weight=np.array([_weight(row[3]) for row in rows]),
        own_hss=np.array([2.0 ** -own_hss_stops(row[3].strobe)[0] for row in rows]),
        recycle_s=np.array([_known(recycle_s(row[3])) for row in rows]),
        shapes=_shapes([row[2] for row in rows]),
    )


def _weight(light: Light) -> float:
    power = 2 ** guide.relative_light_stops(light.table, light.power)
    return (
        float(
            guide.correct_f_number(light.strobe.guide_number_m, 100.0, power, 1.0, 0.0)
        )
        ** 2
    )


def _known(time_s: float | None) -> float:
    if time_s is None:
        return np.nan
    return time_s


def _shapes(pulses: Sequence[KnownPulse]) -> Shapes:
    rows = []
    for known in pulses:
        shape = known.shape
        quenched = np.isfinite(shape.quench_s)
        at_quench = np.exp(-shape.quench_s / shape.decay_s) - np.exp(
            -shape.quench_s / shape.rise_s
        )
        if quenched:
            afterglow = max(shape.afterglow_s, 1e-12)
        else:
            afterglow = 1.0
        rows.append(
            (
                shape.decay_s,
                shape.rise_s,
                shape.quench_s if quenched else 1e9,
                afterglow,
                at_quench if quenched else 0.0,
                shape.energy_s,
            )
        )
    table = np.array(rows, dtype=float).reshape(len(rows), 6)
    return Shapes(*table.T)
