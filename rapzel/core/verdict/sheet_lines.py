"""What the run sheet says of curtains, colour, filters, the sun, flicker and a camera that follows (§9, §17, §18).

A line stands where the figures for it are there; what is missing for one that is asked for is named.
"""

from collections.abc import Iterator

from rapzel.core.light import sky, tint
from rapzel.core.light.room import ev100_from_lux, room_offset_stops
from rapzel.core.physics import Physics, daylight
from rapzel.core.physics.ratios import key_of
from rapzel.core.shared.units import (
    format_length,
    format_number,
    format_percent,
    format_shutter,
    format_stops,
)
from rapzel.core.verdict.flickers import even_marks, flicker, flickers
from rapzel.core.verdict.margin import listed
from rapzel.core.verdict.streaks import where_the_trail_lies

Line = tuple[str, str]
# Gels as they are sold, by what they move [mired] and take [stops]; orange warms (common practice).
_GELS = {
    159.0: ("a full orange gel", 2 / 3),
    81.0: ("a half orange gel", 1 / 2),
    42.0: ("a quarter orange gel", 1 / 3),
    20.0: ("an eighth orange gel", 1 / 6),
    -137.0: ("a full blue gel", 5 / 3),
    -68.0: ("a half blue gel", 1.0),
    -35.0: ("a quarter blue gel", 2 / 3),
    -18.0: ("an eighth blue gel", 1 / 3),
}


def sheet_lines(physics: Physics, imperial: bool = False) -> list[Line]:
    """Headings with their sentences, in the order in which they are set up."""
    return [
        *_curtain(physics),
        *_following(physics, imperial),
        *_colour(physics),
        *_polariser(physics),
        *_sun(physics),
        *_flicker(physics),
    ]


def _curtain(physics: Physics) -> Iterator[Line]:
    if physics.timed.second_curtain_s:
        side = where_the_trail_lies(physics)
        yield "Flash", f"Second curtain, set on the body: the room's trail lies {side}."


def _following(physics: Physics, imperial: bool) -> Iterator[Line]:
    if not physics.frame.follows:
        return
    length = format_length(physics.streak_m, imperial)
    left = format_percent(physics.frame.left_over)
    panning = physics.scene.exposure.panning
    if panning is not None and panning.error is None:
        left = f"perhaps {left}, not tried yet,"
    yield (
        "Panning",
        f"Follow from well before the event until after it, off by {left} of the subject's speed. "
        f"What stands still streaks {length}.",
    )


def _colour(physics: Physics) -> Iterator[Line]:
    """The gel that brings the flash to the room's colour, or the room's warmth against it."""
    scene = physics.scene
    room_k, key = scene.ambient.cct_k, key_of(scene)
    if room_k is None or key is None or not physics.room_seen:
        return
    light = scene.lights[key]
    own = tint.tint_at(light.table, light.power)
    if own is None:
        name = light.name or "the key"
        says = f"Room {room_k:.0f} K. The colour of {name} at this power is not known: measure it by a grey card."
        yield "Colour", says
        return
    apart = tint.mired_apart(tint.Tint(room_k, None), own)
    if abs(apart) < tint.SEEN_MIRED:
        yield "Colour", f"Room {room_k:.0f} K and key {own.cct_k:.0f} K match: no gel."
        return
    yield "Colour", _gelled(room_k, own.cct_k, apart)


def _gelled(room_k: float, key_k: float, apart: float) -> str:
    """The gel that comes nearest, and what it leaves."""
    moves, (gel, takes) = min(_GELS.items(), key=lambda one: abs(one[0] - apart))
    warmer = "warmer" if apart > 0 else "cooler"
    text = f"The room, {room_k:.0f} K, is {abs(apart):.0f} mired {warmer} than the key, {key_k:.0f} K. "
    # A gel that is further off than none would make it worse.
    if abs(apart - moves) >= abs(apart):
        return text + "No usual gel comes nearer."
    text += f"{gel.capitalize()} on the lights brings them together"
    left = abs(apart - moves)
    if left >= tint.SEEN_MIRED:
        text += f" but for {left:.0f} mired"
    return f"{text}, and takes about {format_number(takes, 2)} stop: count it as loss."


def _polariser(physics: Physics) -> Iterator[Line]:
    stops = physics.scene.exposure.polariser_stops
    if stops:
        taken = format_stops(stops, signed=False)
        yield (
            "Polariser",
            f"Takes {taken} stops of flash and room alike, counted here. Turn it before the tries: reflections go by "
            "the angle of each light, and it need not be the same for all.",
        )


def _sun(physics: Physics) -> Iterator[Line]:
    """The sun as a rim light: behind a subject that is turned away from it under a clear sky."""
    scene, at = physics.scene, physics.scene.ambient.sky
    if at is None or at.facing != "away" or at.state != "clear":
        return
    height = daylight.elevation_deg(at)
    beam_lux = sky.sun_beam_lux(height)
    if beam_lux <= 0:
        return
    exposure = scene.exposure
    stops = room_offset_stops(
        ev100_from_lux(beam_lux),
        exposure.iso,
        exposure.f_number,
        exposure.shutter_s,
        exposure.filter_stops,
        physics.frame.bellows_stops,
    )
    yield (
        "Sun",
        f"A rim light from behind, {height:.0f}° high: its edge lies {format_stops(float(stops))} stops from correct. "
        "Shade the lens.",
    )


def _flicker(physics: Physics) -> Iterator[Line]:
    if not flickers(physics):
        return
    margin = flicker(physics)
    marks = [mark for mark in even_marks(physics.scene) if mark is not None]
    even = ""
    if marks and margin.state != "passes":
        names = listed([format_shutter(mark) for mark in marks], "or")
        even = f" {names} would be even."
    says = f"{margin.says[0].upper()}{margin.says[1:]}.{even}"
    yield "Flicker", says
