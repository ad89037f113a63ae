"""The framing of a scene: from its document to the optics kernels, with the working kept (science §3)."""

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np

from rapzel.core.document.exposed import Panning
from rapzel.core.document.gear import Camera, Lens
from rapzel.core.document.scene import Criterion, Pixels, Print, Scene
from rapzel.core.frame import criteria, depth, optics
from rapzel.core.frame.depth import DepthOfField
from rapzel.core.motion.trajectory import Axes, Trajectory, path_length, time_for
from rapzel.core.shared import constants
from rapzel.core.shared.once import once
from rapzel.core.shared.units import format_number
from rapzel.core.shared.working import Provenance, Step, step


class Framed(NamedTuple):
    """The parts of a scene that its framing depends on, besides the moving part's way."""

    camera: Camera
    lens: Lens
    criterion: Criterion
    f_number: float
    panning: Panning | None


@dataclass(frozen=True, eq=False)
class Frame:
    """The picture of one scene: sizes [m], the criterion's circle [m] and how the image of the moving part moves.

    Equal to itself only: scenes that are framed alike share one, and what is kept by it is found at once.
    """

    trajectory: Trajectory
    # on top of the usual speed: freeze is judged one standard deviation faster
    judged_extra_m_s: float
    magnification: float
    pixel_pitch_m: float
    field_width_m: float
    field_height_m: float
    circle_m: float
    criterion_says: str
    depth: DepthOfField
    enlargement: float  # of a part that reaches towards the camera, against the body
    bellows_stops: float
    airy_m: float
    reach_blur_m: float  # blur disc of a part that reaches towards the camera
    height_m: float  # how far from the axis the part is drawn
    distance_m: float
    # share of the speed across that is left in the picture: all of it, or what a camera that follows is off by
    left_over: float
    working: tuple[Step, ...]

    def image_speed_of(self, velocity: Axes, left_over: Any = None) -> Any:
        """Speed on the sensor [m/s] of something that moves with a velocity [m/s] at the subject's place.

        left_over: share of the speed across that the camera leaves, of each try; None takes the frame's own.
        """
        # What comes towards the camera grows in the picture, and so moves what is drawn off the
        # axis.
        across = np.sqrt(velocity.across * velocity.across + velocity.up * velocity.up)
        if left_over is None:
            left_over = self.left_over
        speed = optics.image_speed_m_s(
            across * left_over,
            np.abs(velocity.towards),
            self.magnification,
            self.height_m,
            self.distance_m,
        )
        return speed * self.enlargement

    def image_speed_at(self, time_s: Any) -> Any:
        """Speed of the image [m/s] at each time after the event, at the judged speed."""
        return self.image_speed_of(
            self.trajectory.velocity_m_s(time_s, self.judged_extra_m_s)
        )

    @once
    def image_speed_m_s(self) -> float:
        """Speed of the image at the wanted instant [m/s], at the judged speed."""
        return float(self.image_speed_at(self.trajectory.wanted_s))

    def passed_m(self, lasts_s: float) -> float:
        """How far what stands still streaks over the sensor while the camera follows for so long [m]."""
        velocity = self.trajectory.velocity_m_s(self.trajectory.wanted_s)
        across = math.hypot(float(velocity.across), float(velocity.up))
        return across * self.magnification * lasts_s

    @property
    def follows(self) -> bool:
        """Whether the camera follows the subject."""
        return self.left_over < 1

    @property
    def towards_decides(self) -> bool:
        """Whether the growth by approach smears more than the movement across."""
        velocity = self.trajectory.velocity_m_s(
            self.trajectory.wanted_s, self.judged_extra_m_s
        )
        across = (
            math.hypot(float(velocity.across), float(velocity.up))
            * self.magnification
            * self.left_over
        )
        # Both in metres a second on the sensor, of a point at that height.
        return abs(float(velocity.towards)) * self.height_m / self.distance_m > across

    def way_m(self, begin_s: float, end_s: float) -> float:
        """Way of the image on the sensor [m] between two instants, counted from the wanted one."""
        if not self.trajectory.motion.bent:
            return self.image_speed_m_s * (end_s - begin_s)
        wanted = self.trajectory.wanted_s
        # A bent path is followed: near an apex the speed at the instant would promise too much.
        return path_length(self.image_speed_at, wanted + begin_s, wanted + end_s)

    def smear_px(self, lit_s: float, centred: bool = False) -> float:
        """Way of the image while lit for `lit_s` [px], from the wanted instant on or about it."""
        if centred:
            # A pulse starts when it is fired; an exposure lies about the instant that is wanted.
            begin = -lit_s / 2
        else:
            begin = 0.0
        return self.way_m(begin, begin + lit_s) / self.pixel_pitch_m

    def limit_s(self, centred: bool = False) -> float:
        """The longest light whose smear stays within the criterion [s]; infinite for what is still."""
        speed = self.image_speed_m_s
        if not self.trajectory.motion.bent:
            # At a steady speed the limit is a division; only a bent path has to be searched.
            return float(criteria.freeze_limit_s(speed, self.circle_m))

        def way(time_s: float) -> float:
            if centred:
                return self.way_m(-time_s / 2, time_s / 2)
            return self.way_m(0.0, time_s)

        if speed > constants.STILL_M_S:
            guess = self.circle_m / speed
        else:
            guess = math.inf
        if way(1e-3) > 0:  # from rest the way grows with the square of the time
            guess = min(guess, 1e-3 * math.sqrt(self.circle_m / way(1e-3)))
        if math.isfinite(guess):
            return time_for(way, self.circle_m, guess)
        return math.inf

    @property
    def criterion_px(self) -> float:
        return self.circle_m / self.pixel_pitch_m

    @property
    def diffraction_px(self) -> float:
        return self.airy_m / self.pixel_pitch_m

    @property
    def still_blur_px(self) -> float:
        """How wide diffraction and the focus of a reaching part draw every point, moving or not [px].

        As the length of a smear with the same spread: √12 standard deviations, which are λ N of an Airy disc · 0.42 and
        a quarter of a blur disc's diameter; independent spreads add in squares.
        """
        diffraction = constants.AIRY_AS_SMEAR * self.airy_m
        focus = constants.DISC_AS_SMEAR * self.reach_blur_m
        return math.hypot(diffraction, focus) / self.pixel_pitch_m

    def blur_px(self, smear_px: float) -> float:
        """Motion, diffraction and focus together, along the movement [px]."""
        return math.hypot(smear_px, self.still_blur_px)


