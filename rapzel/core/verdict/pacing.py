"""The margin of pace: do lights and shutter keep up with the frames that are asked for (science §10)."""

from rapzel.core.document.evaluation import Margin
from rapzel.core.physics import Physics
from rapzel.core.physics.pace import LONGEST_BURST
from rapzel.core.shared.units import format_number, format_time
from rapzel.core.shared.working import step
from rapzel.core.verdict.margin import listed, margin


def pace(physics: Physics) -> Margin:
    """Frames a second that lights and shutter sustain, above what is asked."""
    result = physics.pace
    if result.unknown:
        says = f"recycle of {listed(list(result.unknown))} not known: time it, ready to ready"
        return margin("pace", None, "frames/s", "unknown", says, [])
    if physics.method.flashes and not physics.scene.lights:
        return margin("pace", None, "frames/s", "unknown", "no light yet", [])
    assert result.sustained_fps is not None, "known where nothing is unknown"
    formula = f"1 / the longest of recycle, exposure and drive, {result.slowest}"
    working = [
        step("sustained", result.sustained_fps, "1/s", formula, "reservoir model")
    ]
    if result.bears_fps is not None:
        heat = "pops a minute at full power / power"
        working.append(
            step("heat", result.bears_fps, "1/s", heat, "the strobe's own figure")
        )
    if result.drives.says:
        working.append(
            step("drive", None, "", result.drives.says, "the camera's table")
        )
    shown = {"figure": result.sustained_fps}
    if result.asked_fps is None:
        says = f"{format_time(1 / result.sustained_fps)} apart, by {result.slowest}"
        return margin("pace", None, "frames/s", "passes", says, working, **shown)
    value = result.sustained_fps - result.asked_fps
    # A rate that is asked for as it is shown is held: nobody counts the last half a percent of a frame.
    held = value >= -0.005 * result.asked_fps
    asked = format_number(result.asked_fps, 2)
    if held:
        return margin(
            "pace",
            max(value, 0.0),
            "frames/s",
            "passes",
            f"{asked} asked",
            working,
            0.0,
            **shown,
        )
    # Lights that cannot keep up for ever may keep up for the burst that is wanted.
    run = result.frames_before_short
    if _burst_holds(physics, run):
        spare = float((run or LONGEST_BURST) - (physics.scene.exposure.burst or 0))
        says = f"{asked} asked, holds {'longer' if run is None else run} frames"
        return margin("pace", spare, "frames", "passes", says, working, 0.0, **shown)
    says = f"{asked} asked, {result.slowest} allows {format_number(result.sustained_fps, 3)}"
    if result.drives.says and result.slowest.startswith("drive"):
        says = f"{asked} asked; {result.drives.says}"
    if run:
        says = f"{asked} asked, short from frame {run + 1}"
    return margin("pace", value, "frames/s", "fails", says, working, 0.0, **shown)


def _burst_holds(physics: Physics, run: int | None) -> bool:
    """Whether a burst of the wanted length is over before a light is short, at a rate that the shutter keeps."""
    exposure, frame_s = physics.scene.exposure, physics.pace.frame_s
    if exposure.burst is None or exposure.frames_per_s is None:
        return False
    # However full the charge, the body has to make so many frames a second.
    if 1 / frame_s < exposure.frames_per_s * 0.995:
        return False
    return run is None or run >= exposure.burst
