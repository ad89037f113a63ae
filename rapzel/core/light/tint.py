"""The colour of a strobe over its power, and of two lights beside each other (science §11).

Colour temperatures are compared in mired, 10⁶ / K, of which equal steps look alike.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

_ALIKE_STOPS = 1 / 6  # of a dial: as near to a measured power its colour holds
SEEN_MIRED = 10.0  # lights farther apart are told apart side by side on white; (memory)
SEEN_DUV = 0.006  # and so greener or pinker; (memory)


class Coloured(Protocol):
    """A power and its colour, where it was measured."""

    @property
    def power(self) -> float: ...
    @property
    def cct_k(self) -> float | None: ...
    @property
    def duv(self) -> float | None: ...


@dataclass(frozen=True)
class Tint:
    """Colour temperature [K] and distance from the black body line [-, + is green]; None is not known."""

    cct_k: float
    duv: float | None

    @property
    def mired(self) -> float:
        return 1e6 / self.cct_k


def tint_at(table: Sequence[Coloured], power: float) -> Tint | None:
    """The colour at a power, interpolated in mired over log2(power); None outside of what was measured."""
    known = sorted(
        (math.log2(row.power), 1e6 / row.cct_k, row.duv)
        for row in table
        if row.cct_k is not None
    )
    dial = math.log2(power)
    # A strobe's colour runs away at low power: beyond what was measured nothing is promised.
    if (
        not known
        or not known[0][0] - _ALIKE_STOPS <= dial <= known[-1][0] + _ALIKE_STOPS
    ):
        return None
    mired = float(np.interp(dial, [row[0] for row in known], [row[1] for row in known]))
    greens = [(at, duv) for at, _, duv in known if duv is not None]
    duv = None
    # With a green that is known at some powers only, the rest would be a guess.
    if len(greens) == len(known):
        duv = float(
            np.interp(dial, [row[0] for row in greens], [row[1] for row in greens])
        )
    return Tint(1e6 / mired, duv)


def mired_apart(one: Tint, other: Tint) -> float:
    """How much warmer one is than the other [mired]; negative is cooler."""
    return one.mired - other.mired


def planck_uv(cct_k: float) -> tuple[float, float]:
    """u and v (CIE 1960) [-] of a black body at a temperature [K], 1000 to 15 000 K, to 8e-5 (Krystek 1985)."""
    # The published polynomials, term by term.
    t = cct_k
    u = (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t**2) / (
        1 + 8.42420235e-4 * t + 7.08145163e-7 * t**2
    )
    v = (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t**2) / (
        1 - 2.89741816e-5 * t + 1.61456053e-7 * t**2
    )
    return u, v


def chroma(tint: Tint) -> tuple[float, float]:
    """u′ and v′ (CIE 1976) [-] of a colour: the black body's, and Duv off it at a right angle, green upwards."""
    (u, v), (u1, v1) = planck_uv(tint.cct_k), planck_uv(tint.cct_k * 1.01)
    # The next point of the line gives its direction; Duv is counted at a right angle to it.
    along = math.hypot(u1 - u, v1 - v)
    off = tint.duv or 0.0
    # Hotter is towards lower u and v; green is to the right of that way, towards higher v.
    return u + off * (v1 - v) / along, 1.5 * (v - off * (u1 - u) / along)


def swatch(tint: Tint, white: Tint, enlarged: float = 1.0) -> str:
    """A grey card in that light as a camera balanced to `white` shows it, `#rrggbb`; differences so many times over."""
    mine, theirs = _linear_srgb(tint), _linear_srgb(white)
    # A camera's white balance divides each primary by that of its white.
    shown = [
        _GREY * (one / other) ** enlarged
        for one, other in zip(mine, theirs, strict=True)
    ]
    levels = [round(255 * min(max(part, 0.0), 1.0) ** (1 / 2.2)) for part in shown]
    return f"#{levels[0]:02x}{levels[1]:02x}{levels[2]:02x}"


_GREY = 0.4  # brighter than a grey card, so that tints are seen
# From XYZ to the primaries of sRGB (IEC 61966-2-1).
_TO_SRGB = (
    (3.2406, -1.5372, -0.4986),
    (-0.9689, 1.8758, 0.0415),
    (0.0557, -0.2040, 1.0570),
)


def _linear_srgb(tint: Tint) -> list[float]:
    """A light of luminance 1 in the primaries of sRGB."""
    u, v = chroma(tint)
    # From CIE 1976 u′v′ back to xy (CIE 15), then XYZ of luminance 1.
    x, y = 9 * u / (6 * u - 16 * v + 12), 4 * v / (6 * u - 16 * v + 12)
    xyz = (x / y, 1.0, (1 - x - y) / y)
    return [
        max(sum(a * b for a, b in zip(row, xyz, strict=True)), 1e-3) for row in _TO_SRGB
    ]