def _circle(scene: Framed, pitch_m: float) -> tuple[float, str, str]:
    criterion, camera = scene.criterion, scene.camera
    if isinstance(criterion, Pixels):
        says = f"{criterion.pixels:g} px at 100 % on screen"
        return (
            criteria.pixels_circle_m(criterion.pixels, pitch_m),
            says,
            f"k · p, k = {criterion.pixels:g}",
        )
    if isinstance(criterion, Print):
        diagonal = math.hypot(camera.sensor_width_mm, camera.sensor_height_mm) / 1000
        says = f"sensor diagonal / {criterion.divisor:g}, for a print"
        return (
            criteria.print_circle_m(diagonal, criterion.divisor),
            says,
            f"d / {criterion.divisor:g}",
        )
    height = camera.sensor_height_mm / 1000
    says = f"an arc-minute from {criterion.viewing_distance_m:g} m on a print {criterion.print_height_m:g} m high"
    circle = criteria.viewing_circle_m(
        height, criterion.print_height_m, criterion.viewing_distance_m
    )
    return circle, says, "tan 1′ · viewing distance · sensor height / print height"


def _scale(scene: Framed) -> tuple[float, str]:
    camera, lens = scene.camera, scene.lens
    if lens.field_width_m is not None:
        return (
            camera.sensor_width_mm / 1000 / lens.field_width_m,
            "sensor width / field width",
        )
    focal, distance = lens.focal_length_mm / 1000, lens.subject_distance_m
    return optics.magnification(
        focal, distance
    ), f"f / (u − f), f = {focal * 1000:g} mm, u = {distance:g} m"


def bellows_of(scene: Framed, m: float) -> float:
    """What the lens's extension takes [stops]; 0 where the body shows the f-number with it counted in."""
    if scene.camera.effective_f_number:
        return 0.0
    return float(optics.bellows_stops(m))


def geometric_f_number(scene: Framed, m: float) -> float:
    """The f-number without the extension, as depth of field and diffraction take it [-]."""
    if scene.camera.effective_f_number:
        # The body shows what arrives; depth and diffraction go by the hole itself.
        return scene.f_number / (1 + m)
    return scene.f_number


