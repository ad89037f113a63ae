"""Chromaticities and swatches of lights, against colour-science."""

import colour
import pytest

from rapzel.core.light.tint import Tint, chroma, planck_uv, swatch


@pytest.mark.parametrize("cct", [2856, 4000, 5500, 6500, 9000])
@pytest.mark.parametrize("duv", [-0.006, 0.0, 0.01])
def test_chromaticity_is_that_of_the_reference_library(cct: float, duv: float) -> None:
    """Ohno (2013) in colour-science, which integrates Planck's law; Krystek's formula is good to 8e-5."""
    u, v = colour.temperature.CCT_to_uv_Ohno2013([cct, duv])
    mine_u, mine_v = chroma(Tint(cct, duv))
    assert mine_u == pytest.approx(u, abs=6e-4)
    assert mine_v / 1.5 == pytest.approx(v, abs=6e-4)


def test_the_black_body_runs_where_krystek_says() -> None:
    u, v = colour.temperature.CCT_to_uv_Krystek1985(6500)
    assert planck_uv(6500) == pytest.approx((u, v), abs=1e-7)


def test_a_swatch_is_grey_in_its_own_light_and_warm_beside_a_cooler_one() -> None:
    same = swatch(Tint(5600, 0.0), Tint(5600, 0.0))
    assert len({same[1:3], same[3:5], same[5:7]}) == 1
    red, green, blue = (
        int(swatch(Tint(4800, 0.0), Tint(5600, 0.0))[at : at + 2], 16)
        for at in (1, 3, 5)
    )
    assert red > green > blue
    more = swatch(Tint(4800, 0.0), Tint(5600, 0.0), 5.0)
    assert int(more[1:3], 16) - int(more[5:7], 16) > 3 * (red - blue)
    greener = swatch(Tint(5600, 0.01), Tint(5600, 0.0))
    assert int(greener[3:5], 16) > int(greener[1:3], 16)
