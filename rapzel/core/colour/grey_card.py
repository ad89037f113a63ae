"""Colour of a light from frames of a grey card: CCT, Duv, ΔE00 to the mean and exposure, pop by pop (science §9).

colour-science does the colorimetry. A camera's frames know colour only against their white balance, so that has to be
the same, and known, for all frames. colour-science takes seconds to load and is imported when it is first needed.
"""

import io
import math
import warnings
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt
from PIL import Image

from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.tone import decoded

Array = npt.NDArray[np.floating]
LARGEST_FRAME = 60 * 2**20
# Pixels that are decoded within half a gigabyte: up to four bytes each, eight with sixteen bits, six while a
# progressive JPEG is put together; other JPEGs are read smaller at once.
_MOST_PIXELS, _MOST_HEAVY, _MOST_DRAFTED = 70_000_000, 40_000_000, 160_000_000
_LONGEST_SIDE = 60_000
_WORKING = 1200  # px of the longer side on which a patch is looked for
_BLOCKS = 24  # along the longer side
_CLIPPED, _DARK = 0.985, 0.02  # of full scale, beyond which a patch tells nothing
# Duv beyond which a correlated colour temperature means nothing; CIE 15:2004
_FAR = 0.05
_EVEN = 0.08  # scatter over mean of a patch that may be a card


class FrameError(CoreError, ValueError):
    """A frame that cannot be used; str() says why and what would be accepted."""


@dataclass(frozen=True, slots=True)
class Patch:
    """The card in the frame: left, top, width and height as shares of the frame."""

    left: float
    top: float
    width: float
    height: float

    def __post_init__(self) -> None:
        inside = self.left >= 0 and self.top >= 0 and self.left + self.width <= 1.0001
        if not (
            inside
            and self.top + self.height <= 1.0001
            and self.width > 0.001
            and self.height > 0.001
        ):
            raise FrameError("The patch must lie inside the frame and have some size.")


@dataclass(frozen=True, slots=True)
class Reading:
    """One frame's card: linear sRGB, XYZ under the white balance, CCT [K], Duv and exposure [stops against 1]."""

    rgb: tuple[float, float, float]
    xyz: tuple[float, float, float]
    cct_k: float
    duv: float
    exposure_stops: float


@dataclass(frozen=True, slots=True)
class Judged:
    """A reading among its siblings: distance to their mean colour, mired and exposure against the mean, and a flag."""

    reading: Reading
    delta_e00: float
    mired_shift: float
    exposure_stops: float
    beyond: bool


def open_frame(data: bytes) -> Array:
    """A JPEG, PNG or TIFF as linear sRGB (height × width × 3, 0 … 1), averaged down to what a patch needs.

    Sixteen bits stay sixteen. Raises FrameError for anything else, for half a picture, and for one with more pixels
    than are decoded within half a gigabyte.
    """
    if len(data) > LARGEST_FRAME:
        raise FrameError(
            f"The frame has {len(data) / 2**20:.0f} MB; up to 60 MB are read."
        )
    try:
        with warnings.catch_warnings():
            # the limits below are our own
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "TIFF")) as image:
                _refuse_the_large(data, image)
                return _averaged(_LEVELS[image.format or ""](data, image))
    except FrameError:
        raise
    except Image.DecompressionBombError:
        most = f"up to {_MOST_PIXELS / 1e6:.0f} million are read"
        raise FrameError(
            f"The frame claims to have far more pixels than any camera; {most}."
        ) from None
    # the decoders raise whatever the file's bytes lead them to
    except Exception as error:
        raise FrameError(
            f"Not a picture that can be read ({error}). Accepted: JPEG, PNG, TIFF."
        ) from None


def _is_deep(data: bytes, image: Image.Image) -> bool:
    """Whether a channel has sixteen bits."""
    if image.format == "PNG":
        # of IHDR, which is always first; PNG (ISO/IEC 15948), 11.2.2
        return data[24] == 16
    # BitsPerSample; TIFF 6.0, section 8
    bits: Any = getattr(image, "tag_v2", {}).get(258, ())
    return image.format == "TIFF" and max(bits, default=8) > 8


def _refuse_the_large(data: bytes, image: Image.Image) -> None:
    """By what the header says, before anything is decoded."""
    pixels = image.width * image.height
    # Both take twice the memory a pixel while they are decoded.
    heavy = _is_deep(data, image) or bool(image.info.get("progressive"))
    if heavy:
        most = _MOST_HEAVY
    elif image.format == "JPEG":
        most = _MOST_DRAFTED
    else:
        most = _MOST_PIXELS
    if pixels > most or max(image.size) > _LONGEST_SIDE:
        shown = f"{pixels / 1e6:.0f} million pixels; up to {most / 1e6:.0f} are read of its kind"
        raise FrameError(f"The frame has {shown}. Export it smaller: a card needs few.")


