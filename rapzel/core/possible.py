"""Scenes that are well-formed and yet impossible, refused with the path and the reason."""

from collections.abc import Iterator, Mapping
from typing import Any

from rapzel.core.document.gear import Camera, Light, fastest_shutter_s, lowest_power
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.methods import method_of
from rapzel.core.motion import Leap
from rapzel.core.motion.kinematics import time_in_the_air_s
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.units import (
    format_length,
    format_power,
    format_shutter,
    format_time,
)
from rapzel.core.subjects.cutout import CutOutError, tones_of

_ROUNDING = 1.001  # 1/8000 written as 0.000125, 1/3 as 0.333


def about_a_camera(camera: Camera) -> Iterator[Problem]:
    """What is impossible of a camera by itself, whatever the scene."""
    # At sync speed the frame is open as a whole: a slower curtain could not do that.
    travel = camera.curtain_travel_s
    if (
        camera.shutter == "focal_plane"
        and travel is not None
        and travel > camera.sync_speed_s * _ROUNDING
    ):
        longer = "curtain travel is longer than the sync speed, at which the frame is open as a whole"
        yield Problem("curtain_travel_s", longer)


def _about_the_camera(scene: Scene) -> Iterator[Problem]:
    camera, exposure, lens = scene.camera, scene.exposure, scene.lens
    if lens.subject_distance_m * 1000 <= lens.focal_length_mm:
        near = f"subject is nearer than the focal length of {lens.focal_length_mm:g} mm: no lens focuses there"
        yield Problem("lens.subject_distance_m", near)
    if exposure.shutter_s * _ROUNDING < fastest_shutter_s(camera):
        fastest = format_shutter(fastest_shutter_s(camera))
        shown = f"{format_shutter(exposure.shutter_s)} is shorter than this camera's fastest, {fastest}"
        yield Problem("exposure.shutter_s", shown)
    yield from (
        Problem(f"camera.{problem.path}", problem.reason)
        for problem in about_a_camera(camera)
    )
    reason = method_of(scene).on_camera(camera)
    if reason:
        yield Problem("exposure.method", reason)


def _about_the_motion(scene: Scene) -> Iterator[Problem]:
    motion = scene.motion
    if isinstance(motion, Leap):
        in_the_air = time_in_the_air_s(motion.rise_m)
        # Later than that the leap is over, and another motion has begun.
        if motion.from_apex_s > in_the_air * _ROUNDING:
            late = f"a leap of {format_length(motion.rise_m)} is on the ground {format_time(in_the_air)} from its top"
            yield Problem("motion.from_apex_s", late)
    if (
        motion.reach_m
        and motion.reach_m
        >= scene.lens.subject_distance_m - scene.lens.focal_length_mm / 1000
    ):
        yield Problem("motion.reach_m", "the moving part would reach the lens")


def _about_a_light(path: str, light: Light) -> Iterator[Problem]:
    strobe = light.strobe
    lowest = lowest_power(strobe)
    # A power that the dial does not have would promise a duration that nobody can set.
    if light.power * _ROUNDING < lowest:
        range_ = f"{format_power(light.power)} is below the strobe's range, which ends at {format_power(lowest)}"
        yield Problem(f"{path}.power", range_)
    names = [mode.name for mode in strobe.modes]
    if light.mode is not None and light.mode not in names:
        yield Problem(
            f"{path}.mode",
            f"the strobe has no mode “{light.mode}”; it has: {', '.join(names) or 'none'}",
        )
    if len({(setting.power, setting.provenance) for setting in strobe.durations}) < len(
        strobe.durations
    ):
        yield Problem(
            f"{path}.strobe.durations", "two rows are for the same power and provenance"
        )


def _about_the_cutout(scene: Scene) -> Iterator[Problem]:
    own = scene.rehearsal.cutout
    if own is not None:
        try:
            # Decoded here, where it can still be refused, and not when it is rehearsed.
            tones_of(own.picture)
        except CutOutError as error:
            yield Problem("rehearsal.cutout.picture", str(error))


def read_possible_scene(document: Mapping[str, Any] | Scene) -> Scene:
    """The scene that a document describes; raises DocumentError if its shape or its physics is impossible."""
    return possible(read_scene(document))


def possible(scene: Scene) -> Scene:
    """The scene itself; raises DocumentError with all that is impossible about it."""
    # All of them at once: who mends a scene sees everything that is wrong with it.
    problems = [
        *_about_the_camera(scene),
        *_about_the_motion(scene),
        *_about_the_cutout(scene),
    ]
    for place, light in enumerate(scene.lights):
        problems += _about_a_light(f"lights[{place}]", light)
    if problems:
        raise DocumentError(problems)
    return scene
