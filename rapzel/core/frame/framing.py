"""How large the motion is in the picture, and so how short the light must be (science §3)."""

import math
from dataclasses import dataclass
from typing import Any

from rapzel.core.document.scene import Pixels, Print, Scene
from rapzel.core.shared import constants
from rapzel.core.shared.errors import OutOfRange, require_positive
from rapzel.core.shared.working import Step, step


def magnification(focal_length_m: float, subject_distance_m: float) -> float:
    """Image size over object size of a thin lens [-]: m = f / (u − f). Raises OutOfRange unless u > f > 0."""
    require_positive(focal_length_m=focal_length_m)
    if subject_distance_m <= focal_length_m:
        raise OutOfRange("subject_distance_m", subject_distance_m, f"above the focal length of {focal_length_m:g} m")
    return focal_length_m / (subject_distance_m - focal_length_m)


def pixels_circle_m(pixels: float, pixel_pitch_m: float) -> float:
    """Smear allowed by the pixel school [m]: k · p, judged at 100 % on a screen (common practice)."""
    return pixels * pixel_pitch_m


def print_circle_m(sensor_diagonal_m: float, divisor: float = constants.CIRCLE_DIVISOR) -> float:
    """Smear allowed by the print school [m]: sensor diagonal / 1500, the usual circle of confusion."""
    return sensor_diagonal_m / divisor


def viewing_circle_m(sensor_height_m: float, print_height_m: float, viewing_distance_m: float) -> float:
    """Smear allowed by the viewing school [m]: an arc-minute at the viewing distance, scaled back to the sensor."""
    return math.tan(constants.ARC_MINUTE_RAD) * viewing_distance_m * sensor_height_m / print_height_m


def freeze_limit_s(image_speed_m_s: float, circle_m: float) -> float:
    """Longest exposure to light that keeps the smear within the criterion [s]: t = c / (v · m).

    `image_speed_m_s` is the speed of the image on the sensor; still subjects have no limit (infinity).
    """
    return circle_m / image_speed_m_s if image_speed_m_s > constants.STILL_M_S else math.inf


@dataclass(frozen=True, slots=True)
class DepthOfField:
    """Near and far limits [m] of what is sharp, and the hyperfocal distance [m]; far may be infinite."""

    near_m: float
    far_m: float
    hyperfocal_m: float


def depth_of_field(focal_length_m: float, f_number: float, circle_m: float, distance_m: float) -> DepthOfField:
    """Thin-lens depth of field for a circle of confusion [m], focused at `distance_m`.

    H = f² / (N c) + f; near = u (H − f) / (H + u − 2 f); far = u (H − f) / (H − u), infinite from u = H on.
    """
    require_positive(focal_length_m=focal_length_m, f_number=f_number, circle_m=circle_m)
    hyperfocal = focal_length_m**2 / (f_number * circle_m) + focal_length_m
    near = distance_m * (hyperfocal - focal_length_m) / (hyperfocal + distance_m - 2 * focal_length_m)
    if distance_m >= hyperfocal:
        return DepthOfField(near, math.inf, hyperfocal)
    return DepthOfField(near, distance_m * (hyperfocal - focal_length_m) / (hyperfocal - distance_m), hyperfocal)


@dataclass(frozen=True, slots=True)
class Frame:
    """The picture of one scene: sizes [m], the criterion's circle [m] and the speed of the image [m/s]."""

    magnification: float
    pixel_pitch_m: float
    field_width_m: float
    field_height_m: float
    circle_m: float
    criterion_says: str
    depth: DepthOfField
    speed_across_m_s: float
    speed_towards_m_s: float
    enlargement: float  # of a part that reaches towards the camera, against the body
    image_speed_m_s: float
    towards_decides: bool
    working: tuple[Step, ...]

    @property
    def limit_s(self) -> float:
        """The freeze limit [s], infinite for a still subject."""
        return freeze_limit_s(self.image_speed_m_s, self.circle_m)

    def smear_px(self, lit_s: float) -> float:
        """How far the image of the moving part travels while lit for `lit_s` [pixels]."""
        return self.image_speed_m_s * lit_s / self.pixel_pitch_m


