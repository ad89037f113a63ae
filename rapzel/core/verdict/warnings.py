"""What a scene's reader should know although no margin depends on it."""

from rapzel.core.document.scene import Scene
from rapzel.core.light import tint
from rapzel.core.physics import Physics
from rapzel.core.physics.lights import near_source_warning
from rapzel.core.physics.ratios import mired_from_key
from rapzel.core.shared.units import (
    format_length,
    format_number,
    format_percent,
    format_shutter,
    format_time,
)
from rapzel.core.verdict.flickers import unsaid_flicker
from rapzel.core.verdict.freeze import freeze
from rapzel.core.verdict.ghost import ghost
from rapzel.core.verdict.sensing import about_sensors

# a limb drawn this much larger than the body looks swollen; common practice
_ENLARGED = 1.5
# times the criterion, from which the disc softens everything more than the motion may
_DIFFRACTION = 2.0


def warnings_of(physics: Physics) -> list[str]:
    """The warnings of a scene, in the order of the job."""
    return [
        *_about_the_frame(physics),
        *(near for one in physics.scene.lights if (near := near_source_warning(one))),
        *_about_colours(physics),
        *_about_the_exposure(physics),
        *unsaid_flicker(physics),
        *about_sensors(physics),
    ]


def _about_colours(physics: Physics) -> list[str]:
    """Lights whose colour is told apart from the key's; lights whose colour nobody measured are not spoken of."""
    said = []
    scene = physics.scene
    for light, mired in zip(scene.lights, mired_from_key(scene), strict=True):
        # Below what is told apart on white, a warning would only train people to skip it.
        if mired is None or abs(mired) < tint.SEEN_MIRED:
            continue
        if mired > 0:
            how = "warmer"
        else:
            how = "cooler"
        said.append(
            f"{light.called} is {abs(mired):.0f} mired {how} than the key at these powers: "
            "gel it, or give both one power."
        )
    return said


def _about_the_frame(physics: Physics) -> list[str]:
    frame, motion, said = physics.frame, physics.scene.motion, []
    if frame.enlargement > _ENLARGED:
        times = format_number(frame.enlargement, 2)
        said.append(
            f"The nearest part is drawn {times} times larger than the body, and smears by as much more."
        )
    if motion.reach_m and frame.distance_m - motion.reach_m < frame.depth.near_m:
        blur = format_number(frame.reach_blur_m / frame.pixel_pitch_m, 2)
        near = format_length(frame.depth.near_m)
        said.append(
            f"The part that reaches towards the camera is out of focus: a disc of {blur} px; sharp from {near}."
        )
    if frame.towards_decides:
        said.append(
            "The approach towards the camera smears more than the movement across."
        )
    if frame.diffraction_px > _DIFFRACTION * frame.criterion_px:
        disc = format_number(frame.diffraction_px, 2)
        said.append(
            f"Diffraction draws a point {disc} px wide at this aperture and scale, frozen or not."
        )
    return said


def _fallen_back(scene: Scene) -> str:
    """What the picture will be where the body does what many do above the sync speed with HSS off."""
    speed = scene.camera.sync_speed_s
    exposure = scene.exposure.model_copy(update={"shutter_s": speed})
    # What the body will do in fact, judged like any other scene.
    really = Physics(scene.model_copy(update={"exposure": exposure}))
    answers = "; ".join(
        f"{name} {judged.says}"
        for name, judged in (("freeze", freeze(really)), ("ghost", ghost(really)))
    )
    return (
        f"With HSS off many bodies silently fall back to {format_shutter(speed)}: check the shutter in the file. "
        f"Then it is {answers}."
    )


def _led_by(lead_s: float) -> str:
    """What the trigger must be able to do for a long pulse, and that no figure here proves that it can."""
    return (
        f"The flash has to begin {format_time(lead_s)} before the usual sync contact: the trigger must be able to lead "
        "the shutter by that. Prove it on a plain wall."
    )


def _about_the_exposure(physics: Physics) -> list[str]:
    scene, said = physics.scene, []
    exposure, camera = scene.exposure, scene.camera
    # 1/250 is written as 0.004 and meant as 1/256.
    above_sync = exposure.shutter_s < camera.sync_speed_s * 0.98
    if (
        physics.method.pulsed
        and not physics.method.by_hand
        and camera.shutter == "focal_plane"
        and above_sync
    ):
        said.append(_fallen_back(scene))
    lead = physics.curves.opening.offset_s + physics.assumed_travel_s
    if physics.method.leads and physics.flashes and lead > 0:
        said.append(_led_by(lead))
    clipped = physics.clipped_share
    if clipped and clipped >= 0.005:
        said.append(
            f"{format_percent(clipped)} of the drawn subject is recorded as plain white."
        )
    return said
