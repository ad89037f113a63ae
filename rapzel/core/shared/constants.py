"""Numbers that are not the scene's own, each with its unit and source (docs/science.md lists them)."""

import math

GRAVITY_M_S2 = 9.80665  # standard acceleration of free fall, ISO 80000-3
FLAT_RECEPTOR_C = 250.0  # incident-light calibration constant, flat receptor [lx s], ISO 2720
ZERO_CELSIUS_K = 273.15
SOUND_AT_0C_M_S = 331.3  # dry air at 0 °C

CIRCLE_DIVISOR = 1500.0  # sensor diagonal / circle of confusion, common practice
ARC_MINUTE_RAD = math.radians(1 / 60)  # resolving power of a normal eye, common practice
STILL_M_S = 1e-12  # an image slower than this needs days to cross a pixel: it stands still
TENTH_OF_A_STOP = 2.0**-0.1  # share of the light that leaves a tenth of a stop missing, 93.3 %

TRAIL_STOPS = 3.0  # ambient less far under the flash than this leaves a visible trail, common practice
CLEAR_STOPS = 5.0  # beyond 5-6 stops under, no trail is seen, common practice

DARKEST_STOPS = 20.0  # a loss of this many stops or more is reported as this: no sensor records the rest
SLOWEST_SHARE = 0.1  # the slowest light decides from this share of the exposure on (scene document)

# The shortest exposure of a body that does not say its own [s], by kind of shutter; common practice.
FASTEST_SHUTTER_S = {"focal_plane": 1 / 8000, "leaf": 1 / 4000, "rolling": 1 / 32000, "global": 1 / 80000}
SMALLEST_POWER = 1 / 512  # of a strobe that does not say its own; common practice

RISE_SHARE = 1 / 100  # rise time constant over decay time constant of a discharge (memory)
AFTERGLOW_S = 40e-6  # afterglow time constant of a quenched strobe of which only one setting is known (memory)

SOURCE_PRACTICE = "common practice"
SOURCE_ISO_2720 = "ISO 2720"
SOURCE_ISO_2827 = "ISO 2827"
SOURCE_ISO_1230 = "ISO 1230"
SOURCE_THIN_LENS = "thin lens"
SOURCE_DEFINITION = "definition"
