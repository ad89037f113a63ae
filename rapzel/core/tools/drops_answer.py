"""What the tool of the drops answers: releases, impact, meeting, and how well the jet is known (science §14)."""

from collections.abc import Iterator

from pydantic import Field

from rapzel.core.drops.asked import Drops
from rapzel.core.drops.plan import Plan, planned
from rapzel.core.tools.tool import ToolAnswer


class JetAnswered(ToolAnswer):
    """The jet, and how well it is known; None where two frames, or none, leave that open."""

    launch_s: float
    speed_m_s: float
    sd: float | None = Field(description="of tip heights about the fit [m]")
    launch_sd_s: float | None
    speed_sd_m_s: float | None
    apex_s: float
    apex_m: float
    left_out: int | None = Field(
        description="the frame that is another jet's, counted from 1"
    )


class OtherAnswered(ToolAnswer):
    """Another valve: when it is told to open [s]; None where its drop cannot be there."""

    name: str
    release_s: float | None


class DropsAnswered(ToolAnswer):
    """Times from the command to the first valve [s], heights from the liquid [m]; None where not known."""

    diameter_m: float | None
    fall_s: float
    impact_s: float
    impact_m_s: float
    jet: JetAnswered | None
    second_release_s: float | None
    meet_s: float | None
    flash_s: float | None
    meet_height_m: float | None = Field(
        description="with releases in whole steps, or as set"
    )
    meet_sd_m: float | None = Field(description="by what is known of the scatter")
    meet_sd_s: float | None
    unknown: list[str] = Field(description="scatter that is not in the spread")
    share_timely: float | None
    share_touching: float | None
    share: float | None = Field(description="of tries that touch and are lit in time")
    coarse_second_s: float = Field(description="to begin with by eye, from usual times")
    others: list[OtherAnswered]


def solve(asked: Drops) -> DropsAnswered:
    """The meeting in whole steps of the unit, and how often it comes out."""
    plan = planned(asked)
    meeting, spread = plan.meeting, plan.spread
    # What is solved for stands beside what is set: the person sees by how much they differ.
    if plan.solved is None:
        release = None
    else:
        release = plan.solved.second_release_s
    return DropsAnswered(
        diameter_m=plan.diameter_m,
        fall_s=plan.first.impact_s - asked.valve_lag_s,
        impact_s=plan.first.impact_s,
        impact_m_s=plan.first.at(plan.first.impact_s)[1],
        jet=_jet(plan),
        # Before the first valve's command no unit can open the second.
        second_release_s=release if release is not None and release >= 0 else None,
        meet_s=None if meeting is None else meeting.at_s,
        flash_s=plan.flash_s,
        meet_height_m=None if meeting is None else meeting.height_m,
        meet_sd_m=None if spread is None else spread.height_sd_m,
        meet_sd_s=None if spread is None else spread.time_sd_s,
        # Without a meeting there is no share whose parts could be missing.
        unknown=[] if meeting is None else list(_unknown(plan)),
        share_timely=None if spread is None else spread.timely,
        share_touching=None if spread is None else spread.touching,
        share=None if spread is None else spread.hits,
        coarse_second_s=plan.coarse_second_s,
        others=[_other(plan, place) for place in range(len(asked.others))],
    )


def _jet(plan: Plan) -> JetAnswered | None:
    jet, fitted = plan.jet, plan.fitted
    if jet is None:
        return None
    if fitted is None or fitted.left_out is None:
        left_out = None
    else:
        # Counted as people count rows.
        left_out = fitted.left_out + 1
    return JetAnswered(
        launch_s=jet.launch_s,
        speed_m_s=jet.speed_m_s,
        sd=jet.sd_m,
        launch_sd_s=jet.launch_sd_s,
        speed_sd_m_s=jet.speed_sd_m_s,
        apex_s=jet.apex_s,
        apex_m=jet.apex_m,
        left_out=left_out,
    )


def _other(plan: Plan, place: int) -> OtherAnswered:
    valve = plan.asked.others[place]
    release = plan.release_s(valve)
    return OtherAnswered(
        name=valve.name,
        release_s=release if release is not None and release >= 0 else None,
    )


def _unknown(plan: Plan) -> Iterator[str]:
    """What would have to be known before a share of hits can be told."""
    asked, jet = plan.asked, plan.jet
    if asked.valve_sd_s is None:
        yield "how much releases spread"
    if asked.jets_sd_m is None and (jet is None or jet.sd_m is None):
        yield "how much jets differ, which three frames or more say"
    if asked.aside_sd_m is None:
        yield "how far drops stray aside"
    if plan.diameter_m is None:
        yield "the drop's size"
