"""What the tool of the drops says: the meeting in a sentence, and what to set, to log and to know."""

from collections.abc import Iterator
from typing import Any

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
from rapzel.core.tools.drops_answer import DropsAnswered
from rapzel.core.tools.tool import Lists


def says(asked: Drops, answer: DropsAnswered) -> str:
    """The answer in one sentence."""
    if answer.jet is None:
        # Two frames make a parabola from the surface; one more than there are is asked for.
        more = (
            "one more frame"
            if len(asked.observations) == 1
            else "two frames at different delays"
        )
        return (
            f"The first drop hits after {format_time(answer.impact_s)} at {format_speed(answer.impact_m_s)}; its jet "
            f"is not known yet: log {more}, each with the height of the tip."
        )
    # Why they do not meet is the whole answer: what could be set would mislead.
    if answer.meet_s is None or answer.flash_s is None or answer.meet_height_m is None:
        return f"They do not meet: {_why_not(asked, answer)}."
    # A low meeting late on the jet's way back may need the second drop before the first.
    if asked.second_set_s is None and answer.second_release_s is None:
        return (
            "They do not meet so: the second valve would have to open before the first."
        )
    release = (
        asked.second_set_s
        if asked.second_set_s is not None
        else answer.second_release_s
    )
    text = (
        f"Second release {format_set_time(release or 0.0)}, flash {format_set_time(answer.flash_s)} "
        f"after the first valve: they meet at {format_length(answer.meet_height_m)}"
    )
    # The doubt stands with the height wherever it is known.
    if answer.meet_sd_m is not None:
        text += f", ± {format_length(answer.meet_sd_m)}"
    if answer.share is not None:
        return f"{text}; {format_percent(answer.share)} of tries show it."
    return f"{text}. How many tries show it is not known: say {', '.join(answer.unknown) or 'how long it looks right'}."


def _why_not(asked: Drops, answer: DropsAnswered) -> str:
    jet = answer.jet
    assert jet is not None
    # The commonest reason first, and its remedy with it: how high it does rise.
    if asked.meet_height_m > jet.apex_m:
        return f"the jet rises to {format_length(jet.apex_m)} only"
    if asked.meet_height_m >= (asked.second_valve_height_m or asked.valve_height_m):
        return "that is above the valve"
    return "with the second release as it is set they pass each other"


def lists(asked: Drops, answer: DropsAnswered) -> Lists:
    """What is known of each part, and how to go about it."""
    plan = planned(asked)
    found = [
        ("The jet", list(_jet_says(plan, answer))),
        ("Drops", list(_drops_say(plan, answer))),
    ]
    if answer.meet_s is not None:
        found.append(("The meeting", list(_meeting_says(plan, answer))))
    return [*found, ("One knob at a time", list(_steps(asked, answer)))]


def _jet_says(plan: Plan, answer: DropsAnswered) -> Iterator[str]:
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
    # Delays counted from another event are the usual slip, and shift the jet by a whole fall.
    if jet.launch_s < answer.impact_s:
        yield "It would leave before the first drop hits: are the delays counted from the first valve?"
    if fitted is None:
        return
    # A parabola through two frames passes through both: it cannot say how much jets differ.
    if jet.sd is None:
        yield "Two frames give it without a doubt of its own; a third says how much jets differ."
    else:
        # With fewer than four frames beyond what the fit takes, a spread may be off by half its
        # size.
        if fitted.free < 4:
            few = ", which so few frames know badly"
        else:
            few = ""
        yield f"Tips differ by {format_length(jet.sd)} (sd) about it{few}."
    # A frame of another jet is named, with what gives it away, so that it can be looked at.
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


def _drops_say(plan: Plan, answer: DropsAnswered) -> Iterator[str]:
    asked, opening = plan.asked, plan.opening
    yield f"Falls {format_time(answer.fall_s)}, hits at {format_speed(answer.impact_m_s)}."
    # Drag needs a size; the sign of the error is known, its size is not.
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
    # A tenth wider: by it one sees how touchy the size is to the open time.
    wider = size * 1.1
    yield f"{format_length(wider)} would take {format_set_time(opening.open_s(mass_of(wider, density)))}."


def _meeting_says(plan: Plan, answer: DropsAnswered) -> Iterator[str]:
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
    # Two moving ends: how far the meeting shifts for a millisecond of the second release.
    closing = meeting.rising_m_s + meeting.falling_m_s
    return abs(meeting.rising_m_s * meeting.falling_m_s / closing) * 1e-3


def _steps(asked: Drops, answer: DropsAnswered) -> Iterator[str]:
    if answer.jet is None:
        yield "Before there are pictures: watch and listen. The first drop alone, until the jet stands up each time."
        yield (
            f"Then the second release, from {format_time(answer.coarse_second_s)} by usual times: does the second drop "
            "fall into the jet, or come after it? By eye about 20 ms can be told apart (memory)."
        )
    yield "Flash delay first, until the jet stands at its height; log each frame with the height of its tip."
    yield "Then the second release; then sizes. Never two at once from one picture."
    yield "Wipe up what splashes before anybody walks there; keep flashes and cables dry."
    # The one liquid of the list that can hurt on its own.
    if asked.liquid == "wax":
        yield "Molten wax burns and can catch fire: water bath, goggles, sleeves, and the rules of the workshop."
