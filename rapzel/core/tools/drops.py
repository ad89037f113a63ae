"""Two drops that meet in mid-air: when the second valve opens and when the light comes (science §14)."""

from collections.abc import Iterator
from typing import Any

from pydantic import Field

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.drops.asked import Drops
from rapzel.core.drops.liquids import LIQUIDS
from rapzel.core.drops.plan import Plan, planned
from rapzel.core.drops.sizes import Opening, diameter_m, mass_of
from rapzel.core.shared.units import (
    format_length,
    format_percent,
    format_set_time,
    format_speed,
    format_time,
)
from rapzel.core.tools.tool import Answer, Lists, Tool
from rapzel.core.trigger.links import Valve
from rapzel.core.verdict.timing_fixes import with_delay

Asked = Drops
# What a scene says elsewhere, or what is only looked at.
_OF_THE_SCENE = {"frame_width_m", "frame_height_m", "flash_lag_s", "shown_s"}


class JetAnswered(Answer):
    """The jet, and how well it is known; None where two frames, or none, leave that open."""

    launch_s: float
    speed_m_s: float
    sd: float | None = Field(description="of tip heights about the fit [m]")
    launch_sd_s: float | None
    speed_sd_m_s: float | None
    apex_s: float
    apex_m: float
    left_out: int | None = Field(description="the frame that is another jet's, counted from 1")


class OtherAnswered(Answer):
    """Another valve: when it is told to open [s]; None where its drop cannot be there."""

    name: str
    release_s: float | None


class Answered(Answer):
    """Times from the command to the first valve [s], heights from the liquid [m]; None where not known."""

    diameter_m: float | None
    fall_s: float
    impact_s: float
    impact_m_s: float
    jet: JetAnswered | None
    second_release_s: float | None
    meet_s: float | None
    flash_s: float | None
    meet_height_m: float | None = Field(description="with releases in whole steps, or as set")
    meet_sd_m: float | None = Field(description="by what is known of the scatter")
    meet_sd_s: float | None
    unknown: list[str] = Field(description="scatter that is not in the spread")
    share_timely: float | None
    share_touching: float | None
    share: float | None = Field(description="of tries that touch and are lit in time")
    coarse_second_s: float = Field(description="to begin with by eye, from usual times")
    others: list[OtherAnswered]


