"""What a person would say of a scene: what holds, what probably does, what does not, and what is not known."""

from rapzel.core.document.evaluation import Margin
from rapzel.core.physics import Physics
from rapzel.core.verdict.margin import listed
from rapzel.core.verdict.margins import MARGINS


def _part(physics: Physics, margin: Margin) -> str:
    return MARGINS[margin.name].says(physics, margin)


def _is_told(margin: Margin) -> bool:
    """Whether a margin that holds is worth a word: those that people look at, not those that only must not fail."""
    return margin.state == "passes" and MARGINS[margin.name].told(margin)


def _is_guessed(margin: Margin) -> bool:
    """Whether a margin that probably holds is."""
    probably = margin.state == "unsure" and not margin.probably_fails
    return probably and MARGINS[margin.name].guessed


def _is_wrong(margin: Margin) -> bool:
    """Whether a margin fails, or probably does; shares that are not sure are told by themselves."""
    return margin.state == "fails" or (
        margin.probably_fails and not MARGINS[margin.name].doubted
    )


def _is_doubtful(margin: Margin) -> bool:
    """Whether a margin is unsure that is not worded as a guess."""
    return margin.state == "unsure" and MARGINS[margin.name].doubted


def _failing(physics: Physics, margins: list[Margin]) -> list[Margin]:
    """What fails; tries that only fail because the motion is not frozen are said once, with the freeze."""
    failing = [one for one in margins if _is_wrong(one)]
    shares = physics.timing.shares
    smeared = any(one.name == "freeze" for one in failing)
    if (
        not smeared
        or shares is None
        or shares.slow_enough is None
        or shares.slow_enough > 0.5
    ):
        return failing
    rest = min(
        shares.in_frame,
        shares.in_focus,
        1.0 if shares.in_moment is None else shares.in_moment,
    )
    return [one for one in failing if one.name != "timing" or rest < 0.5]


def sentence(physics: Physics, margins: list[Margin]) -> str:
    """What holds, then what does not, then what is not known."""
    if not physics.scene.lights and physics.method.flashes:
        return "No light yet: add one to see whether it freezes, is bright enough and lands."
    # Good news first, then what to mend, then what to find out: the order of a good assistant.
    holds = [_part(physics, one) for one in margins if _is_told(one)]
    perhaps = [_part(physics, one) for one in margins if _is_guessed(one)]
    fails = [_part(physics, one) for one in _failing(physics, margins)]
    unknown = [MARGINS[one.name].question for one in margins if one.state == "unknown"]
    # What only probably holds is worded so by its own margin.
    text = _joined([*holds, *perhaps], fails)
    # How often it lands, where that is not sure, is neither good news nor bad.
    doubts = [_part(physics, one) for one in margins if _is_doubtful(one)]
    if doubts:
        text = "; ".join([*([text] if text else []), *doubts])
    if unknown:
        not_known = f"not known: {listed(unknown)}"
        if text:
            text = f"{text}; {not_known}"
        else:
            text = not_known
    if not text:
        return "Nothing to say yet."
    return f"{text[0].upper()}{text[1:]}."


def _joined(good: list[str], fails: list[str]) -> str:
    """What holds, but what does not."""
    if good and fails:
        return f"{', '.join(good)}, but {listed(fails)}"
    if good or fails:
        return listed(good or fails)
    return ""
