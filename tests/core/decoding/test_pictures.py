"""Pictures that people send: what is refused by its header, what is decoded apart, and which way is up."""

import io
import struct
import subprocess
import sys
import zlib
from collections.abc import Iterator
from pathlib import Path

import pytest
from PIL import Image

from rapzel.core.decoding import apart
from rapzel.core.decoding.header import MOST_PIXELS, PictureError, read_header
from rapzel.core.decoding.small import SIDE

ORIENTATION = 0x0112  # Exif 2.32: 6 is a camera held upright, its right side up


def encoded(picture: Image.Image, kind: str, **how: object) -> bytes:
    out = io.BytesIO()
    picture.save(out, kind, **how)
    return out.getvalue()


def claiming(width: int, height: int) -> bytes:
    """A PNG whose header claims so many pixels (ISO/IEC 15948, 11.2.2), with hardly any behind it."""
    header = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    chunks = _chunk(b"IHDR", header) + _chunk(b"IDAT", bytes(900_000))
    return b"\x89PNG\r\n\x1a\n" + chunks


def _chunk(kind: bytes, data: bytes) -> bytes:
    checked = kind + data
    return (
        struct.pack(">I", len(data)) + checked + struct.pack(">I", zlib.crc32(checked))
    )


@pytest.fixture
def lock(tmp_path: Path) -> Path:
    """Where the turn of the decoder is held."""
    return tmp_path / "decoder.lock"


@pytest.fixture
def nothing_runs(monkeypatch: pytest.MonkeyPatch) -> None:
    """Fails where anything is decoded."""

    def run(*_: object, **__: object) -> None:
        raise AssertionError("a decoder was started")

    monkeypatch.setattr(apart.subprocess, "run", run)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (claiming(11_900, 10_000), "11900 × 10000 pixels; up to 40 million"),
        (claiming(60_000, 60_000), "far too many pixels; up to 40 million"),
        (b"", "not a JPEG, PNG or WebP picture"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "not a JPEG, PNG or WebP picture"),
        (encoded(Image.new("RGB", (9, 9)), "GIF"), "not a JPEG, PNG or WebP picture"),
    ],
)  # fmt: skip
def test_what_the_header_tells_is_refused_before_anything_is_decoded(
    nothing_runs: None, data: bytes, says: str, lock: Path
) -> None:
    with pytest.raises(PictureError, match=says):
        apart.small_jpeg(data, lock)


def test_only_what_is_decoded_smaller_at_once_may_be_larger(lock: Path) -> None:
    large = Image.new("L", (7000, 6000), 90)
    assert large.width * large.height > MOST_PIXELS
    assert read_header(encoded(large, "JPEG"), ("JPEG",)).scales
    with pytest.raises(PictureError, match="7000 × 6000"):
        read_header(encoded(large, "JPEG", progressive=True), ("JPEG",))
    with Image.open(
        io.BytesIO(apart.small_jpeg(encoded(large, "JPEG"), lock))
    ) as small:
        assert max(small.size) == SIDE


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_a_frame_is_upright_and_tells_nothing_beside_its_picture(
    kind: str, lock: Path
) -> None:
    """Of a camera that was turned to the left, the sensor's left edge was above."""
    lying = Image.new("RGB", (1600, 800), "black")
    lying.paste("white", (0, 0, 400, 800))
    notes = Image.Exif()
    notes[ORIENTATION] = 6
    notes[0x010F] = "a maker"
    with Image.open(
        io.BytesIO(apart.small_jpeg(encoded(lying, kind, exif=notes), lock))
    ) as kept:
        assert kept.size == (SIDE // 2, SIDE)
        assert kept.getpixel((300, 100)) > (200, 200, 200)  # white above
        assert kept.getpixel((300, 1100)) < (50, 50, 50)
        assert not kept.getexif()


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_half_a_picture_is_none(kind: str, lock: Path) -> None:
    noise = Image.effect_noise((600, 400), 60)
    whole = encoded(noise, kind)
    with pytest.raises(PictureError, match="read"):
        apart.small_jpeg(whole[: len(whole) // 2], lock)


def test_the_largest_that_is_taken_whole_fits_into_its_memory(
    monkeypatch: pytest.MonkeyPatch, lock: Path
) -> None:
    # Of memory alone: the decoder gets what others leave of a machine, which may be little for long.
    monkeypatch.setattr(apart, "TIME_S", None)
    large = Image.new("RGBA", (7900, 5000), (9, 9, 9, 0))
    large.paste((200, 200, 200, 255), (100, 100, 3000, 3000))
    file = encoded(large, "PNG", compress_level=1)
    assert apart.packed(file, lock).picture.startswith("data:image/webp")


@pytest.mark.parametrize(
    ("command", "says"),
    [("/bin/false", "more memory than it may have"), ("sleep", "longer than")],
)
def test_a_decoder_that_ends_badly_is_told_of(
    monkeypatch: pytest.MonkeyPatch, command: str, says: str, lock: Path
) -> None:
    monkeypatch.setattr(apart, "TIME_S", 0.2)
    if command == "sleep":

        def run(*_: object, **__: object) -> None:
            raise apart.subprocess.TimeoutExpired("decoder", 0.2)

        monkeypatch.setattr(apart.subprocess, "run", run)
    monkeypatch.setattr(apart.sys, "executable", command)
    with pytest.raises(PictureError, match=says):
        apart.small_jpeg(encoded(Image.new("RGB", (9, 9)), "PNG"), lock)


PICTURE = encoded(Image.new("RGB", (9, 9)), "PNG")
HOLDS = """
import sys
from pathlib import Path
from rapzel.core.decoding.apart import one_at_a_time
with one_at_a_time(Path(sys.argv[1])):
    print("held", flush=True)
    sys.stdin.read()
"""


def test_nobody_waits_for_the_decoder(nothing_runs: None, lock: Path) -> None:
    with (
        apart.one_at_a_time(lock),
        pytest.raises(apart.DecoderBusy, match="again in a moment"),
    ):
        apart.small_jpeg(PICTURE, lock)


@pytest.fixture
def another(lock: Path) -> Iterator[subprocess.Popen[str]]:
    """Another process of the machine, which reads a picture until it is told to end."""
    command = [sys.executable, "-c", HOLDS, str(lock)]
    with subprocess.Popen(
        command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    ) as process:
        assert process.stdout is not None
        assert process.stdout.readline() == "held\n"
        yield process
        process.kill()


def test_all_processes_of_a_machine_have_one_decoder(
    another: subprocess.Popen[str], lock: Path
) -> None:
    with pytest.raises(apart.DecoderBusy, match="again in a moment"):
        apart.small_jpeg(PICTURE, lock)
    another.kill()  # whoever dies gives the turn back
    another.wait()
    assert apart.small_jpeg(PICTURE, lock).startswith(b"\xff\xd8")