def solve(asked: Drops) -> Answered:
    """The meeting in whole steps of the unit, and how often it comes out."""
    plan = planned(asked)
    meeting, spread = plan.meeting, plan.spread
    if plan.solved is None:
        release = None
    else:
        release = plan.solved.second_release_s
    return Answered(
        diameter_m=plan.diameter_m,
        fall_s=plan.first.impact_s - asked.valve_lag_s,
        impact_s=plan.first.impact_s,
        impact_m_s=plan.first.at(plan.first.impact_s)[1],
        jet=_jet(plan),
        second_release_s=release if release is not None and release >= 0 else None,
        meet_s=None if meeting is None else meeting.at_s,
        flash_s=plan.flash_s,
        meet_height_m=None if meeting is None else meeting.height_m,
        meet_sd_m=None if spread is None else spread.height_sd_m,
        meet_sd_s=None if spread is None else spread.time_sd_s,
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
        left_out = fitted.left_out + 1
    return JetAnswered(
        launch_s=jet.launch_s, speed_m_s=jet.speed_m_s, sd=jet.sd_m, launch_sd_s=jet.launch_sd_s,
        speed_sd_m_s=jet.speed_sd_m_s, apex_s=jet.apex_s, apex_m=jet.apex_m, left_out=left_out,
    )  # fmt: skip


def _other(plan: Plan, place: int) -> OtherAnswered:
    valve = plan.asked.others[place]
    release = plan.release_s(valve)
    return OtherAnswered(
        name=valve.name, release_s=release if release is not None and release >= 0 else None
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


def says(asked: Drops, answer: Answered) -> str:
    """The answer in one sentence."""
    if answer.jet is None:
        more = (
            "one more frame" if len(asked.observations) == 1 else "two frames at different delays"
        )
        return (
            f"The first drop hits after {format_time(answer.impact_s)} at {format_speed(answer.impact_m_s)}; its jet "
            f"is not known yet: log {more}, each with the height of the tip."
        )
    if answer.meet_s is None or answer.flash_s is None or answer.meet_height_m is None:
        return f"They do not meet: {_why_not(asked, answer)}."
    if asked.second_set_s is None and answer.second_release_s is None:
        return "They do not meet so: the second valve would have to open before the first."
    release = asked.second_set_s if asked.second_set_s is not None else answer.second_release_s
    text = (
        f"Second release {format_set_time(release or 0.0)}, flash {format_set_time(answer.flash_s)} "
        f"after the first valve: they meet at {format_length(answer.meet_height_m)}"
    )
    if answer.meet_sd_m is not None:
        text += f", ± {format_length(answer.meet_sd_m)}"
    if answer.share is not None:
        return f"{text}; {format_percent(answer.share)} of tries show it."
    return f"{text}. How many tries show it is not known: say {', '.join(answer.unknown) or 'how long it looks right'}."


def _why_not(asked: Drops, answer: Answered) -> str:
    jet = answer.jet
    assert jet is not None
    if asked.meet_height_m > jet.apex_m:
        return f"the jet rises to {format_length(jet.apex_m)} only"
    if asked.meet_height_m >= (asked.second_valve_height_m or asked.valve_height_m):
        return "that is above the valve"
    return "with the second release as it is set they pass each other"


def lists(asked: Drops, answer: Answered) -> Lists:
    """What is known of each part, and how to go about it."""
    plan = planned(asked)
    found = [("The jet", list(_jet_says(plan, answer))), ("Drops", list(_drops_say(plan, answer)))]
    if answer.meet_s is not None:
        found.append(("The meeting", list(_meeting_says(plan, answer))))
    return [*found, ("One knob at a time", list(_steps(asked, answer)))]


def _jet_says(plan: Plan, answer: Answered) -> Iterator[str]:
    asked, jet, fitted = plan.asked, answer.jet, plan.fitted
    if jet is None:
        begins = format_time(answer.impact_s + asked.jet_after_s)
        yield f"Usually it leaves about {begins} after the first valve (memory): begin to look there."
        return
    yield (
        f"Leaves after {format_time(jet.launch_s)}{_known(jet.launch_sd_s, format_time)} at "
        f"{format_speed(jet.speed_m_s)}{_known(jet.speed_sd_m_s, format_speed)}; on top at {format_time(jet.apex_s)}, "
        f"{format_length(jet.apex_m)} high."
    )
    if jet.launch_s < answer.impact_s:
        yield "It would leave before the first drop hits: are the delays counted from the first valve?"
    if fitted is None:
        return
    if jet.sd is None:
        yield "Two frames give it without a doubt of its own; a third says how much jets differ."
    else:
        if fitted.free < 4:
            few = ", which so few frames know badly"
        else:
            few = ""
        yield f"Tips differ by {format_length(jet.sd)} (sd) about it{few}."
    if jet.left_out is not None:
        frame = asked.observations[jet.left_out - 1]
        yield (
            f"Frame {jet.left_out} ({format_time(frame.flash_delay_s)}, {format_length(frame.height_m)}) is off by "
            f"{format_length(abs(fitted.off_m[jet.left_out - 1]))} and is left out: it shows another jet."
        )


def _known(sd: float | None, show: Any) -> str:
    if sd is None:
        return ""
    return f" ± {show(sd)}"


def _drops_say(plan: Plan, answer: Answered) -> Iterator[str]:
    asked, opening = plan.asked, plan.opening
    yield f"Falls {format_time(answer.fall_s)}, hits at {format_speed(answer.impact_m_s)}."
    if answer.diameter_m is None:
        yield "Without a size the fall is without drag; the real one takes a little longer."
    else:
        yield f"{format_length(answer.diameter_m)} across; as a sphere, large drops flatten and fall slower."
    if opening is not None:
        told = (
            f"The valve lets {opening.rate_kg_s * 1e3:.3g} g go each second "
            f"after {format_time(max(opening.dead_s, 0.0))}"
        )
        yield (
            f"{told}, weighed ± {opening.sd_kg * 1e6:.2g} mg."
            if opening.sd_kg is not None
            else f"{told}."
        )
        yield from _sizes_say(asked, opening)


def _sizes_say(asked: Drops, opening: Opening) -> Iterator[str]:
    """Open time and size, either from the other: for the drop as it is, and one a tenth wider."""
    density = LIQUIDS[asked.liquid].density_kg_m3
    if asked.open_s is not None and opening.mass_kg(asked.open_s) > 0:
        size = diameter_m(opening.mass_kg(asked.open_s), density)
        yield f"Open for {format_set_time(asked.open_s)} it lets {format_length(size)} go."
    elif asked.diameter_m is not None:
        size = asked.diameter_m
        yield f"{format_length(size)} take {format_set_time(opening.open_s(mass_of(size, density)))} open."
    else:
        return
    wider = size * 1.1
    yield f"{format_length(wider)} would take {format_set_time(opening.open_s(mass_of(wider, density)))}."


def _meeting_says(plan: Plan, answer: Answered) -> Iterator[str]:
    meeting, asked = plan.meeting, plan.asked
    assert meeting is not None
    yield (
        f"The jet rises at {format_speed(meeting.rising_m_s)}, the drop falls at {format_speed(meeting.falling_m_s)}: "
        f"a millisecond of the second release moves the meeting by {format_length(_moves_m(plan))}."
    )
    if asked.second_set_s is not None and answer.second_release_s is not None:
        solved = format_set_time(answer.second_release_s)
        yield f"Solved for {format_length(asked.meet_height_m)}: second release {solved}."
    if answer.share_timely is not None:
        yield f"{format_percent(answer.share_timely)} are lit within {format_time(asked.lasts_s or 0.0)}."
    if answer.share_touching is not None:
        yield f"{format_percent(answer.share_touching)} touch, with what strays aside."
    if answer.unknown:
        yield f"Not in these figures: {', '.join(answer.unknown)}."
    for other in answer.others:
        if other.release_s is None:
            when = "cannot be there in time"
        else:
            when = f"opens at {format_set_time(other.release_s)}"
        yield f"{other.name} {when}."


def _moves_m(plan: Plan) -> float:
    meeting = plan.meeting
    assert meeting is not None
    closing = meeting.rising_m_s + meeting.falling_m_s
    return abs(meeting.rising_m_s * meeting.falling_m_s / closing) * 1e-3


def _steps(asked: Drops, answer: Answered) -> Iterator[str]:
    if answer.jet is None:
        yield "Before there are pictures: watch and listen. The first drop alone, until the jet stands up each time."
        yield (
            f"Then the second release, from {format_time(answer.coarse_second_s)} by usual times: does the second drop "
            "fall into the jet, or come after it? By eye about 20 ms can be told apart (memory)."
        )
    yield "Flash delay first, until the jet stands at its height; log each frame with the height of its tip."
    yield "Then the second release; then sizes. Never two at once from one picture."
    yield "Wipe up what splashes before anybody walks there; keep flashes and cables dry."
    if asked.liquid == "wax":
        yield "Molten wax burns and can catch fire: water bath, goggles, sleeves, and the rules of the workshop."


def _valves(scene: Scene) -> list[tuple[int, Valve]]:
    """The valves of the chain, with their places in it."""
    return [
        (place, link) for place, link in enumerate(scene.trigger.links) if isinstance(link, Valve)
    ]


def from_scene(scene: Scene, evaluation: Evaluation) -> dict[str, Any]:
    """What the scene holds of its drops, with its frame, its unit's steps and its flash's lag."""
    given: dict[str, Any] = {}
    if scene.drops is not None:
        given = scene.drops.model_dump(mode="json")
    elif _valves(scene):
        given["valve_lag_s"] = sum(link.lag_s or 0.0 for _, link in _valves(scene))
    frame = evaluation.framing
    given |= {
        "resolution_s": scene.trigger.resolution_s or given.get("resolution_s", 0.0),
        "frame_width_m": frame.field_width_m, "frame_height_m": frame.field_height_m, "shown_s": None,
    }  # fmt: skip
    if scene.trigger.latency_s is not None:
        given["flash_lag_s"] = scene.trigger.latency_s
    return given


def to_scene(scene: Scene, asked: Drops) -> dict[str, Any]:
    """The drops as the scene's own; where they meet also the light's instant, its delay, and the second one's fall.

    The valves' lag stands in the drops from then on, since all of their times count from the command.
    """
    plan = planned(asked)
    kept = asked.model_dump(mode="json", exclude=_OF_THE_SCENE)
    values: dict[str, Any] = {"drops": kept}
    values |= {f"trigger.links[{place}].lag_s": 0.0 for place, _ in _valves(scene)}
    if plan.light_s is None or plan.meeting is None:
        return values
    values["moment.at_s"] = plan.light_s
    if scene.motion.kind == "fall":
        values["motion.height_m"] = plan.second.height_m - plan.meeting.height_m
    with_it = with_delay(scene, values)
    if with_it is None:
        return values
    return with_it


def table(asked: Drops) -> tuple[list[str], list[list[float]]]:
    """The heights of drops and jet over time, from the command to the first valve."""
    plan = planned(asked)
    if plan.meeting:
        release = plan.meeting.second_release_s
    else:
        release = plan.coarse_second_s
    end = ends_s(plan)
    rows = []
    for place in range(121):
        at = end * place / 120
        rows.append([
            at, plan.first.at(at)[0], plan.second.at(at - release)[0],
            plan.jet.height_m(at) if plan.jet else 0.0,
        ])  # fmt: skip
    return ["time_s", "first_drop_m", "second_drop_m", "jet_m"], rows


def ends_s(plan: Plan) -> float:
    """The end of what is worth showing [s]: a little after the light, else after a usual jet."""
    if plan.light_s is not None and plan.meeting is not None:
        return max(plan.light_s, plan.meeting.at_s) * 1.06
    if plan.jet:
        last = plan.jet.falls_back_s
    else:
        last = plan.coarse_second_s + plan.second.impact_s
    return last * 1.02


DROPS = Tool(
    slug="drops",
    title="Drops that meet",
    purpose="A drop raises a jet, a second one meets it: when does each valve open, and when does the light come?",
    asks=Drops,
    answers=Answered,
    beginning={
        "valve_height_m": 0.35, "diameter_m": 0.0045, "meet_height_m": 0.06, "resolution_s": 0.0001,
        "valve_sd_s": 0.0005, "aside_sd_m": 0.0008, "frame_width_m": 0.15, "frame_height_m": 0.1,
        "observations": [
            {"flash_delay_s": 0.360, "height_m": 0.0415}, {"flash_delay_s": 0.385, "height_m": 0.0632},
            {"flash_delay_s": 0.420, "height_m": 0.0812},
        ],
    },
    solve=solve,
    says=says,
    from_scene=from_scene,
    table=table,
    lists=lists,
    lacks=lambda scene: "" if scene.drops else "this scene has no drops that meet yet",
    to_scene=to_scene,
)  # fmt: skip
