"""The margins of light and ghost: exposed right, and no trail by the room (science §5, §6)."""

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.physics import Physics
from rapzel.core.shared import constants
from rapzel.core.shared.units import format_f_number, format_number, format_stops
from rapzel.core.shared.working import Step, least_certain, step
from rapzel.core.verdict.margin import margin, state_of, two_sided

TRAVEL_UNKNOWN = "curtain travel not known: test frame, or the camera's leaflet"


def light(physics: Physics) -> Margin:
    """Exposure of the moving part by flash and room together against correct [stops]; two-sided."""
    working = [line for lit in physics.on_part for line in lit.working]
    value, exposure = physics.exposure_offset_stops, physics.scene.exposure
    if value is None or _no_light_yet(physics):
        return _without_light(physics, working)
    doubt = physics.exposure_doubt_stops
    known = least_certain(lit.gives for lit in physics.on_part) if physics.on_part else None
    if physics.frame.bellows_stops >= 0.05:
        extension = -physics.frame.bellows_stops
        working.append(
            step("extension", extension, "stops", "−2 log2(1 + m)", constants.SOURCE_THIN_LENS)
        )
    for name, part in (
        ("flash", physics.flash_offset_stops),
        ("room", physics.ambient_offset_stops),
    ):
        if part is not None:
            working.append(step(name, part, "stops", "of the exposure", constants.SOURCE_ISO_1230))
    working.append(
        step("light", value, "stops", "log2(2^flash + 2^room)", constants.SOURCE_DEFINITION, known)
    )
    working.append(
        step("doubt", doubt, "stops", "of each part, by its share", constants.SOURCE_MEMORY)
    )
    state = two_sided(value, doubt, constants.RIGHT_STOPS)
    wants = format_f_number(exposure.f_number * 2 ** (value / 2))
    says = f"{format_f_number(exposure.f_number)} wants {wants}"
    if state == "fails":
        says += ", over" if value > 0 else ""
    elif state == "unsure":
        says = f"probably right ± {format_number(doubt, 1)}: meter it"
    else:
        says = f"right within {format_number(doubt, 1)}"
    return margin("light", value, "stops", state, says, working, doubt)


def _no_light_yet(physics: Physics) -> bool:
    return not physics.scene.lights and physics.method.flashes


def _without_light(physics: Physics, working: list[Step]) -> Margin:
    if physics.on_part and physics.travel_s is None:
        return margin("light", None, "stops", "unknown", TRAVEL_UNKNOWN, working)
    if _no_light_yet(physics):
        return margin("light", None, "stops", "unknown", "no light yet", working)
    return margin("light", None, "stops", "fails", "no light reaches the subject", working)


def ghost(physics: Physics) -> Margin:
    """Stops by which the room is further under the flash than the clear threshold asks, where its trail is long."""
    room, look = physics.scene.ambient, physics.scene.look
    if not physics.method.room_apart:
        return margin("ghost", None, "stops", "passes", "no trail of its own", [])
    under, ev = physics.ghost_margin_stops, physics.ev100[1]
    if ev is None:
        return margin("ghost", None, "stops", "passes", "room said to be dark", [])
    ambient = physics.ambient_offset_stops
    trail, allowed = physics.room_trail_px, physics.frame.criterion_px
    working = [
        ev,
        step(
            "room",
            ambient,
            "stops",
            "EV100 + log2(ISO/100) − log2(N²/t) − ND",
            constants.SOURCE_DEFINITION,
        ),
        step(
            "trail",
            trail,
            "px",
            "way of the image while the shutter is open",
            constants.SOURCE_DEFINITION,
        ),
    ]
    if trail <= allowed * (1 + 1e-9):
        says = f"no trail: {format_number(trail, 2)} px of {format_number(allowed, 2)}"
        return margin(
            "ghost", None, "stops", "passes", says, working, figure=trail, figure_unit="px"
        )
    if under is None:
        waiting: State = "unknown" if not physics.scene.lights else "fails"
        says = "no light yet" if waiting == "unknown" else "no flash to outshine the room"
        return margin("ghost", None, "stops", waiting, says, working)
    doubt = (physics.flash_doubt_stops**2 + physics.room_doubt_stops**2) ** 0.5
    value = under - room.clear_stops
    working += [
        step(
            "flash", physics.flash_offset_stops, "stops", "best-lit row", constants.SOURCE_ISO_1230
        ),
        step("under", under, "stops", "flash − room", constants.SOURCE_DEFINITION),
        step("ghost", value, "stops", f"under − {room.clear_stops:g}", constants.SOURCE_PRACTICE),
        step("doubt", doubt, "stops", "of flash and room", constants.SOURCE_MEMORY),
    ]
    if look.room != "black":
        return _wanted_room(physics, working, doubt)
    says = f"{format_stops(under, signed=False)} under, {format_number(room.clear_stops)} asked"
    state = state_of(value, doubt)
    if state == "fails" and under - room.trail_stops >= -1e-9:
        state, says = "unsure", f"faint trail, {says}"  # between the two thresholds
    elif state == "unsure":
        says = f"probably {says}"
    return margin("ghost", value, "stops", state, says, working, doubt)


def _wanted_room(physics: Physics, working: list[Step], doubt: float) -> Margin:
    """A room that is wanted in the picture is judged against what is wanted, and must not trail unless it should."""
    look, ambient = physics.scene.look, physics.ambient_offset_stops or 0.0
    trail = physics.room_trail_px
    if look.room == "lit":
        wanted = look.room_stops if look.room_stops is not None else ambient
        says = f"room {format_stops(ambient)}, wanted {format_stops(wanted)}"
        off = ambient - wanted
        state = two_sided(off, physics.room_doubt_stops, constants.RIGHT_STOPS)
        if trail > physics.frame.criterion_px:
            moving = f"moving parts trail {format_number(trail, 2)} px by the room"
            return margin(
                "ghost",
                off,
                "stops",
                "fails",
                f"{moving}; only a shorter shutter stops them",
                working,
                doubt,
            )
        return margin("ghost", off, "stops", state, says, working, physics.room_doubt_stops)
    wanted_m = look.trail_m
    length = trail * physics.frame.pixel_pitch_m / physics.frame.magnification
    says = f"trail {length:.2g} m" + ("" if wanted_m is None else f", wanted {wanted_m:.2g} m")
    right = wanted_m is None or abs(length - wanted_m) <= 0.25 * wanted_m
    return margin(
        "ghost",
        None,
        "stops",
        "passes" if right else "fails",
        says,
        working,
        figure=trail,
        figure_unit="px",
    )
