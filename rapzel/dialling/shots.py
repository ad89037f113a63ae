"""A shot with the trigger unit: set, read back, armed, fired, reported. Pages only read how far it is."""

import logging
import threading
import time
from typing import Any

from django.conf import settings
from django.db import connection, transaction

from rapzel.core.shared.units import format_set_time, format_time
from rapzel.dialling.models import Shot
from rapzel.dialling.unit import SLOW_S, Unit, UnitError, connected, figure
from rapzel.shoots.models import Scene

log = logging.getLogger(__name__)
EVENT_S = 20.0  # that an armed unit waits for its event
_LOOK_S = 0.05
_MOST_AT_ONCE = threading.BoundedSemaphore(16)  # conversations of one process
_KEPT = 30  # shots of a scene
_HALF = 0.5000001
_FIGURES = ("flash_s", "second_s", "again_s", "pulses", "rig_late_s", "rig_second_late_s")
THREAD = "shot-"  # how the threads of conversations are called
FAULTS = ("none", "asleep", "channel", "double", "slow", "silent", "babbling")
Sent = dict[str, Any]


@transaction.atomic
def begin(scene: Scene, sent: Sent, fault: str = "none", wakes: bool = False) -> Shot:
    """A new shot, talked over in a thread of its own once it is stored; the one under way where there is one."""
    Scene.objects.select_for_update(of=("self",)).get(pk=scene.pk)
    last = scene.shots.first()
    if last is not None and last.under_way:
        return last
    shot = Shot.objects.create(
        scene=scene, sent=sent, document=scene.document, wakes=wakes,
        fault=fault if fault in FAULTS else "none",
    )  # fmt: skip
    old = scene.shots.values_list("pk", flat=True)[_KEPT:]
    Shot.objects.filter(pk__in=list(old)).delete()
    transaction.on_commit(lambda: _thread(shot.pk).start())
    return shot


def _thread(pk: int) -> threading.Thread:
    return threading.Thread(target=_apart, args=(pk,), name=f"{THREAD}{pk}", daemon=True)


def _apart(pk: int) -> None:
    """The conversation in its own thread, with a database connection of its own that ends with it."""
    try:
        if not _MOST_AT_ONCE.acquire(timeout=5):
            _note(
                pk,
                state=Shot.State.FAILED,
                says="Too many units are talked to at once. Fire again in a moment.",
            )
            return
        try:
            converse(pk)
        finally:
            _MOST_AT_ONCE.release()
    except Exception:
        log.exception("a conversation with a trigger unit failed")
        _note(pk, state=Shot.State.FAILED, says="Rapzel itself failed at this shot. Fire again.")
    finally:
        connection.close()


def _note(pk: int, **values: Any) -> None:
    Shot.objects.filter(pk=pk, state__in=Shot.UNDER_WAY).update(**values)


def converse(pk: int) -> None:
    """Talks a shot over with the unit and notes how far it is."""
    shot = Shot.objects.filter(pk=pk).first()
    if shot is None or shot.state not in Shot.UNDER_WAY:
        return
    try:
        with connected(settings.TRIGGER_UNIT) as unit:
            step_s = _prepare(unit, shot)
            if shot.wakes:
                unit.ask("WAKE")
                _note(pk, state=Shot.State.DONE, says=f"The unit is awake.{_slowness(unit)}")
                return
            report = _fire(unit, shot, step_s)
            _note(
                pk,
                state=Shot.State.FIRED,
                report=report,
                says=_says(report) + _slowness(unit),
            )
    except UnitError as error:
        _note(pk, state=Shot.State.FAILED, problem=error.kind, says=str(error)[:400])


def _slowness(unit: Unit) -> str:
    if unit.slowest_s <= SLOW_S:
        return ""
    return f" The unit is slow: an answer took {format_time(unit.slowest_s)}."


def _prepare(unit: Unit, shot: Shot) -> float:
    """Which unit, and how the stand-in shall be; the steps in which it sets times [s]."""
    if settings.TRIGGER_UNIT_PLAYS:
        unit.tell(f"UNIT scene-{shot.scene_id}")
        if not shot.wakes:
            unit.ask(f"FAULT {shot.fault}")
    hello = unit.ask("HELLO")
    if hello.get("protocol") != "1":
        raise UnitError(
            "refused",
            f"The unit speaks protocol {hello.get('protocol', '–')[:10]}; this Rapzel speaks 1.",
        )
    return figure(hello, "step_s") or 0.0


def _fire(unit: Unit, shot: Shot, step_s: float) -> dict[str, str]:
    """Set, read back, arm, wait. The report as the unit gave it."""
    unit.ask("DISARM")
    told = (f"{key}={_written(value)}" for key, value in shot.sent.items())
    unit.ask(f"SET {' '.join(told)}")
    _require_kept(unit.ask("GET"), shot.sent, step_s)
    unit.ask(f"ARM {shot.token}")
    _note(shot.pk, state=Shot.State.ARMED)
    if settings.TRIGGER_UNIT_PLAYS:
        unit.ask("EVENT")
    return _reported(unit, shot.token)


def _written(value: float | None) -> str:
    return "-" if value is None else repr(value)


def _require_kept(kept: dict[str, str], sent: Sent, step_s: float) -> None:
    """Raises UnitError where the unit keeps something else than what was set, to within half of its step."""
    channel = figure(kept, "channel")
    if "channel" in sent and channel != sent["channel"]:
        there = "none" if channel is None else f"{channel:g}"
        raise UnitError(
            "channel", f"The unit is on channel {there}, and {sent['channel']} was set: the flash would not answer. "
            "Set it at the unit, then fire again.",
        )  # fmt: skip
    for key, words in (("delay_s", "delay"), ("second_s", "second release")):
        there_s, wanted_s = figure(kept, key), sent.get(key)
        if wanted_s is None and there_s is None:
            continue
        if wanted_s is None or there_s is None or abs(there_s - wanted_s) > step_s * _HALF:
            says = f"The unit keeps {words} {_time(there_s)}, and {_time(wanted_s)} was set."
            raise UnitError("refused", says)


def _time(value: float | None) -> str:
    return "none" if value is None else format_set_time(value)


def _reported(unit: Unit, token: str) -> dict[str, str]:
    until = time.monotonic() + EVENT_S
    while time.monotonic() < until:
        report = unit.ask(f"REPORT {token}")
        if report.get("state") == "fired":
            for key in _FIGURES:
                figure(report, key)  # raises for what is none
            return {key[:20]: value[:40] for key, value in list(report.items())[:20]}
        if report.get("state") != "armed":
            raise UnitError("refused", "The unit has forgotten the shot. Fire again.")
        time.sleep(_LOOK_S)
    unit.ask("DISARM")
    raise UnitError(
        "no event", f"Nothing happened within {EVENT_S:g} s; the unit is disarmed again."
    )


def _says(report: dict[str, str]) -> str:
    """What happened, in a sentence or two."""
    flash, again = figure(report, "flash_s"), figure(report, "again_s")
    text = f"Fired: flash {'–' if flash is None else format_time(flash, 4)} after the event."
    if report.get("answered") == "no":
        text += (
            f" The flash did not answer: the unit sends on channel {report.get('channel', '–')}."
        )
    if (figure(report, "pulses") or 0) > 1 and again is not None and flash is not None:
        apart = format_time(again - flash)
        text += f" It fired twice, {apart} apart: the picture holds two lights, do not judge by it."
    return text
