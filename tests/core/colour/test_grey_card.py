"""Colour against published values: CIE illuminants, the CIEDE2000 test data, and colour-science's own tables."""

import io
import subprocess
import sys
import zlib

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageFile

from rapzel.core.colour.grey_card import (
    FrameError,
    Patch,
    cct_and_duv,
    delta_e00,
    find_patch,
    judge,
    open_frame,
    read_patch,
)
from tests.patience import PROCESS_S


@pytest.mark.parametrize(
    ("xy", "kelvin", "duv"),
    [
        (
            (0.31271, 0.32902),
            6504,
            0.0032,
        ),  # CIE 15:2004, illuminant D65; it lies a little on the green side
        ((0.44757, 0.40745), 2856, 0.0),  # CIE 15:2004, illuminant A, a black body
        ((0.34567, 0.35850), 5003, 0.0032),  # D50
    ],
)
def test_temperatures_of_cie_illuminants(xy, kelvin, duv) -> None:
    x, y = xy
    cct, away = cct_and_duv((x / y, 1.0, (1 - x - y) / y))
    assert cct == pytest.approx(kelvin, abs=8)
    assert away == pytest.approx(duv, abs=0.0004)


@pytest.mark.parametrize(
    ("one", "other", "expected"),
    [  # Sharma, Wu and Dalal 2005, pairs 1, 7 and 25 of the CIEDE2000 test data
        ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
        ((50.0, 0.0, 0.0), (50.0, -1.0, 2.0), 2.3669),
        ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ],
)
def test_colour_differences_of_the_published_pairs(one, other, expected) -> None:
    assert delta_e00(one, other) == pytest.approx(expected, abs=1e-4)


def frame(
    rgb=(118, 118, 118),
    size=(300, 200),
    card=(100, 60, 200, 140),
    kind="PNG",
    around=(20, 30, 25),
) -> bytes:
    """A card on a busy ground."""
    rng = np.random.default_rng(4)
    pixels = rng.integers(0, 255, (size[1], size[0], 3), dtype=np.uint8)
    pixels[:, :, :] = (pixels * 0.4 + np.array(around)).astype(np.uint8)
    left, top, right, bottom = card
    pixels[top:bottom, left:right] = rgb
    out = io.BytesIO()
    Image.fromarray(pixels).save(
        out, kind, **({"quality": 95} if kind == "JPEG" else {})
    )
    return out.getvalue()


WHOLE = Patch(0.4, 0.4, 0.2, 0.2)


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF"])
def test_a_neutral_card_has_the_white_balances_temperature(kind: str) -> None:
    picture = open_frame(frame(kind=kind))
    for balance in (3200.0, 5500.0, 6500.0):
        assert read_patch(picture, WHOLE, balance).cct_k == pytest.approx(
            balance, rel=0.004
        )


def test_the_card_is_found() -> None:
    picture = open_frame(frame(card=(170, 20, 280, 120)))
    patch = find_patch(picture)
    assert patch.left >= 170 / 300 - 0.04
    assert patch.left + patch.width <= 280 / 300 + 0.04
    assert patch.top >= 20 / 200 - 0.05
    assert patch.top + patch.height <= 120 / 200 + 0.05
    with pytest.raises(FrameError, match="Draw the patch"):
        find_patch(open_frame(frame(card=(0, 0, 1, 1))))


def test_exposure_is_in_stops_and_warm_is_fewer_kelvin() -> None:
    bright, dark = (
        read_patch(open_frame(frame((v, v, v))), WHOLE, 5500) for v in (188, 137)
    )
    # sRGB 188 and 137 are 0.503 and 0.250 of full light (IEC 61966-2-1): one stop apart.
    assert bright.exposure_stops - dark.exposure_stops == pytest.approx(1.0, abs=0.02)
    warm = read_patch(open_frame(frame((130, 118, 106))), WHOLE, 5500)
    green = read_patch(open_frame(frame((115, 124, 115))), WHOLE, 5500)
    assert warm.cct_k < 5200
    assert green.duv > 0.004


def test_the_pop_that_strays_is_flagged_and_exposure_alone_is_not() -> None:
    values = [(118, 118, 118)] * 8 + [(100, 100, 100), (126, 118, 110)]
    readings = [read_patch(open_frame(frame(each)), WHOLE, 5500) for each in values]
    judged = judge(readings, tolerance=1.0)
    assert [each.beyond for each in judged] == [False] * 9 + [True]
    assert judged[8].exposure_stops < -0.3
    assert judged[8].delta_e00 < 1
    assert judged[9].mired_shift > 10
    assert sum(each.mired_shift for each in judged) == pytest.approx(0, abs=1e-9)
    assert judge([]) == []


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "Not a picture"),
        (b"GIF89a" + b"\0" * 100, "Not a picture"),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 50, "Not a picture"),
        (frame()[:400], "Not a picture"),
    ],
)
def test_what_is_no_picture_is_refused(data: bytes, says: str, monkeypatch) -> None:
    # as other libraries leave it
    monkeypatch.setattr(ImageFile, "LOAD_TRUNCATED_IMAGES", True)
    with pytest.raises(FrameError, match=says):
        open_frame(data)