def frame_of(scene: Scene, trajectory: Trajectory) -> Frame:
    """The framing of a scene whose moving part follows a trajectory."""
    set_to = scene.exposure
    framed = Framed(
        scene.camera, scene.lens, scene.criterion, set_to.f_number, set_to.panning
    )
    return _frame_of(framed, trajectory)


@lru_cache(maxsize=64)  # a change and the proposals that are tried beside it
def _frame_of(scene: Framed, trajectory: Trajectory) -> Frame:
    camera, lens, motion = scene.camera, scene.lens, trajectory.motion
    width, height = camera.sensor_width_mm / 1000, camera.sensor_height_mm / 1000
    focal, distance = lens.focal_length_mm / 1000, lens.subject_distance_m
    # A measured field width says the magnification better than the scale on a lens does.
    m, m_formula = _scale(scene)
    pitch = width / camera.pixels_wide
    circle, says, circle_formula = _circle(scene, pitch)
    f_number = geometric_f_number(scene, m)
    # A part whose image height is not given is taken half way between the centre and the edge of the frame.
    if motion.off_axis_mm is None:
        drawn = camera.sensor_height_mm / 4
    else:
        drawn = motion.off_axis_mm
    frame = Frame(
        trajectory=trajectory,
        # Half of all tries are faster than the usual one: the freeze is judged for five in six.
        judged_extra_m_s=motion.stated_sd_m_s,
        magnification=m,
        pixel_pitch_m=pitch,
        field_width_m=width / m,
        field_height_m=height / m,
        circle_m=circle,
        criterion_says=says,
        depth=depth.depth_of_field(focal, f_number, circle, distance),
        enlargement=float(optics.enlargement(distance, motion.reach_m)),
        bellows_stops=bellows_of(scene, m),
        airy_m=float(optics.airy_diameter_m(f_number, m)),
        reach_blur_m=depth.blur_disc_m(
            focal, f_number, distance, distance - motion.reach_m
        ),
        height_m=drawn / 1000,
        distance_m=distance,
        left_over=_left_over(scene),
        working=(),
    )
    steps = (
        *_speed_steps(trajectory),
        step("m", m, "", m_formula, constants.SOURCE_THIN_LENS),
        step(
            "p",
            pitch,
            "m",
            f"{camera.sensor_width_mm:g} mm / {camera.pixels_wide}",
            constants.SOURCE_DEFINITION,
        ),
        step("c", circle, "m", circle_formula, constants.SOURCE_PRACTICE),
        step(
            "v image",
            frame.image_speed_m_s,
            "m/s",
            _image_formula(frame),
            constants.SOURCE_THIN_LENS,
        ),
        step(
            "diffraction",
            frame.airy_m,
            "m",
            "2.44 λ N (1 + m), λ = 550 nm",
            "Airy disc",
        ),
    )
    return replace(frame, working=steps)


def _left_over(scene: Framed) -> float:
    """Share of the speed across that a camera leaves in the picture: all where it stands still."""
    if scene.panning is None:
        return 1.0
    if scene.panning.error is None:
        return constants.PANNING_ERROR
    return scene.panning.error


def _speed_steps(trajectory: Trajectory) -> list[Step]:
    motion = trajectory.motion
    known: Provenance | None = (
        "measured" if motion.title.startswith("measured") else None
    )
    steps = [
        step(
            "v",
            trajectory.wanted_speed_m_s,
            "m/s",
            motion.formula(),
            motion.source,
            known,
        )
    ]
    if motion.speed_sd_m_s:
        faster = float(trajectory.speed_m_s(trajectory.wanted_s, motion.speed_sd_m_s))
        steps.append(
            step(
                "v judged",
                faster,
                "m/s",
                f"v + 1 sd of {motion.speed_sd_m_s:g} m/s",
                constants.SOURCE_PRACTICE,
            )
        )
    return steps


def _image_formula(frame: Frame) -> str:
    angle = frame.trajectory.motion.angle_deg
    parts = f"√((v⊥ · m)² + (h · v∥ / u)²), θ = {angle:g}°, h = {frame.height_m * 1000:g} mm"
    if frame.follows:
        parts += f", v⊥ × {format_number(frame.left_over)} that the camera is off by"
    if frame.enlargement == 1:
        return parts
    return f"{parts}, × {format_number(frame.enlargement)} for the reach"


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
        "bellows_stops": frame.bellows_stops,
        "diffraction_m": frame.airy_m,
        "reach_blur_m": frame.reach_blur_m,
    }
