"""The margin of pace: do lights and shutter keep up with the frames that are asked for (science §10)."""

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.physics import Physics
from rapzel.core.physics.pace import LONGEST_BURST, Pace
from rapzel.core.shared import constants
from rapzel.core.shared.units import format_number, format_time
from rapzel.core.shared.working import Step, step
from rapzel.core.verdict.margin import listed, margin, state_of


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
        if result.floor_unknown and result.by_light:
            says = f"{format_time(1 / result.sustained_fps)} apart at most: floor not timed"
        return margin("pace", None, "frames/s", "passes", says, working, **shown)
    return _against(physics, result.sustained_fps, result.asked_fps, working)


def _against(
    physics: Physics, sustained: float, asked: float, working: list[Step]
) -> Margin:
    """What the lights sustain against the frames a second that are asked for."""
    result, shown = physics.pace, {"figure": sustained}
    # A recycle as its maker gives it is one of a fresh battery.
    doubt = constants.RECYCLE_DOUBT * sustained if result.by_light else 0.0
    value = sustained - asked
    # A rate that is asked for as it is shown is held: nobody counts the last half a percent of a frame.
    if abs(value) <= 0.005 * asked:
        value = 0.0
    says = f"{format_number(asked, 2)} asked"
    state = state_of(value, doubt)
    # Lights that cannot keep up for ever may keep up for the burst that is wanted.
    run = result.frames_before_short
    if state != "passes" and _burst_holds(physics, run):
        spare = float((run or LONGEST_BURST) - (physics.scene.exposure.burst or 0))
        says += f", holds {'longer' if run is None else run} frames"
        # A recycle that is only claimed may be longer, and the burst over sooner.
        sure = _burst_holds(physics, result.surely_before_short)
        burst_state: State = "passes" if sure else "unsure"
        if not sure:
            says += f", {result.surely_before_short} surely"
        return margin("pace", spare, "frames", burst_state, says, working, 0.0, **shown)
    # What is not held with the longest dead time may be held with the real one.
    if state == "fails" and result.floor_unknown and (result.at_best_fps or 0) >= asked:
        return _floor_unknown(result, working, shown)
    if state == "fails" and _burst_holds(physics, result.perhaps_before_short):
        if result.floor_unknown:
            return _floor_unknown(result, working, shown)
        state, says = "unsure", f"{says}: the burst may hold"
    elif state == "fails" and value + doubt >= 0:
        state = "unsure"
    if state == "unsure" and doubt and value + doubt >= 0:
        says += f", {format_number(sustained, 2)} by a recycle that is only claimed"
    if state == "fails":
        says = _why_not(result, sustained, says)
    return margin("pace", value, "frames/s", state, says, working, doubt, **shown)


def _floor_unknown(
    result: Pace, working: list[Step], shown: dict[str, float]
) -> Margin:
    """The margin of a rate that depends on a dead time which nobody has timed."""
    names = listed(list(result.floor_unknown))
    says = f"recycle floor of {names} not known: time it at the lowest power"
    return margin("pace", None, "frames/s", "unknown", says, working, **shown)


def _why_not(result: Pace, sustained: float, asked: str) -> str:
    """What keeps the rate down."""
    if result.frames_before_short and result.by_light:
        return f"{asked}, short from frame {result.frames_before_short + 1}"
    if result.drives.says and result.slowest.startswith("drive"):
        return f"{asked}; {result.drives.says}"
    return f"{asked}, {result.slowest} allows {format_number(sustained, 3)}"


def _burst_holds(physics: Physics, run: int | None) -> bool:
    """Whether a burst of the wanted length is over before a light is short, at a rate that the shutter keeps."""
    exposure, frame_s = physics.scene.exposure, physics.pace.frame_s
    if exposure.burst is None or exposure.frames_per_s is None:
        return False
    # However full the charge, the body has to make so many frames a second.
    if 1 / frame_s < exposure.frames_per_s * 0.995:
        return False
    return run is None or run >= exposure.burst
