"""One holder of the trigger unit at a time, whoever asks; and what a unit reports is what was sent, or no shot."""

import copy
import re
import threading
from datetime import timedelta
from types import SimpleNamespace

import pytest
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from rapzel.dialling import holding, shots
from rapzel.dialling.models import Shot, UnitHold, UnitUser
from rapzel.dialling.unit import TriggerUnitError, figure
from rapzel.shoots.models import Shoot
from rapzel.shoots.services import add_scene
from tests.apps.dial_plans import GLASS
from tests.apps.units import be_patient, behaving, standing_in

SENT = {"channel": 2, "delay_s": 0.3608, "second_s": None, "flash_channel": 2}


@pytest.fixture
def one_for_all(settings, monkeypatch):
    """One simulated unit with one state, which everybody's scenes talk to."""
    be_patient(monkeypatch)
    settings.TRIGGER_UNIT_PLAYS, settings.TRIGGER_UNIT_EACH = True, False
    with standing_in(one=True) as settings.TRIGGER_UNIT:
        yield


@pytest.fixture
def others(stranger):
    """A scene of somebody else."""
    theirs = Shoot.objects.create(owner=stranger, name="Theirs")
    return add_scene(theirs, copy.deepcopy(GLASS), "Their glass")


def _shot(scene, **values) -> Shot:
    return Shot.objects.create(
        scene=scene, sent={**SENT, **values}, document=scene.document
    )


def _fire(client: Client, scene) -> str:
    answer = client.post(reverse("dialling:fire", args=[scene.pk]), {"channel": "1"})
    assert answer.status_code == 200
    return answer.content.decode().replace("\u00a0", " ")


# --- one at a time ---


def test_a_second_person_is_told_who_has_it_and_since_when(
    one_for_all, visitor, glass, others
) -> None:
    holding.take(_shot(others))
    UnitHold.objects.update(since=timezone.now() - timedelta(seconds=7))
    page = _fire(visitor, glass)
    said = re.search(
        r"The trigger unit is in use: stranger has had it for (\d+) s\.", page
    )
    assert said
    assert int(said[1]) >= 7
    assert "nothing was sent" in page
    assert "Their glass" not in page
    assert not glass.shots.exists()


def test_a_second_scene_of_ones_own_is_told_which(
    one_for_all, visitor, glass, wax
) -> None:
    holding.take(_shot(wax))
    assert "your scene “Wax” has had it for" in _fire(visitor, glass)


def test_units_of_their_own_do_not_wait_for_each_other(
    one_for_all, settings, glass, others
):
    settings.TRIGGER_UNIT_EACH = True
    holding.take(_shot(others))
    holding.take(_shot(glass))
    assert UnitHold.objects.exclude(token="").count() == 2


def test_the_unit_is_free_again_after_a_shot_also_one_that_failed(
    one_for_all, glass, wax
) -> None:
    for fault in ("none", "asleep"):
        shot = Shot.objects.create(scene=glass, sent=SENT, document={}, fault=fault)
        shots.converse(shot.pk)
        assert not UnitHold.objects.exclude(token="").exists()
    holding.take(_shot(wax))


def test_a_process_that_died_holds_it_no_longer_than_its_lease(
    one_for_all, glass, wax
) -> None:
    lost = _shot(wax)
    holding.take(lost)
    UnitHold.objects.update(until=timezone.now() - timedelta(seconds=1))
    holding.take(_shot(glass))
    with pytest.raises(TriggerUnitError, match="has lost the trigger unit"):
        holding.go_on(lost)
    holding.give_back(lost)  # late, and no longer its own
    with pytest.raises(holding.UnitHeld):
        holding.take(_shot(wax))


def test_a_shot_that_finds_every_conversation_taken_gives_the_unit_back(
    one_for_all, glass, wax, monkeypatch
) -> None:
    shot = _shot(glass)
    holding.take(shot)
    monkeypatch.setattr(
        shots, "_MOST_AT_ONCE", SimpleNamespace(acquire=lambda timeout: False)
    )
    monkeypatch.setattr(shots, "connection", SimpleNamespace(close=int))
    shots._apart(shot.pk)
    shot.refresh_from_db()
    assert shot.state == "failed"
    holding.take(_shot(wax))


