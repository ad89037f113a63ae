"""One's own cut-out: what is taken, where it is drawn, and that only the marked part moves."""

import io
from typing import Any

import numpy as np
import pytest
from PIL import Image, ImageFile

from rapzel.core.decoding.cutting import packed
from rapzel.core.decoding.header import PictureError
from rapzel.core.document.places import changed
from rapzel.core.document.rehearsed import CutOut
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.rehearsal.render import linear_picture, render
from rapzel.core.shared.errors import DocumentError
from rapzel.core.subjects import cutout
from rapzel.core.subjects.drawn import subject_of
from rapzel.core.subjects.pen import View
from rapzel.core.subjects.reflectance import reflectances
from tests.plans import INSTANT, LUNGE


def png(picture: Image.Image, kind: str = "PNG") -> bytes:
    out = io.BytesIO()
    picture.save(out, kind)
    return out.getvalue()


def two_squares() -> Image.Image:
    """A white square at the left, a grey one at the right, on nothing; with a border that is trimmed."""
    picture = Image.new("RGBA", (400, 240), (0, 0, 0, 0))
    picture.paste((255, 255, 255, 255), (40, 40, 120, 200))
    picture.paste((188, 188, 188, 255), (280, 40, 360, 200))
    return picture


@pytest.mark.parametrize(
    ("file", "why"),
    [
        (png(Image.new("RGB", (20, 20), "white")), "no transparency"),
        (png(Image.new("RGBA", (20, 20), (9, 9, 9, 0))), "nothing is left"),
        (png(two_squares().convert("RGB"), "JPEG"), "not a PNG"),
        (png(two_squares())[:300], "not a PNG"),
        (b"", "not a PNG"),
    ],
)
def test_what_cannot_be_a_cut_out_says_why(
    file: bytes, why: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    # as weasyprint sets it for all
    monkeypatch.setattr(ImageFile, "LOAD_TRUNCATED_IMAGES", True)
    with pytest.raises(PictureError, match=why):
        packed(file)


def test_a_picture_is_trimmed_and_places_follow() -> None:
    kept = packed(png(two_squares()))
    assert kept.box == (0.1, 40 / 240, 0.9, 200 / 240)
    assert kept.inside(0.5, 0.5) == pytest.approx((0.5, 0.5))
    assert kept.inside(0.0, 1.0) == (0.0, 1.0)
    lit, cover = cutout.tones_of(kept.picture)
    assert cover.shape == (160, 320)
    assert lit[80, 40] == pytest.approx(0.9, abs=0.01)
    # sRGB 188 (IEC 61966-2-1)
    assert lit[80, 280] == pytest.approx(0.9 * 0.503, abs=0.02)
    assert cover[80, 160] == 0


def test_a_large_picture_is_made_smaller() -> None:
    noise = np.random.default_rng(1).integers(0, 255, (1500, 2400, 4), dtype=np.uint8)
    noise[:50] = 0
    kept = packed(png(Image.fromarray(noise)))
    assert max(cutout.tones_of(kept.picture)[1].shape) <= cutout.HIGHEST_PX
    assert len(kept.picture) < 140_000


def own(**marks: Any) -> CutOut:
    return CutOut(picture=packed(png(two_squares())).picture, **marks)


def test_rings_are_as_fast_as_they_are_far_out() -> None:
    turning = own(moving=(0.5, 0.0, 1.0, 1.0), pivot=(0.5, 0.5))
    _, cover = cutout.tones_of(turning.picture)
    fastest = np.zeros(cover.shape)
    for speed, part in cutout.parts_of(turning):
        fastest = np.where(part, speed, fastest)
    rows, columns = np.nonzero(cover > 0.5)
    away = np.hypot(columns + 0.5 - 160, rows + 0.5 - 80)
    right = columns >= 160
    assert (fastest[rows, columns][~right] == 0).all()
    share = away[right] / away[right].max()
    assert fastest[rows, columns][right] == pytest.approx(share, abs=0.15)
    assert all(part.any() for _, part in cutout.parts_of(turning))
    x, y = cutout.detail_of(turning)
    assert x > 0.7, "the inset looks at the far end of what turns"
    assert abs(y) <= 0.5


@pytest.mark.parametrize("px_per_m", [40.0, 90.0, 300.0])
def test_it_is_drawn_where_a_plain_count_puts_it(px_per_m: float) -> None:
    """The middle of the right square lies 120 of 160 pixels beside the middle: three quarters of the height."""
    view = View(px_per_m, 900, 500, centre_x_m=0.3, centre_y_m=-0.1)
    moving = own(moving=(0.5, 0.0, 1.0, 1.0))
    _, right = cutout.layers(moving, view, 0.8)
    rows, columns = np.nonzero(right.cover > 0.5)
    assert columns.mean() + 0.5 == pytest.approx(
        450 + (0.75 * 0.8 - 0.3) * px_per_m, abs=1
    )
    assert rows.mean() + 0.5 == pytest.approx(250 - 0.1 * px_per_m, abs=1)
    assert np.ptp(columns) + 1 == pytest.approx(0.5 * 0.8 * px_per_m, abs=2)
    assert right.speed == 1.0


def scene_with(cut: CutOut, **values: Any) -> Physics:
    lamp = {**LUNGE["lights"][0], "strobe": INSTANT, "power": 1.0}
    rehearsal = {"subject": "cutout", "cutout": cut.model_dump(), "size_m": 0.5}
    document = changed(
        LUNGE, {"rehearsal": rehearsal, "lights": [lamp], "ambient": {}, **values}
    )
    return Physics(read_possible_scene(document))


def width_of(row: np.ndarray) -> int:
    return int((row > 0.2 * row.max()).sum())


def drawn(row: np.ndarray) -> int:
    """How many pixels are brighter than the black ground, which returns a hundredth."""
    return int((row > 1.5 * row.min()).sum())


def test_only_the_marked_part_smears() -> None:
    long = {
        "exposure.method": "ambient",
        "ambient": {"ev100": 12.0},
        "exposure.shutter_s": 1 / 100,
    }
    sharp, smeared = (
        linear_picture(
            scene_with(own(moving=(0.5, 0.0, 1.0, 1.0)), **values), (480, 320)
        )[160, :, 0]
        for values in ({}, {**long, "lights": []})
    )
    assert width_of(smeared[:240]) == pytest.approx(width_of(sharp[:240]), abs=2)
    moved_px = 9.0 / 100 * 480 / Physics(read_possible_scene(LUNGE)).frame.field_width_m
    grown = drawn(smeared[240:]) - drawn(sharp[240:])
    assert grown == pytest.approx(moved_px, abs=3)


def test_it_counts_for_clipping_and_is_told() -> None:
    physics = scene_with(own())
    assert 0.85 < reflectances(subject_of(physics.scene.rehearsal)).max() <= 0.91
    assert physics.clipped_share is not None
    assert "your cut-out" in render(physics, (96, 64), (48, 32)).says


@pytest.mark.parametrize(
    ("rehearsal", "where"),
    [
        ({"subject": "cutout"}, "rehearsal"),
        ({"cutout": {"picture": "data:image/png;base64,AAAA"}}, "rehearsal.cutout.picture"),
        ({"cutout": {"picture": "http://a.example/a.png"}}, "rehearsal.cutout.picture"),
        ({"cutout": {"picture": "data:image/png;base64,AA", "moving": [0.5, 0, 0.5, 1]}}, "rehearsal.cutout"),
    ],
)  # fmt: skip
def test_a_document_with_a_wrong_cut_out_is_refused_by_path(
    rehearsal: Any, where: str
) -> None:
    with pytest.raises(DocumentError) as refused:
        read_possible_scene(changed(LUNGE, {"rehearsal": rehearsal}))
    assert where in [problem.path for problem in refused.value.problems]
