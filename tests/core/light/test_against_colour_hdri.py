"""Exposure against a reference library: colour-hdri's exposure values and focal-plane exposure (ISO 2720, ISO 12232).

The library's functions share no code with the core; a strobe is given to them as what it lays on the subject.
"""

import warnings

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.frame import optics
from rapzel.core.light import guide, room
from rapzel.core.shutter import rows
from rapzel.core.strobes import leaflets
from tests.plans import LUNGE

with warnings.catch_warnings():
    warnings.simplefilter("ignore")  # it says that it can draw no diagrams here
    import colour_hdri

f_numbers = st.floats(1, 32)
shutters = st.floats(1 / 32000, 30)
isos = st.floats(25, 102400)
given_any = settings(max_examples=50)


@given(f_numbers, shutters, isos)
@given_any
def test_exposure_value_of_a_reading(
    f_number: float, shutter_s: float, iso: float
) -> None:
    expected = colour_hdri.exposure_value_100(f_number, shutter_s, iso)
    assert room.ev100_from_reading(f_number, shutter_s, iso) == pytest.approx(
        expected, abs=1e-9
    )


@given(st.floats(0.01, 150_000))
@given_any
def test_exposure_value_of_an_illuminance(lux: float) -> None:
    expected = colour_hdri.illuminance_to_exposure_value(lux, 100, 250)
    assert room.ev100_from_lux(lux) == pytest.approx(float(expected), abs=1e-9)


@given(f_numbers, isos, st.floats(0.2, 50))
@given_any
def test_guide_number_is_the_exposure_that_the_camera_asks_for(
    f_number: float, iso: float, distance_m: float
) -> None:
    """A flash lays its whole exposure within any time: E · t of the meter's equation, ISO 2720 and ISO 1230."""
    lux_seconds = float(colour_hdri.average_illuminance(f_number, 1.0, iso, 250))
    guide_number = leaflets.from_lux_seconds(lux_seconds, distance_m).guide_number_m
    assert guide.correct_f_number(guide_number, iso, 1, distance_m, 0) == pytest.approx(
        f_number
    )


@given(st.floats(0.5, 40), st.floats(0, 5), st.floats(-8, 0))
@given_any
def test_a_flash_lights_by_the_inverse_square_and_the_losses(
    distance_m: float, nd_stops: float, power_stops: float
) -> None:
    """The scene's offset, from the beam's candela seconds over the distance squared (ISO 1230)."""
    light = {
        **LUNGE["lights"][0],
        "power": 2.0**power_stops,
        "distance_m": distance_m,
        "loss_stops": 0.0,
    }
    open_long = {"exposure.shutter_s": 1 / 15, "exposure.nd_stops": nd_stops}
    scene = changed(LUNGE, {"lights": [light], **open_long})
    # GN 60
    candela_seconds = float(colour_hdri.average_illuminance(60.0, 1.0, 100.0, 250))
    laid = candela_seconds * 2.0**power_stops / distance_m**2
    behind = colour_hdri.adjust_exposure(
        laid, -nd_stops - optics.bellows_stops(0.05 / 3.95)
    )
    wanted = colour_hdri.average_illuminance(8.0, 1.0, 200.0, 250)
    assert evaluate(scene).flash_offset_stops == pytest.approx(
        float(np.log2(behind / wanted))
    )


@given(st.floats(0.001, 5))
@given_any
def test_what_a_drawn_out_lens_loses(magnification: float) -> None:
    """Focal-plane exposure at an image distance of f (1 + m), thin lens (ISO 12232's equation, no flare)."""
    at_infinity, near = (
        colour_hdri.focal_plane_exposure(100, 8, 1 / 60, 0.05, 0.05 * (1 + m), 0)
        for m in (0.0, magnification)
    )
    assert optics.bellows_stops(magnification) == pytest.approx(
        float(np.log2(at_infinity / near))
    )


@given(st.floats(0.001, 0.01), st.floats(1 / 16000, 0.01))
@given_any
def test_what_the_slit_leaves_of_a_flash(travel_s: float, shutter_s: float) -> None:
    """One energy drawn out over travel and shutter is a lamp of that illuminance, open for the shutter alone."""
    whole = 160.0  # [lx s], f/8 at ISO 100
    lamp_lux = whole / (travel_s + shutter_s)
    seen = float(colour_hdri.illuminance_to_exposure_value(lamp_lux, 100, 250))
    asked = float(colour_hdri.exposure_value_100(8.0, shutter_s, 100.0))
    assert rows.slit_loss_stops(travel_s, shutter_s) == pytest.approx(
        asked - seen, abs=1e-9
    )
