"""Numbers that are not the scene's own, each with its unit and source (docs/science.md lists them)."""

import math

GRAVITY_M_S2 = 9.80665  # standard acceleration of free fall, ISO 80000-3
# incident-light calibration constant, flat receptor [lx s], ISO 2720
FLAT_RECEPTOR_C = 250.0
ZERO_CELSIUS_K = 273.15
SOUND_AT_0C_M_S = 331.3  # dry air at 0 °C

CIRCLE_DIVISOR = 1500.0  # sensor diagonal / circle of confusion, common practice
# resolving power of a normal eye, common practice
ARC_MINUTE_RAD = math.radians(1 / 60)
# an image slower than this needs days to cross a pixel: it stands still
STILL_M_S = 1e-12
# share of the light that leaves a tenth of a stop missing, 93.3 %
TENTH_OF_A_STOP = 2.0**-0.1

# ambient less far under the flash than this leaves a visible trail, common practice
TRAIL_STOPS = 3.0
# A room or backdrop that is so many stops under correct exposure is black in the picture, common practice.
BLACK_STOPS = 5.0
ROOM_WITHIN_STOPS = 0.5  # of the stops at which a room is wanted
BACKDROP_DOUBT = 0.5  # of how much light a surface sends back, and of how the lights' rims fall on it (memory)
MIDDLE_GREY = 0.18
CLEAR_STOPS = 5.0  # beyond 5-6 stops under, no trail is seen, common practice

# a loss of this many stops or more is reported as this: no sensor records the rest
DARKEST_STOPS = 20.0

# The shortest exposure of a body that does not say its own [s], by kind of shutter; common practice.
FASTEST_SHUTTER_S = {
    "focal_plane": 1 / 8000,
    "leaf": 1 / 4000,
    "rolling": 1 / 32000,
    "global": 1 / 80000,
}
SMALLEST_POWER = 1 / 512  # of a strobe that does not say its own; common practice

# Mean and spread of a person who triggers by hand [s]: reacting to the event, or anticipating it in a rhythm (memory).
FINGER_S = {"reacts": (0.20, 0.03), "anticipates": (0.0, 0.04)}
# Release lag of a body of each kind, half pressed, and its jitter [s] (memory): reflex with mirror 55-90 ms, mirrorless
# with first electronic curtain 30-60 ms, global shutter 5-40 ms.
USUAL_LAG_S = {"focal_plane": 0.055, "leaf": 0.05, "rolling": 0.045, "global": 0.02}
USUAL_LAG_JITTER_S = 0.003
# nobody opens a shutter by hand for less and still has the event in it (memory)
OPEN_BY_HAND_S = 0.2
# pulse trains are made for mechanical curtains and end soon after these (memory)
LONGEST_HSS_S = 0.012
# A point's blur as the length of an even smear with the same standard deviation (√12 σ): of an Airy disc, whose core is
# near to a normal law of σ = 0.42 λ N, by its diameter of 2.44 λ N; of an even disc, σ = a quarter of its diameter.
AIRY_AS_SMEAR = math.sqrt(12) * 0.42 / 2.44
DISC_AS_SMEAR = math.sqrt(12) / 4
# All blur together is sharp up to √2 criteria, one for motion and one for the rest; from two on it is not.
BLUR_SHARP, BLUR_SOFT = math.sqrt(2.0), 2.0
WAVELENGTH_M = 550e-9  # middle of the visible, for diffraction