@pytest.mark.django_db(transaction=True)
def test_shots_fired_at_once_never_fire_anothers_delay(
    one_for_all, glass, wax, others
) -> None:
    """Three scenes at one unit from threads of their own: each fires its own delay or is told to wait."""
    delays = {glass: 0.1, wax: 0.2, others: 0.3}
    together = threading.Barrier(len(delays))
    every = [
        (_shot(scene, delay_s=delay_s), delay_s)
        for scene, delay_s in delays.items()
        for _ in range(8)
    ]

    def insist(mine: list[tuple[Shot, float]]) -> None:
        together.wait()
        for shot, _ in mine:
            shots.converse(shot.pk)
        connection.close()

    lanes = [[each for each in every if each[0].scene == scene] for scene in delays]
    threads = [threading.Thread(target=insist, args=(mine,)) for mine in lanes]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    found = {shot.pk: shot for shot in Shot.objects.all()}
    states = [found[shot.pk].state for shot, _ in every]
    assert states.count("fired") >= 3
    for shot, delay_s in every:
        after = found[shot.pk]
        if after.state == "fired":
            assert figure(after.report, "flash_s") == pytest.approx(delay_s, abs=3e-4)
        else:
            assert (after.problem, "is in use" in after.says) == ("held", True)


# --- what it reports is what was sent ---


def _unit_that_reports(report: str, hello: str = "protocol=1 step_s=0.0001"):
    def behave(talk) -> None:
        for raw in talk.makefile("rb"):
            number, verb = raw.decode().split()[:2]
            kept = "channel=2 delay_s=0.3608 second_s=-"
            said = {"HELLO": hello, "GET": kept, "REPORT": f"state=fired {report}"}
            talk.sendall(f"{number} OK {said.get(verb, '')}\n".encode())

    return behaving(behave)


@pytest.mark.parametrize(
    ("report", "says"),
    [
        ("pulses=1 flash_s=0.1386 channel=2", "its flash 138.6 ms after the event, and 360.8 ms was set"),
        ("pulses=1 flash_s=0.3608 channel=7", "The unit is on channel 7, and 2 was set"),
        ("pulses=1 flash_s=0.3608 second_s=0.1 channel=2", "reports a second valve, and none was set"),
        ("pulses=0 flash_s=- channel=2", "its flash output did not go"),
        ("pulses=1 flash_s=0.36\x0008 channel=2", "holds control characters"),
        ("pulses=1_0 flash_s=0.3608", "makes no sense: pulses is “1_0”"),
        ("pulses=1 flash_s=٠.٣", "makes no sense: flash_s is “٠.٣”"),
    ],
)  # fmt: skip
def test_a_report_of_something_else_is_a_shot_that_failed(
    scene, settings, monkeypatch, report: str, says: str
) -> None:
    be_patient(monkeypatch)
    settings.TRIGGER_UNIT_PLAYS = False
    shot = _shot(scene)
    with _unit_that_reports(report) as settings.TRIGGER_UNIT:
        shots.converse(shot.pk)
    shot.refresh_from_db()
    assert shot.state == "failed"
    assert says in shot.says
    assert not shot.tells


@pytest.mark.parametrize(
    ("report", "hello", "says"),
    [
        (
            "pulses=1 flash_s=0.3609 channel=2",
            "protocol=1 step_s=0.0001",
            "Fired: flash 360.9 ms",
        ),
        (
            "pulses=1 flash_s=0.3658 channel=2",
            "protocol=1 jitter_s=0.001",
            "Fired: flash 365.8 ms",
        ),
        (
            "pulses=1 flash_s=- channel=-",
            "protocol=1",
            "whether it kept the delay is unknown",
        ),
    ],
)
def test_steps_and_variation_of_the_unit_are_no_difference(
    scene, settings, monkeypatch, report: str, hello: str, says: str
) -> None:
    be_patient(monkeypatch)
    settings.TRIGGER_UNIT_PLAYS = False
    shot = _shot(scene)
    with _unit_that_reports(report, hello) as settings.TRIGGER_UNIT:
        shots.converse(shot.pk)
    shot.refresh_from_db()
    assert (shot.state, says in shot.says) == ("fired", True), shot.says


# --- who may use it ---


def test_a_real_unit_is_used_by_accounts_that_were_given_it(
    settings, visitor, owner, glass, capsys
) -> None:
    settings.TRIGGER_UNIT, settings.TRIGGER_UNIT_PLAYS = "127.0.0.1:1", False
    page, fire = (
        reverse(f"dialling:{name}", args=[glass.pk]) for name in ("page", "fire")
    )
    assert "your account was not given it" in visitor.get(page).content.decode()
    assert visitor.post(fire, {"channel": "1"}).status_code == 404
    call_command("unit_users", give=["owner"])
    assert capsys.readouterr().out == "owner\n"
    assert "Trigger unit</h2>" in visitor.get(page).content.decode()
    call_command("unit_users", take=["owner"])
    assert "Nobody has the trigger unit" in capsys.readouterr().out
    assert visitor.post(fire, {"channel": "1"}).status_code == 404


def test_a_name_without_an_account_gives_nothing_to_anybody(owner) -> None:
    with pytest.raises(CommandError, match="no account “nobody”; nothing was changed"):
        call_command("unit_users", give=["owner", "nobody"])
    assert not UnitUser.objects.exists()
