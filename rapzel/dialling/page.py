"""What the dial-in page shows of a scene."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

from django.conf import settings
from django.http import HttpRequest

from rapzel.core.verdict.knobs import SceneKnob, knobs_of
from rapzel.dialling import holding, shots
from rapzel.dialling.models import DialIn, Shot
from rapzel.dialling.state import Dialling, open_of
from rapzel.shoots.models import Scene
from rapzel.takes.models import Outcome, Take
from rapzel.workbench.answer import Answer
from rapzel.workbench.views.common import answer_of

FAULT_WORDS = {
    "none": "well", "asleep": "asleep", "channel": "on the wrong channel", "double": "firing twice", "slow": "slow",
    "silent": "silent", "babbling": "babbling",
}  # fmt: skip
_PLAYED_WIDE = 4.0  # how far off the stand-in's set may be, in times what looks right
# (or one would not see that the set is off at all)
_PLAYED_LEAST_S = 0.002


@dataclass(frozen=True)
class DialPage:
    """The page's parts."""

    scene: Scene
    answer: Answer
    dial_in: DialIn | None

    @cached_property
    def state(self) -> Dialling | None:
        """The knob that is being dialled in."""
        if self.dial_in:
            return Dialling(self.dial_in, self.scene, self.answer)
        return None

    @property
    def knobs(self) -> list[tuple[SceneKnob, str]]:
        """What can be dialled in, each with what it is set to."""
        every = knobs_of(self.answer.physics)
        return [(each, each.show(each.value, self.answer.imperial)) for each in every]

    @cached_property
    def past(self) -> list[DialIn]:
        """The last ones that were left."""
        # Older ones are in the log with their takes.
        return list(self.scene.dial_ins.filter(ended_at__isnull=False)[:5])

    @cached_property
    def has_unit(self) -> bool:
        """Whether a unit is there, and this account was given it."""
        # A real unit is one thing on one stand: the operator says who may fire it.
        return self.unit_there and holding.may_use(self.scene.shoot.owner_id)

    @property
    def unit_there(self) -> bool:
        return bool(settings.TRIGGER_UNIT)

    @property
    def plays(self) -> bool:
        """Whether the unit is the stand-in, whose faults can be chosen."""
        return bool(settings.TRIGGER_UNIT_PLAYS)

    @property
    def faults(self) -> list[tuple[str, str]]:
        return list(FAULT_WORDS.items())

    @cached_property
    def shot(self) -> Shot | None:
        return self.scene.shots.first()

    @property
    def shot_says(self) -> str:
        """How far the last shot is, in words."""
        shot = self.shot
        if shot is None:
            return "Nothing fired yet."
        if shot.state in Shot.UNDER_WAY:
            # Said to be under way, but its process is gone: it will never be heard of again.
            if not shot.under_way:
                return "The shot broke off: nothing was heard of it. Fire again."
            return f"{shot.get_state_display().capitalize()} …"
        return shot.says

    @property
    def fault(self) -> str:
        """How the stand-in is now, as far as the last shot knows."""
        # Waking takes every fault away.
        if self.shot is None or self.shot.wakes:
            return "none"
        return self.shot.fault

    @property
    def channel(self) -> int:
        if self.shot is None:
            return 1
        return int(self.shot.sent.get("channel") or 1)

    @property
    def judged(self) -> Shot | None:
        """The shot whose picture is to be judged: one that went well, with the plan as it is now."""
        shot = self.shot
        # A picture of another plan would be judged as if it were today's.
        same = shot is not None and shot.tells and shot.document == self.scene.document
        if same:
            return shot
        return None

    @cached_property
    def logged(self) -> Take | None:
        """The take that the last shot was logged as, outside of a dial-in."""
        if self.judged is None:
            key = ""
        else:
            key = self.judged.token
        if key:
            return Take.objects.filter(
                scene=self.scene, key=key, deleted_at__isnull=True
            ).first()
        return None

    @property
    def outcomes(self) -> list[tuple[str, str]]:
        """What can be said of a shot outside of a dial-in."""
        return [(str(value), str(label)) for value, label in Outcome.choices]

    @cached_property
    def pictured(self) -> Shot | None:
        """The last shot that has a picture: one that went wrong does not take it away."""
        # The newest comes first.
        fired = self.scene.shots.filter(state=Shot.State.FIRED).first()
        if fired is not None and "rig_late_s" in fired.report:
            return fired
        return None

    def sent(self, channel: int) -> shots.Sent:
        """The scene's timing as the unit is told it; the stand-in also what set it plays."""
        scene = self.answer.physics.scene
        sent: shots.Sent = {"channel": channel, "delay_s": scene.trigger.set_delay_s}
        if scene.drops is None:
            sent["second_s"] = None
        else:
            sent["second_s"] = scene.drops.second_set_s
        if self.plays:
            knob = knobs_of(self.answer.physics)[0].knob
            # The stand-in's set is off by more than looks right, so that dialling in is needed.
            wide = max(_PLAYED_WIDE * min(knob.right_s, 0.1), _PLAYED_LEAST_S)
            sent |= {
                "flash_channel": channel,
                # By the scene: its set is off by the same each time, as a real one is.
                "seed": self.scene.pk % 2**31,
                "late_within_s": round(min(wide, 1.0), 6),
                "jitter_s": round(min(knob.jitter_s or 0.0, 0.5), 6),
            }
        return sent


def context_of(request: HttpRequest, scene: Scene) -> dict[str, Any]:
    """What the templates need."""
    shown = DialPage(scene, answer_of(request, scene), open_of(scene))
    return {"scene": scene, "shown": shown, "state": shown.state}
