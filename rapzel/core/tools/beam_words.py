"""What is said of a beam: one sentence, and what to do with it on the set."""

from rapzel.core.shared.units import (
    format_length,
    format_number,
    format_percent,
    format_time,
)
from rapzel.core.tools.beam_asked import BeamAnswered, BeamAsked


def says(asked: BeamAsked, answer: BeamAnswered) -> str:
    """The answer in one sentence."""
    if answer.share is None or answer.travel_m is None:
        return "How long it takes from the beam to the light is not known, so how often it lands is not: measure it."
    text = f"{format_percent(answer.share)} of the passes land in frame and focus"
    if answer.share_in_place is not None:
        text += f" within {format_length(asked.place_m or 0.0)} of the place"
    # Whoever never cuts the beam is a try as well, and leaves no picture.
    missed = 1 - (answer.share_noticed or 0.0)
    if missed >= 0.005:
        text += f"; {format_percent(missed)} miss the beam"
    off = answer.travel_m - asked.upstream_m
    if off > 0:
        where = "past"
    else:
        where = "short of"
    # Within a tenth of the spread nobody needs to move a stand.
    near = max((answer.along_sd_m or 0.0) / 10, 1e-3)
    text += (
        "; the beam stands right"
        if abs(off) < near
        else (
            f"; the usual one is {format_length(abs(off))} {where} the place: beam at "
            f"{format_length(max(answer.upstream_m or 0.0, 0.0))} upstream"
        )
    )
    if answer.useless_beam_share is not None and answer.useless_beam_share >= 0.005:
        text += f"; {format_percent(answer.useless_beam_share)} of its length fires at nothing"
    return f"{text[0].upper()}{text[1:]}."


def lists(asked: BeamAsked, answer: BeamAnswered) -> list[tuple[str, list[str]]]:
    """What to do with it on the set."""
    if answer.share is None:
        return []
    steps = [
        f"Focus at {format_length(answer.focus_m or asked.focus_m)}: there the usual one is when the light comes.",
        f"From the beam to the light it goes {format_length(answer.travel_m or 0.0)}, "
        f"± {format_length(answer.along_sd_m or 0.0)}.",
    ]
    if answer.right_lag_s is not None and asked.upstream_m > 0:
        late = (asked.lag_s or 0.0) - answer.right_lag_s
        spare = f"{format_time(abs(late))} {'too long' if late > 0 else 'to spare'}"
        steps.append(
            f"From here the chain may take {format_time(answer.right_lag_s)}: {spare}."
        )
    if answer.closed_form is not None:
        steps.append(
            f"In frame and focus: {format_percent(answer.closed_form.share)} in closed form, "
            f"{format_percent(answer.share_framed_and_sharp or 0.0)} ± "
            f"{format_number((answer.standard_error or 0.0) * 100, 2)} % of {asked.tries} simulated tries."
        )
    if answer.heat_share is not None:
        steps.append(
            "A passive heat sensor in its place, 1 m wide and 0.2 s slow (memory), lands "
            f"{format_percent(answer.heat_share)} even if aimed well: fine to wait for, useless to focus on."
        )
    return [("On the set", steps)]