# How far a figure may be off, either way [stops], by how it is known (memory; a bench and a meter do better).
DURATION_DOUBT = {"measured": 0.1, "claimed": 0.35, "estimated": 0.5}
LIGHT_DOUBT = {"measured": 0.1, "claimed": 0.5, "estimated": 1.0}
DIAL_DOUBT = 0.15  # of a power dial whose steps were not measured
# A range "± doubt" is meant to hold in nine of ten cases; so many standard deviations are that for a normal law.
NINE_IN_TEN_SD = 1.645
# How far a lag may be off for a whole shoot, as a share of it, by how it is known (memory; a bench does better).
LAG_DOUBT = {"measured": 0.02, "claimed": 0.15, "estimated": 0.3}
# How far the mean of a person who was never measured is from the common one [s], either way (memory).
FINGER_DOUBT_S = {"reacts": 0.04, "anticipates": 0.03}
TAPE_DOUBT = (
    0.02  # of a distance taken with a tape, and so of the air that sound passes
)
# A spread of ways that nobody stated is anywhere between none and so much of the subject's length (memory).
UNSAID_WAYS = 0.25
# the same where its length is not stated, as a share of the width of the frame
UNSAID_WAYS_OF_FRAME = 0.05
UNSAID_SPEEDS = 0.1  # a spread of speeds that nobody stated: from none to so much of the speed (memory)
# Of a stated spread of speeds half the variance is from try to try; the other half is whose body it is on that day,
# and off once for all tries (memory). Together they are what was stated.
OF_THE_DAY = math.sqrt(0.5)
# What a strobe commonly loses to its own pulse train [stops], and how far from it one that was never metered may be
# (memory)
HSS_LOSS_STOPS = 0.7
HSS_LOSS_DOUBT = 0.7
MOST_RECYCLE_FLOOR_S = (
    0.3  # of a strobe whose dead time at low power nobody has timed (memory)
)
RECYCLE_DOUBT = 0.2  # of a recycle time as makers give it, for a fresh battery (memory)
MODIFIER_DOUBT = 0.15  # for each stop that a modifier is said to lose (memory)
UNSAID_SOURCE_M = 0.6  # longest side of a modifier whose size nobody states (memory)
LAMP_DOUBT = 0.5  # of lamps by their maker's lux (memory)
BEYOND_TABLE_DOUBT = 0.35  # more for each stop of power outside the known settings
BETWEEN_DOUBT = 0.1  # more for each stop between a power and the nearest known setting
CONVERTED_DOUBT = 0.3  # more where t.1 is worked out from t.5
ROOM_DOUBT = {"meter": 0.1, "lux": 0.1, "ev100": 0.3}
SLOWEST_FLICKER_HZ = 100.0  # of lamps on 50 Hz mains; dimmers are quicker (memory)
BRIGHTEST_LAMPS_EV = 11.0  # at ISO 100, of a hall or stage by lamps (memory)
# A camera that follows is off by so much of the angular speed, two tries in three, until somebody has tried; up to 0.2
# by the practised, down to 0.05 by the best (memory).
PANNING_ERROR = 0.12
PANNING_DOUBT = math.log2(0.2 / PANNING_ERROR)
# The flash of the second curtain is fired so long before that curtain starts [s] (memory).
SECOND_CURTAIN_LEAD_S = 0.002
# nearer than this many sizes of a source the inverse square is out by more than 5 % (integrated)
NEAR_SIZES = 2.6
# A frame that is so much darker than planned is seen to be; so many of them nobody minds (a choice: one in twenty).
DARK_FRAME_STOPS = 0.5
DARK_FRAMES = 0.05
# no radio jumps about by more than this [s, sd]; for one whose jitter is not known (memory)
MOST_RADIO_JITTER_S = 0.0005
RIGHT_STOPS = 1 / 3  # within this of correct an exposure is right
# between the brightest and the darkest row, both right by the one between them
EVEN_STOPS = 2 * RIGHT_STOPS

# rise time constant over decay time constant of a discharge (memory)
RISE_SHARE = 1 / 100
# afterglow time constant of a quenched strobe of which only one setting is known (memory)
AFTERGLOW_S = 40e-6

SOURCE_MEMORY = "memory"
SOURCE_PRACTICE = "common practice"
SOURCE_ISO_2720 = "ISO 2720"
SOURCE_ISO_2827 = "ISO 2827"
SOURCE_ISO_1230 = "ISO 1230"
SOURCE_THIN_LENS = "thin lens"
SOURCE_DEFINITION = "definition"
