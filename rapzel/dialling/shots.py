"""A shot with the trigger unit: set, read back, armed, fired, reported. Pages only read how far it is."""

import logging
import threading
import time
from typing import Any

from django.conf import settings
from django.db import DatabaseError, connection, transaction

from rapzel.core.shared.units import format_time
from rapzel.dialling import holding
from rapzel.dialling.models import Shot
from rapzel.dialling.report import (
    Sent,
    checked,
    fired_words,
    require_as_sent,
    require_kept,
)
from rapzel.dialling.unit import (
    SLOW_S,
    Pairs,
    TriggerUnitError,
    Unit,
    connected,
    figure,
)
from rapzel.shoots.models import Scene

log = logging.getLogger(__name__)
EVENT_S = 20.0  # that an armed unit waits for its event
_LOOK_S = 0.05
_GOES_ON_S = 2.0  # after which a shot that waits says again that it has the unit
_MOST_AT_ONCE = threading.BoundedSemaphore(16)  # conversations of one process
_KEPT = 30  # shots of a scene
THREAD = "shot-"  # how the threads of conversations are called
FAULTS = ("none", "asleep", "channel", "double", "slow", "silent", "babbling")


@transaction.atomic
def begin(scene: Scene, sent: Sent, fault: str = "none", wakes: bool = False) -> Shot:
    """A new shot, talked over in a thread of its own once it is stored; the scene's one under way where there is one.

    Raises UnitHeld where another scene has the unit; nothing is stored then.
    """
    Scene.objects.select_for_update(of=("self",)).get(pk=scene.pk)
    last = scene.shots.first()
    if last is not None and last.under_way:
        return last
    shot = Shot.objects.create(
        scene=scene,
        sent=sent,
        document=scene.document,
        wakes=wakes,
        fault=fault if fault in FAULTS else "none",
    )
    holding.take(shot)
    old = scene.shots.values_list("pk", flat=True)[_KEPT:]
    Shot.objects.filter(pk__in=list(old)).delete()
    transaction.on_commit(lambda: _thread(shot.pk).start())
    return shot


def _thread(pk: int) -> threading.Thread:
    return threading.Thread(
        target=_apart, args=(pk,), name=f"{THREAD}{pk}", daemon=True
    )


def _apart(pk: int) -> None:
    """The conversation in its own thread, with a database connection of its own that ends with it."""
    try:
        if not _MOST_AT_ONCE.acquire(timeout=5):
            says = "Too many units are talked to at once. Fire again in a moment."
            _note(pk, state=Shot.State.FAILED, says=says)
            for shot in Shot.objects.filter(pk=pk):
                holding.give_back(shot)  # begin had taken the unit for it
            return
        try:
            converse(pk)
        finally:
            _MOST_AT_ONCE.release()
    except Exception:
        log.exception("a conversation with a trigger unit failed")
        _note(
            pk,
            state=Shot.State.FAILED,
            says="Rapzel itself failed at this shot. Fire again.",
        )
    finally:
        connection.close()


def _note(pk: int, **values: Any) -> None:
    Shot.objects.filter(pk=pk, state__in=Shot.UNDER_WAY).update(**values)


def converse(pk: int) -> None:
    """Talks a shot over with the unit and notes how far it is."""
    shot = Shot.objects.select_related("scene__shoot__owner").filter(pk=pk).first()
    if shot is None or shot.state not in Shot.UNDER_WAY:
        return
    try:
        holding.take(shot)
        with connected(settings.TRIGGER_UNIT) as unit:
            _talk(unit, shot)
    except holding.UnitHeld as error:
        _note(pk, state=Shot.State.FAILED, problem="held", says=str(error)[:400])
    except TriggerUnitError as error:
        _note(pk, state=Shot.State.FAILED, problem=error.kind, says=str(error)[:400])
    finally:
        holding.give_back(shot)


def _talk(unit: Unit, shot: Shot) -> None:
    hello = _prepare(unit, shot)
    if shot.wakes:
        unit.ask("WAKE")
        _note(
            shot.pk, state=Shot.State.DONE, says=f"The unit is awake.{_slowness(unit)}"
        )
        return
    report = _fire(unit, shot, hello)
    says = fired_words(report) + _slowness(unit)
    _note(shot.pk, state=Shot.State.FIRED, report=report, says=says)


def _slowness(unit: Unit) -> str:
    if unit.slowest_s <= SLOW_S:
        return ""
    return f" The unit is slow: an answer took {format_time(unit.slowest_s)}."


def _prepare(unit: Unit, shot: Shot) -> Pairs:
    """Which unit, and how the stand-in shall be; what the unit says of itself."""
    if settings.TRIGGER_UNIT_PLAYS:
        if settings.TRIGGER_UNIT_EACH:
            unit.tell(f"UNIT scene-{shot.scene_id}")
        if not shot.wakes:
            unit.ask(f"FAULT {shot.fault}")
    hello = unit.ask("HELLO")
    if hello.get("protocol") != "1":
        raise TriggerUnitError(
            "refused",
            f"The unit speaks protocol {hello.get('protocol', '–')[:10]}; this Rapzel speaks 1.",
        )
    return hello


def _fire(unit: Unit, shot: Shot, hello: Pairs) -> Pairs:
    """Set, read back, arm, wait, compare. The unit's report. Raises TriggerUnitError for what is not as sent."""
    unit.ask("DISARM")
    told = (f"{key}={_written(value)}" for key, value in shot.sent.items())
    unit.ask(f"SET {' '.join(told)}")
    require_kept(unit.ask("GET"), shot.sent, figure(hello, "step_s") or 0.0)
    holding.go_on(shot)
    unit.ask(f"ARM {shot.token}")
    _note(shot.pk, state=Shot.State.ARMED)
    if settings.TRIGGER_UNIT_PLAYS:
        unit.ask("EVENT")
    try:
        report = _reported(unit, shot)
    except DatabaseError:
        unit.ask("DISARM")  # nobody would learn what it did
        raise
    require_as_sent(report, shot.sent, hello)
    return report


def _written(value: float | None) -> str:
    if value is None:
        return "-"
    return repr(value)


def _reported(unit: Unit, shot: Shot) -> Pairs:
    begun = said = time.monotonic()
    while time.monotonic() < begun + EVENT_S:
        report = unit.ask(f"REPORT {shot.token}")
        if report.get("state") == "fired":
            return checked(report)
        if report.get("state") != "armed":
            raise TriggerUnitError(
                "refused", "The unit has forgotten the shot. Fire again."
            )
        if time.monotonic() > said + _GOES_ON_S:
            holding.go_on(shot)
            said = time.monotonic()
        time.sleep(_LOOK_S)
    unit.ask("DISARM")
    raise TriggerUnitError(
        "no event",
        f"Nothing happened within {EVENT_S:g} s; the unit is disarmed again.",
    )