class _Jpeg:
    """A JPEG, decoded smaller at once, and read some rows at a time."""

    def __init__(self, data: bytes, image: Image.Image) -> None:
        # Whether its decoder minds a missing end is a setting for the whole process, which other libraries change.
        if b"\xff\xd9" not in data[-65_536:]:
            raise FrameError(
                "Not a picture that can be read (it ends too early). Accepted: JPEG, PNG, TIFF."
            )
        image.draft("RGB", (_WORKING * 2, _WORKING * 2))
        image.load()
        self._image = image
        self.shape = (image.height, image.width)

    def __getitem__(self, rows: slice) -> npt.NDArray[np.uint8]:
        box = (0, rows.start, self.shape[1], min(rows.stop, self.shape[0]))
        return np.asarray(self._image.crop(box).convert("RGB"))


def _png(data: bytes, image: Image.Image) -> npt.NDArray[Any]:
    """All levels of a PNG (height × width, or × channels); sixteen bits stay sixteen, and half a file is refused."""
    import imagecodecs  # noqa: PLC0415  decoders are loaded by the one that needs them

    return np.asarray(imagecodecs.png_decode(data))


def _tiff(data: bytes, image: Image.Image) -> npt.NDArray[Any]:
    """All levels of a TIFF's first page, likewise."""
    import tifffile  # noqa: PLC0415

    with tifffile.TiffFile(io.BytesIO(data)) as file:
        page: Any = file.pages[0]
        if page.photometric.name not in ("RGB", "MINISBLACK", "YCBCR"):
            raise FrameError(
                f"This TIFF is {page.photometric.name}. Accepted: RGB or grey, of 8 or 16 bits a channel."
            )
        levels = page.asarray()
    # one plane after another
    return (
        np.moveaxis(levels, 0, 2)
        if levels.ndim == 3 and levels.shape[2] > 4
        else levels
    )


_LEVELS: dict[str, Callable[[bytes, Image.Image], Any]] = {
    "JPEG": _Jpeg,
    "PNG": _png,
    "TIFF": _tiff,
}


