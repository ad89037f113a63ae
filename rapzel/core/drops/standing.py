"""What stands where at one instant of a set of drops: for the side view, and for the picture of a shot."""

from dataclasses import dataclass

from rapzel.core.drops.meeting import Meeting
from rapzel.core.drops.plan import Plan, met

ABOVE = 0.8  # of the frame's height, above the liquid, where nothing else is said
# diameter that a drop is drawn with while its own is not known (memory)
USUAL_M = 0.004
_AT_THE_SURFACE_M = 1e-6


@dataclass(frozen=True, slots=True)
class Standing:
    """Heights [m] and times [s]; None where a thing is not there.

    first_m, second_m: drops in the air; jet_m: the tip, not above where it was met; crater: depth of the cavity and
    crown: height of the crown, as shares of their most; met: the meeting once it has been, met_for_s ago.
    """

    first_m: float | None
    second_m: float | None
    jet_m: float
    crater: float
    crown: float
    met: Meeting | None
    met_for_s: float


def standing(plan: Plan, second_s: float | None, at_s: float) -> Standing:
    """What stands at an instant, with the second valve told to open at a time; None: never."""
    if plan.jet is None:
        jet_m = 0.0
    else:
        jet_m = plan.jet.height_m(at_s)
    if plan.jet is None or second_s is None:
        meeting = None
    else:
        meeting = met(plan.jet, plan.second, second_s)
    if meeting is not None and at_s > meeting.at_s:
        over = meeting
    else:
        over = None
    falls = (
        (plan.first, at_s),
        (plan.second, -1.0 if second_s is None or over else at_s - second_s),
    )
    first, second = (
        height if since > fall.lag_s and height > _AT_THE_SURFACE_M else None
        for fall, since in falls
        for height in [fall.at(since)[0]]
    )
    return Standing(
        first_m=first,
        second_m=second,
        jet_m=jet_m if over is None else min(jet_m, over.height_m),
        crater=_crater(plan, at_s - plan.first.impact_s),
        # Up and down evenly about its usual time: a sign for a stage, not a shape.
        crown=max(1 - abs((at_s - plan.first.impact_s) / plan.asked.crown_s - 1), 0.0),
        met=over,
        met_for_s=0.0 if over is None else at_s - over.at_s,
    )


def _crater(plan: Plan, since_s: float) -> float:
    """The cavity by usual times: it deepens, then closes until the jet leaves."""
    asked = plan.asked
    if plan.jet is None:
        leaves = asked.jet_after_s
    else:
        leaves = plan.jet.launch_s - plan.first.impact_s
    if not 0 < since_s < leaves:
        return 0.0
    # The jet comes out of the closing cavity, so that it is shut when the jet leaves.
    closing = 1 - (since_s - asked.cavity_s) / max(leaves - asked.cavity_s, 1e-6)
    return min(since_s / asked.cavity_s, max(closing, 0.0), 1.0)
