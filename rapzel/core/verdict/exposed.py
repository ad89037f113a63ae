"""The margin of light: flash and room together expose the moving part right (science §5)."""

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.physics import Physics
from rapzel.core.shared import constants
from rapzel.core.shared.units import format_f_number, format_number
from rapzel.core.shared.working import Step, least_certain, step
from rapzel.core.verdict.margin import margin, two_sided

TRAVEL_UNKNOWN = "curtain travel not known: test frame, or the camera's leaflet"


def light(physics: Physics) -> Margin:
    """Exposure of the moving part by flash and room together against correct [stops]; two-sided."""
    working = [line for lit in physics.on_part for line in lit.working]
    value, exposure = physics.exposure_offset_stops, physics.scene.exposure
    # Before the first strobe is chosen the room alone would be judged, as if no flash were meant to
    # come.
    if value is None or _no_light_yet(physics):
        return _without_light(physics, working)
    doubt = physics.exposure_doubt_stops
    if physics.on_part:
        # A sum is known no better than the worst of its parts.
        known = least_certain(lit.gives for lit in physics.on_part)
    else:
        known = None
    # Below a twentieth of a stop the line would only lengthen the working.
    if physics.frame.bellows_stops >= 0.05:
        extension = -physics.frame.bellows_stops
        working.append(
            step(
                "extension",
                extension,
                "stops",
                "−2 log2(1 + m)",
                constants.SOURCE_THIN_LENS,
            )
        )
    for name, part in (
        ("flash", physics.flash_offset_stops),
        ("room", physics.ambient_offset_stops),
    ):
        if part is not None:
            working.append(
                step(name, part, "stops", "of the exposure", constants.SOURCE_ISO_1230)
            )
    working.append(
        step(
            "light",
            value,
            "stops",
            "log2(2^flash + 2^room)",
            constants.SOURCE_DEFINITION,
            known,
        )
    )
    working.append(
        step(
            "doubt",
            doubt,
            "stops",
            "of each part, by its share",
            constants.SOURCE_MEMORY,
        )
    )
    # A light may be as much stronger than told as weaker.
    state = two_sided(value, doubt, constants.RIGHT_STOPS, better=doubt)
    # The aperture that would make it right: the figure that a photographer reads off a meter.
    wants = format_f_number(exposure.f_number * 2 ** (value / 2))
    says = f"{format_f_number(exposure.f_number)} wants {wants}"
    wrong = abs(value) > constants.RIGHT_STOPS
    if wrong:
        says += ", over" if value > 0 else ""
    if state == "unsure" and wrong:
        says = f"probably {says}"
    elif state == "unsure":
        says = f"probably right ± {format_number(doubt, 1)}: meter it"
    elif state == "passes":
        says = f"right within {format_number(doubt, 1)}"
    return margin(
        "light",
        value,
        "stops",
        state,
        says,
        working,
        doubt,
        within=constants.RIGHT_STOPS,
    )


def _no_light_yet(physics: Physics) -> bool:
    return not physics.scene.lights and physics.method.flashes


def _without_light(physics: Physics, working: list[Step]) -> Margin:
    if physics.on_part and physics.travel_s is None:
        return _no_figure("unknown", TRAVEL_UNKNOWN, working)
    if _no_light_yet(physics):
        return _no_figure("unknown", "no light yet", working)
    return _no_figure("fails", "no light reaches the subject", working)


def _no_figure(state: State, says: str, working: list[Step]) -> Margin:
    return margin(
        "light", None, "stops", state, says, working, within=constants.RIGHT_STOPS
    )