def _averaged(levels: Any) -> Array:
    """Linear light, averaged in squares; a strip at a time, so that only the strip is ever held as fractions."""
    height, width = levels.shape[:2]
    # A card is a few percent of a frame: a thousand pixels a side show it well enough.
    step = max(max(height, width) // _WORKING, 1)
    if min(height, width) < step:
        raise FrameError("The frame is a line, not a picture.")
    strip = step * max(2**20 // (step * width), 1)
    columns = width // step * step
    parts = []
    for top in range(0, height // step * step, strip):
        rows = levels[top : min(top + strip, height // step * step)][:, :columns]
        if rows.ndim == 2:
            rows = rows[..., None]
        # without its opacity
        if rows.shape[2] >= 3:
            rows = rows[..., :3]
        else:
            rows = rows[..., :1]
        if rows.dtype not in _LINEAR:
            raise FrameError(
                f"The frame's levels are {rows.dtype}. Accepted: 8 or 16 bits a channel."
            )
        # By a table: the curve is worked out once a level, not once a pixel.
        light = _LINEAR[rows.dtype][rows]
        parts.append(
            light.reshape(-1, step, columns // step, step, light.shape[2]).mean(
                axis=(1, 3)
            )
        )
    grid = np.concatenate(parts)
    return np.asarray(
        grid if grid.shape[2] == 3 else np.repeat(grid, 3, axis=2), dtype=np.float64
    )


# Linear light of every level, by the kind of level.
_LINEAR = {
    np.dtype(kind): decoded(np.arange(most + 1) / most).astype(np.float32)
    for kind, most in ((np.uint8, 255), (np.uint16, 65_535))
}


def find_patch(frame: Array) -> Patch:
    """The largest even, neither clipped nor dark area near the middle. Raises FrameError where there is none."""
    size = max(max(frame.shape[:2]) // _BLOCKS, 4)
    rows, columns = frame.shape[0] // size, frame.shape[1] // size
    blocks = frame[: rows * size, : columns * size].reshape(
        rows, size, columns, size, 3
    )
    mean, scatter = blocks.mean(axis=(1, 3)), blocks.std(axis=(1, 3))
    # Every channel has to tell something: one that is clipped shifts the colour.
    good = (mean.max(axis=2) < _CLIPPED) & (mean.min(axis=2) > _DARK)
    good &= (scatter / np.maximum(mean, 1e-6)).max(axis=2) < _EVEN
    best: tuple[float, int, int, int] | None = None
    # The largest square first; of several of one size the one nearest to the middle.
    for span in range(max(min(rows, columns) // 2, 2), 1, -1):
        for top in range(rows - span + 1):
            for left in range(columns - span + 1):
                part = mean[top : top + span, left : left + span]
                if not good[top : top + span, left : left + span].all():
                    continue
                if (
                    float((part.std(axis=(0, 1)) / part.mean(axis=(0, 1))).max())
                    > _EVEN
                ):
                    continue
                away = math.hypot(
                    (top + span / 2) / rows - 0.5, (left + span / 2) / columns - 0.5
                )
                if best is None or away < best[0]:
                    best = (away, top, left, span)
        if best:
            break
    if best is None:
        raise FrameError(
            "No even grey area was found that is neither clipped nor dark. Draw the patch on the card."
        )
    _, top, left, span = best
    return Patch(left / columns, top / rows, span / columns, span / rows)


def read_patch(frame: Array, patch: Patch, white_balance_k: float) -> Reading:
    """The card's colour. Raises FrameError for a patch that is clipped or too dark to tell.

    white_balance_k: colour temperature that all frames were developed for [K]; neutral in the frame means that light.
    """
    height, width = frame.shape[:2]
    top, left = int(patch.top * height), int(patch.left * width)
    part = frame[
        top : max(int((patch.top + patch.height) * height), top + 1),
        left : max(int((patch.left + patch.width) * width), left + 1),
    ]
    # Averaged as light, which is why the frame was made linear.
    rgb = part.mean(axis=(0, 1))
    if float(rgb.max()) > _CLIPPED:
        raise FrameError("The card is clipped: a channel is at its limit. Expose less.")
    if float(rgb.max()) < _DARK:
        raise FrameError("The card is too dark to tell its colour. Expose more.")
    xyz = _seen_under(rgb, white_balance_k)
    cct, duv = cct_and_duv(xyz)
    return Reading(_three(rgb), _three(xyz), cct, duv, math.log2(float(xyz[1])))


def _three(values: Array) -> tuple[float, float, float]:
    return float(values[0]), float(values[1]), float(values[2])


def _colour() -> Any:
    with warnings.catch_warnings():
        # it misses a plotting library that is of no use here
        warnings.simplefilter("ignore")
        import colour  # noqa: PLC0415

    return colour


def _seen_under(rgb: Array, white_balance_k: float) -> Array:
    """XYZ of the light on the card: sRGB's white is moved to the white that the frames were balanced for (Bradford)."""
    colour = _colour()
    space = colour.RGB_COLOURSPACES["sRGB"]
    xyz = space.matrix_RGB_to_XYZ @ rgb
    # CIE daylight from 4000 K on, black body below: the whites that cameras balance for.
    daylight = white_balance_k >= 4000
    if daylight:
        xy = colour.temperature.CCT_to_xy_CIE_D(white_balance_k)
    else:
        xy = _black_body_xy(white_balance_k)
    white = colour.xy_to_XYZ(xy)
    d65 = colour.xy_to_XYZ(space.whitepoint)
    return np.asarray(
        colour.adaptation.chromatic_adaptation_VonKries(
            xyz, d65, white, transform="Bradford"
        )
    )


def _black_body_xy(kelvin: float) -> Array:
    colour = _colour()
    return np.asarray(
        colour.UCS_uv_to_xy(colour.temperature.CCT_to_uv_Planck1900(kelvin))
    )


def cct_and_duv(xyz: Sequence[float] | Array) -> tuple[float, float]:
    """Correlated colour temperature [K] and Duv (above 0: greenish) of XYZ. Source: Ohno 2013."""
    colour = _colour()
    uv = colour.UCS_to_uv(colour.XYZ_to_UCS(np.asarray(xyz)))
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        cct, duv = colour.temperature.uv_to_CCT_Ohno2013(uv)
    if not (
        np.isfinite(cct)
        and np.isfinite(duv)
        and 1000 <= cct <= 40_000
        and abs(duv) <= _FAR
    ):
        raise FrameError(
            "The patch is too strongly coloured for a colour temperature: is it the grey card?"
        )
    return float(cct), float(duv)


def delta_e00(lab_one: Sequence[float], lab_other: Sequence[float]) -> float:
    """Colour difference [ΔE00] of two CIE Lab colours. Source: CIEDE2000."""
    return float(
        _colour().delta_E(np.asarray(lab_one), np.asarray(lab_other), method="CIE 2000")
    )


def judge(readings: Sequence[Reading], tolerance: float = 1.0) -> list[Judged]:
    """Each pop against the mean of all.

    ΔE00 at equal lightness, [mired], exposure [stops]; flagged beyond `tolerance` ΔE00.

    Exposure is told apart: every colour is brought to the mean luminance before it is compared.
    """
    if not readings:
        return []
    colour = _colour()
    xyz = np.array([reading.xyz for reading in readings])
    # Brighter is not another colour: all are brought to one luminance.
    level = xyz / xyz[:, 1:2]
    mean = level.mean(axis=0)
    # Lab of an 18 % card under the mean light; lightness alone does not differ by construction.
    white = mean / mean[1]
    xy = colour.XYZ_to_xy(white)
    labs = colour.XYZ_to_Lab(level * 0.18, xy)
    lab_mean = colour.XYZ_to_Lab(mean * 0.18, xy)
    # Equal steps in mired look alike; equal steps in kelvin do not.
    mired = np.array([1e6 / reading.cct_k for reading in readings])
    stops = np.array([reading.exposure_stops for reading in readings])
    distances = [delta_e00(lab, lab_mean) for lab in labs]
    return [
        Judged(
            reading,
            apart,
            float(m - mired.mean()),
            float(s - stops.mean()),
            apart > tolerance,
        )
        for reading, apart, m, s in zip(readings, distances, mired, stops, strict=True)
    ]
