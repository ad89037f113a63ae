"""What the log of a scene teaches of its timing: plan against takes, which way it misses, what to set next."""

from collections import Counter
from dataclasses import dataclass
from typing import NamedTuple

from django.db.models import BooleanField, ExpressionWrapper, Q

from rapzel.core.document.places import Document
from rapzel.core.physics.timing import Timing
from rapzel.core.shared import units
from rapzel.core.trigger.learning import (
    FEW,
    Bias,
    Planned,
    from_counts,
    from_offsets,
    next_delay_s,
    plan_against_takes,
)
from rapzel.shoots.models import Scene
from rapzel.takes.columns import evidence_of_plan
from rapzel.takes.models import Outcome, Take
from rapzel.workbench.answer import Answer

# tries that teach of the plan: what is older was tried by another hand, in another light
_LAST = 300
# what tells of when the light came; a ghost, a smear or a band tell of something else
_OF_TIMING = (Outcome.KEEP, Outcome.EARLY, Outcome.LATE, Outcome.MISSED)


@dataclass(frozen=True)
class Learnt:
    """Sentences for the page, and the delay to set next [s]; None where it stays as it is, or nothing is known."""

    says: str
    misses: str
    hint: str
    next_delay_s: float | None

    @property
    def next_text(self) -> str:
        if self.next_delay_s is None:
            return ""
        return units.format_time(self.next_delay_s)


class _Try(NamedTuple):
    """What a take teaches of the timing; `of_this_frame`: also of whether a try lands as the frame is now."""

    outcome: str
    late_s: float | None
    of_this_frame: bool


def _of_today(scene: Scene, plan: Document) -> list[_Try]:
    """The last tries whose light comes as it does in the plan of now: others teach of another set."""
    living = Take.objects.filter(scene=scene, deleted_at__isnull=True)
    # By a column: no plan of ten thousand letters is read to find out that it is another one.
    alike = living.filter(lateness=evidence_of_plan("lateness", plan))
    frame = ExpressionWrapper(
        Q(landing=evidence_of_plan("landing", plan)), BooleanField()
    )
    rows = alike.annotate(of_this_frame=frame).values_list(
        "outcome", "late_s", "of_this_frame"
    )
    return [_Try(*row) for row in rows[:_LAST]]


def learnt_of(scene: Scene, answer: Answer) -> Learnt:
    """What the takes say of the plan as it is now; those of another chain, body or moment say nothing of it."""
    takes = _of_today(scene, answer.document)
    counts = Counter(take.outcome for take in takes)
    timing, plan = answer.physics.timing, answer.physics.scene
    # A wider frame lands more tries, and says nothing of the chain: both questions have evidence of
    # their own.
    landed = Counter(take.outcome for take in takes if take.of_this_frame)
    bare = sum(
        take.late_s is None and take.outcome in (Outcome.EARLY, Outcome.LATE)
        for take in takes
    )
    bias = _bias(takes, counts, timing.jitter_s, plan.moment.lasts_s)
    following, hint = _hint(bias, plan.trigger.set_delay_s, plan.trigger.resolution_s)
    if bias is not None and bias.basis == "offsets" and bare:
        hint += f" Left out: {bare} early or late without an offset."
    # Of a ghost or a smear nobody knows whether it came in time.
    told = sum(landed[outcome] for outcome in _OF_TIMING)
    against = plan_against_takes(_planned(timing), landed[Outcome.KEEP], told)
    return Learnt(against, _misses(counts), hint, following)


def _planned(timing: Timing) -> Planned | None:
    """The share that the plan lets land, with its range; None where it says nothing of landing."""
    if timing.share is None or timing.shares is None:
        return None
    return Planned(timing.share, timing.shares.low, timing.shares.high)


def _bias(
    takes: list[_Try],
    counts: Counter[str],
    jitter_s: float | None,
    lasts_s: float | None,
) -> Bias | None:
    """Measured offsets first; else what the counts of early and late say of a moment whose length is known.

    Offsets are mostly noted of misses: keepers without one count as on time, or the bias would be that of misses alone.
    """
    noted = [take.late_s for take in takes if take.late_s is not None]
    landed = sum(take.late_s is None and take.outcome == Outcome.KEEP for take in takes)
    measured = from_offsets([*noted, *([0.0] * landed)] if noted else [], jitter_s)
    if measured is not None or lasts_s is None:
        return measured
    return from_counts(
        counts[Outcome.EARLY], counts[Outcome.KEEP], counts[Outcome.LATE], lasts_s
    )


def _misses(counts: Counter[str]) -> str:
    early, late = counts[Outcome.EARLY], counts[Outcome.LATE]
    if early + late == 0:
        return ""
    if early == late:
        return f"{early} early, {late} late: neither dominates."
    # One miss of one is no rule.
    if early + late < FEW:
        return f"{early} early, {late} late so far."
    if early > late:
        more = "early"
    else:
        more = "late"
    return f"{early} early, {late} late: too {more} dominates."


def _hint(
    bias: Bias | None, delay_s: float, resolution_s: float
) -> tuple[float | None, str]:
    """What to set next, in words, and the delay where a delay does it."""
    if bias is None:
        return None, ""
    if bias.late_s > 0:
        way = "late"
    else:
        way = "early"
    known = f"From {bias.tries} {'try' if bias.tries == 1 else 'tries'} ({bias.basis}) the light comes "
    known += (
        f"{units.format_time(abs(bias.late_s))} ± {units.format_time(bias.error_s)} {way}"
        if (bias.error_s != float("inf"))
        else f"{units.format_time(abs(bias.late_s))} {way}, with a doubt that is not known"
    )
    # Turning a knob after noise makes things worse half of the time.
    if not bias.sure:
        return None, f"{known}: not told apart from none yet, leave the delay."
    following = next_delay_s(delay_s, bias, resolution_s)
    if following is None:
        return (
            None,
            f"{known}: no delay makes up for that, lead by {units.format_time(bias.late_s)} more.",
        )
    return following, f"{known}: set the delay to {units.format_time(following)}."
