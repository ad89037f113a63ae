"""Who has the trigger unit: one conversation at a time, across scenes, processes and people.

Set, read back, arm and report belong together. A row of the database says whose turn it is, until when; the one whose
turn it is says again and again that it goes on. A process that died says nothing, and its turn ends by itself.
"""

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from rapzel.core.shared.errors import CoreError
from rapzel.dialling.models import Shot, UnitHold, UnitUser
from rapzel.dialling.unit import TriggerUnitError

# longer than a unit may be silent, or waited for at the start
LEASE = timedelta(seconds=10)


class UnitHeld(CoreError):
    """Somebody else has the unit; str() says who, and since when."""


def may_use(owner_id: int) -> bool:
    """Whether an account was given the unit. The simulated one fires nothing real, and is everybody's."""
    if settings.TRIGGER_UNIT_PLAYS:
        return True
    return UnitUser.objects.filter(user_id=owner_id).exists()


def unit_of(scene_id: int) -> str:
    """The unit that a scene talks to: its address, and its name where a stand-in plays one for each scene."""
    if settings.TRIGGER_UNIT_PLAYS and settings.TRIGGER_UNIT_EACH:
        return f"{settings.TRIGGER_UNIT} scene-{scene_id}"
    return str(settings.TRIGGER_UNIT)


@transaction.atomic
def take(shot: Shot) -> None:
    """Gives the unit to a shot, which may have it already. Raises UnitHeld where another has it."""
    unit = unit_of(shot.scene_id)
    # The row has to be there before it can be locked.
    UnitHold.objects.get_or_create(unit=unit)
    hold = UnitHold.objects.select_for_update().get(unit=unit)
    now = timezone.now()
    is_anothers = hold.token not in ("", shot.token)
    if is_anothers and hold.until > now:
        raise UnitHeld(_held_words(hold, shot, now))
    # Who has it already keeps its beginning: others are told since when.
    if hold.token != shot.token:
        hold.token, hold.scene, hold.since = shot.token, shot.scene, now
    hold.until = now + LEASE
    hold.save()


def go_on(shot: Shot) -> None:
    """Says that the conversation goes on. Raises TriggerUnitError where its turn has ended meanwhile."""
    now = timezone.now()
    mine = UnitHold.objects.filter(
        unit=unit_of(shot.scene_id), token=shot.token, until__gt=now
    )
    if not mine.update(until=now + LEASE):
        raise TriggerUnitError(
            "taken",
            "This shot has lost the trigger unit: Rapzel could not keep hold of it. "
            "What the flash did is unknown. Fire again.",
        )


def give_back(shot: Shot) -> None:
    """Ends the turn of a shot; that of another stays."""
    mine = UnitHold.objects.filter(unit=unit_of(shot.scene_id), token=shot.token)
    mine.update(token="", scene=None)


def _held_words(hold: UnitHold, shot: Shot, now: Any) -> str:
    seconds = max(round((now - hold.since).total_seconds()), 1)
    return (
        f"The trigger unit is in use: {_holder(hold, shot)} has had it for {seconds} s. "
        "Fire again when that shot is over; nothing was sent."
    )


def _holder(hold: UnitHold, shot: Shot) -> str:
    """By name; what the scene is called is said to its own owner only."""
    if hold.scene is None:
        return "a scene that was removed"
    if hold.scene.shoot.owner_id == shot.scene.shoot.owner_id:
        return f"your scene “{hold.scene.name}”"
    return str(hold.scene.shoot.owner.get_username())