def test_clipped_dark_and_strongly_coloured_cards_are_refused() -> None:
    for rgb, says in (
        ((255, 250, 240), "clipped"),
        ((10, 10, 10), "too dark"),
        ((10, 240, 10), "too strongly"),
    ):
        with pytest.raises(FrameError, match=says):
            read_patch(open_frame(frame(rgb)), WHOLE, 5500)
    with pytest.raises(FrameError, match="inside the frame"):
        Patch(0.9, 0.1, 0.5, 0.1)


def test_sixteen_bit_grey_is_read_at_its_scale() -> None:
    out = io.BytesIO()
    Image.fromarray(np.full((64, 64), 30_000, dtype=np.uint16)).save(out, "TIFF")
    level = float(open_frame(out.getvalue()).mean())
    # IEC 61966-2-1, by hand
    assert level == pytest.approx(((30_000 / 65535 + 0.055) / 1.055) ** 2.4, rel=1e-6)


@pytest.mark.parametrize("kind", ["PNG", "TIFF, LZW", "TIFF, planes"])
def test_sixteen_bits_of_colour_stay_sixteen(kind: str) -> None:
    """A level between two of an eight-bit file must come out between them."""
    levels = np.empty((64, 80, 3), dtype=np.uint16)
    levels[:] = (30_100, 30_001, 29_900)  # all three are 116 or 117 of 255
    out = io.BytesIO()
    if kind == "PNG":
        out.write(imagecodecs.png_encode(levels))
    elif kind == "TIFF, LZW":
        tifffile.imwrite(out, levels, compression="lzw", photometric="rgb")
    else:
        tifffile.imwrite(
            out, np.moveaxis(levels, 2, 0), photometric="rgb", planarconfig="separate"
        )
    found = open_frame(out.getvalue()).mean(axis=(0, 1))
    # IEC 61966-2-1
    expected = [
        ((level / 65535 + 0.055) / 1.055) ** 2.4 for level in (30_100, 30_001, 29_900)
    ]
    assert found == pytest.approx(expected, rel=1e-5)


def png_that_claims(width: int, height: int) -> bytes:
    """A PNG of a hundred bytes whose header says that it is that large."""
    plain = bytearray(frame(size=(8, 8), card=(2, 2, 4, 4)))
    plain[16:24] = width.to_bytes(4, "big") + height.to_bytes(4, "big")
    plain[29:33] = zlib.crc32(plain[12:29]).to_bytes(4, "big")
    return bytes(plain)


@pytest.mark.parametrize(
    ("width", "height"), [(12_000, 9_000), (2**31 - 1, 2**31 - 1), (100_000, 2)]
)
def test_size_is_asked_before_anything_is_decoded(width: int, height: int) -> None:
    with pytest.raises(FrameError, match=r"up to 70 (million )?are read"):
        open_frame(png_that_claims(width, height))


def test_a_file_that_lies_about_its_size_is_refused(monkeypatch) -> None:
    # as other libraries leave it
    monkeypatch.setattr(ImageFile, "LOAD_TRUNCATED_IMAGES", True)
    with pytest.raises(FrameError, match="Not a picture that can be read"):
        open_frame(png_that_claims(7000, 7000))


LARGEST = """
import io
from pathlib import Path
from PIL import Image
from rapzel.core.colour.grey_card import open_frame
Image.MAX_IMAGE_PIXELS = None
out = io.BytesIO()
Image.new("RGB", (8360, 8360), (118, 118, 118)).save(out, "PNG", compress_level=1)
data = out.getvalue()
assert open_frame(data).shape[2] == 3
status = Path("/proc/self/status").read_text()
print(int(status.split("VmHWM:")[1].split()[0]) // 1024)
"""


def test_the_largest_frame_is_read_within_half_a_gigabyte() -> None:
    """In a process of its own, which also made the frame: reading must not need much more than the making.

    Asked of /proc, since getrusage counts what the parent had in memory when it started the process, too.
    """
    done = subprocess.run(
        [sys.executable, "-c", LARGEST],
        capture_output=True,
        text=True,
        check=True,
        timeout=PROCESS_S,
    )
    assert int(done.stdout) < 500
