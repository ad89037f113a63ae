"""What a trigger unit kept and reported, compared with what was sent. A difference is a shot that failed."""

from collections.abc import Mapping
from typing import Any

from rapzel.core.shared.units import format_set_time, format_time
from rapzel.dialling.unit import Pairs, TriggerUnitError, figure

Sent = dict[str, Any]
_HALF = 0.5000001  # of a step: whichever way the unit rounds
_VARIATION_S = 2e-5  # of a unit that does not state its own; common practice
_SPREADS = 6.0  # standard deviations that chance does not reach
_FIGURES = (
    "flash_s",
    "second_s",
    "again_s",
    "pulses",
    "channel",
    "rig_late_s",
    "rig_second_late_s",
)
_OUTPUTS = (("delay_s", "flash_s", "flash"), ("second_s", "second_s", "second valve"))


def require_kept(kept: Mapping[str, str], sent: Sent, step_s: float) -> None:
    """Raises TriggerUnitError where the unit keeps something else than what was set, to within half of its step."""
    _require_channel(figure(kept, "channel"), sent)
    for key, words in (("delay_s", "delay"), ("second_s", "second release")):
        there_s, wanted_s = figure(kept, key), sent.get(key)
        if wanted_s is None and there_s is None:
            continue
        if (
            wanted_s is None
            or there_s is None
            or abs(there_s - wanted_s) > step_s * _HALF
        ):
            says = f"The unit keeps {words} {_time(there_s)}, and {_time(wanted_s)} was set."
            raise TriggerUnitError("refused", says)


def require_as_sent(
    report: Mapping[str, str], sent: Sent, hello: Mapping[str, str]
) -> None:
    """Raises TriggerUnitError where what the outputs did is not what was set, beyond the unit's step and variation."""
    if figure(report, "pulses") == 0:
        raise TriggerUnitError(
            "not as set",
            "The unit reports that its flash output did not go. Check its cable and fire again.",
        )
    channel = figure(report, "channel")
    if channel is not None:
        _require_channel(channel, sent)
    variation_s = figure(hello, "jitter_s")
    if variation_s is None:
        variation_s = _VARIATION_S
    allowed_s = (figure(hello, "step_s") or 0.0) + _SPREADS * variation_s
    for key, output, words in _OUTPUTS:
        _require_output(figure(report, output), sent.get(key), words, allowed_s)


def _require_channel(channel: float | None, sent: Sent) -> None:
    if "channel" not in sent or channel == sent["channel"]:
        return
    if channel is None:
        there = "none"
    else:
        there = f"{channel:g}"
    raise TriggerUnitError(
        "channel",
        f"The unit is on channel {there}, and {sent['channel']} was set: the flash would not answer. "
        "Set it at the unit, then fire again.",
    )


def _require_output(
    went_s: float | None, set_s: float | None, words: str, allowed_s: float
) -> None:
    """A time that the unit does not tell is unknown, and no difference."""
    if went_s is None:
        return
    if set_s is None:
        # A delay of none is the unit's own business; a valve that was not asked for is not.
        if words == "flash":
            return
        raise TriggerUnitError(
            "not as set", f"The unit reports a {words}, and none was set. {_CHECK}"
        )
    if abs(went_s - set_s) > allowed_s:
        raise TriggerUnitError(
            "not as set",
            f"The unit reports its {words} {format_time(went_s, 4)} after the event, and "
            f"{format_set_time(set_s)} was set. {_CHECK}",
        )


_CHECK = (
    "Something else has set it meanwhile: this picture is not of this plan. Fire again."
)


def _time(value: float | None) -> str:
    if value is None:
        return "none"
    return format_set_time(value)


def checked(report: Pairs) -> Pairs:
    """A report as it is stored. Raises TriggerUnitError for a figure that is none."""
    for key in _FIGURES:
        figure(report, key)
    return {key[:20]: value[:40] for key, value in list(report.items())[:20]}


def fired_words(report: Pairs) -> str:
    """What happened, in a sentence or two."""
    flash, again = figure(report, "flash_s"), figure(report, "again_s")
    if flash is None:
        text = (
            "Fired. The unit does not say when: whether it kept the delay is unknown."
        )
    else:
        text = f"Fired: flash {format_time(flash, 4)} after the event."
    if report.get("answered") == "no":
        channel = report.get("channel", "–")
        text += f" The flash did not answer: the unit sends on channel {channel}."
    if (figure(report, "pulses") or 0) > 1 and again is not None and flash is not None:
        apart = format_time(again - flash)
        text += f" It fired twice, {apart} apart: the picture holds two lights, do not judge by it."
    return text