def _circle(scene: Scene, pitch_m: float) -> tuple[float, str, str]:
    criterion, camera = scene.criterion, scene.camera
    if isinstance(criterion, Pixels):
        says = f"{criterion.pixels:g} px at 100 % on screen"
        return pixels_circle_m(criterion.pixels, pitch_m), says, f"k · p, k = {criterion.pixels:g}"
    if isinstance(criterion, Print):
        diagonal = math.hypot(camera.sensor_width_mm, camera.sensor_height_mm) / 1000
        says = f"sensor diagonal / {criterion.divisor:g}, for a print"
        return print_circle_m(diagonal, criterion.divisor), says, f"d / {criterion.divisor:g}"
    height = camera.sensor_height_mm / 1000
    says = f"an arc-minute from {criterion.viewing_distance_m:g} m on a print {criterion.print_height_m:g} m high"
    circle = viewing_circle_m(height, criterion.print_height_m, criterion.viewing_distance_m)
    return circle, says, "tan 1′ · viewing distance · sensor height / print height"


def _image_speed(scene: Scene, m: float, across: float, towards: float) -> tuple[float, bool]:
    """Speed of the image on the sensor [m/s]: the larger of the movement across and of the growth by approach."""
    lens = scene.lens
    # A part whose image height is not given is taken half way between the centre and the edge of the frame.
    height_m = (scene.motion.off_axis_mm or scene.camera.sensor_height_mm / 4) / 1000
    growing = height_m * towards / (lens.subject_distance_m - lens.focal_length_mm / 1000)
    return max(across * m, growing), growing > across * m


def frame_of(scene: Scene, speed_m_s: float) -> Frame:
    """The framing of a scene whose moving part has a speed [m/s]."""
    camera, lens, motion = scene.camera, scene.lens, scene.motion
    width, height = camera.sensor_width_mm / 1000, camera.sensor_height_mm / 1000
    focal, distance = lens.focal_length_mm / 1000, lens.subject_distance_m
    if lens.field_width_m is not None:
        m, m_formula = width / lens.field_width_m, "sensor width / field width"
    else:
        m, m_formula = magnification(focal, distance), f"f / (u − f), f = {focal * 1000:g} mm, u = {distance:g} m"
    pitch = width / camera.pixels_wide
    circle, says, circle_formula = _circle(scene, pitch)
    angle = math.radians(motion.angle_deg)
    across, towards = speed_m_s * math.sin(angle), abs(speed_m_s * math.cos(angle))
    enlargement = distance / (distance - motion.reach_m)
    image_speed, towards_decides = _image_speed(scene, m, across, towards)
    image_speed *= enlargement
    practice, thin = constants.SOURCE_PRACTICE, constants.SOURCE_THIN_LENS
    working = (
        step("m", m, "", m_formula, thin),
        step("p", pitch, "m", f"{camera.sensor_width_mm:g} mm / {camera.pixels_wide}", constants.SOURCE_DEFINITION),
        step("c", circle, "m", circle_formula, practice),
        step("v⊥", across, "m/s", f"v sin θ, θ = {motion.angle_deg:g}°", constants.SOURCE_DEFINITION),
        step("v image", image_speed, "m/s", "h v cos θ / (u − f)" if towards_decides else "v⊥ · m", thin),
    )
    depth_circle = print_circle_m(math.hypot(width, height))
    return Frame(
        magnification=m,
        pixel_pitch_m=pitch,
        field_width_m=width / m,
        field_height_m=height / m,
        circle_m=circle,
        criterion_says=says,
        depth=depth_of_field(focal, scene.exposure.f_number, depth_circle, distance),
        speed_across_m_s=across,
        speed_towards_m_s=towards,
        enlargement=enlargement,
        image_speed_m_s=image_speed,
        towards_decides=towards_decides,
        working=working,
    )


def frame_facts(frame: Frame) -> dict[str, Any]:
    """The framing as plain numbers for the evaluation; an infinite far limit becomes None."""
    return {
        "pixel_pitch_m": frame.pixel_pitch_m,
        "field_width_m": frame.field_width_m,
        "field_height_m": frame.field_height_m,
        "criterion_m": frame.circle_m,
        "criterion_says": frame.criterion_says,
        "depth_near_m": frame.depth.near_m,
        "depth_far_m": frame.depth.far_m if math.isfinite(frame.depth.far_m) else None,
        "hyperfocal_m": frame.depth.hyperfocal_m,
        "enlargement": frame.enlargement,
        "towards_decides": frame.towards_decides,
    }
