"""A shot with each fault of a unit: what is said, that it ends, and that nothing is lost."""

import socket

import pytest
from django.utils import timezone

from rapzel.dialling import holding, shots, unit
from rapzel.dialling.models import GIVEN_UP, Shot, UnitHold
from rapzel.dialling.unit import TriggerUnitError, connected, figure
from tests.apps.units import be_patient, behaving, standing_in

SENT = {"channel": 2, "delay_s": 0.3608, "second_s": None, "flash_channel": 2, "seed": 4, "late_within_s": 0.01,
        "jitter_s": 0.001}  # fmt: skip


@pytest.fixture(autouse=True)
def patient(monkeypatch) -> None:
    be_patient(monkeypatch)


@pytest.fixture
def well(settings):
    """The simulated unit, at the address that the settings name."""
    with standing_in() as address:
        settings.TRIGGER_UNIT, settings.TRIGGER_UNIT_PLAYS = address, True
        yield address


def _shot(scene, fault: str = "none", **values) -> Shot:
    shot = Shot.objects.create(
        scene=scene, sent={**SENT, **values}, document=scene.document, fault=fault
    )
    shots.converse(shot.pk)
    shot.refresh_from_db()
    return shot


def test_a_shot_fires_and_reports(scene, well) -> None:
    shot = _shot(scene)
    assert shot.state == "fired"
    assert shot.says.startswith("Fired: flash 360.")
    assert figure(shot.report, "flash_s") == pytest.approx(0.3608, abs=2e-4)
    assert "rig_late_s" in shot.report
    assert not shot.problem


def test_settings_are_kept_in_the_units_steps(scene, well) -> None:
    """A delay between two steps of the unit is no fault of it."""
    assert _shot(scene, delay_s=0.123449).state == "fired"
    assert figure(_shot(scene, second_s=0.1386).report, "second_s") == pytest.approx(
        0.1386, abs=2e-4
    )


@pytest.mark.parametrize(
    ("fault", "problem", "says"),
    [
        ("asleep", "asleep", "The unit is asleep: wake it"),
        ("channel", "channel", "The unit is on channel 9, and 2 was set"),
        ("babbling", "babbling", "talks without being asked"),
    ],
)
def test_a_fault_ends_the_shot_in_words(
    scene, well, fault: str, problem: str, says: str
) -> None:
    shot = _shot(scene, fault)
    assert (shot.state, shot.problem) == ("failed", problem)
    assert says in shot.says
    assert _shot(scene).state == "fired"  # and the next one goes well


def test_silence_ends_the_shot_in_words(scene, well) -> None:
    """Whichever request it is that gets no answer: nobody waits for it longer than that."""
    with pytest.MonkeyPatch.context() as hurry:
        hurry.setattr(unit, "ANSWER_S", 0.3)
        shot = _shot(scene, "silent")
    assert (shot.state, shot.problem) == ("failed", "silent")
    assert "connected but says nothing" in shot.says
    assert "within 0.3 s" in shot.says
    assert _shot(scene).state == "fired"


def test_a_double_trigger_is_told_and_its_picture_not_to_be_judged(scene, well) -> None:
    shot = _shot(scene, "double")
    assert shot.state == "fired"
    assert "fired twice, 83 ms apart" in shot.says
    assert "do not judge" in shot.says


def test_a_slow_unit_still_fires_and_is_called_slow(scene, well, monkeypatch) -> None:
    monkeypatch.setattr("simulators.unit._SLOW_S", 0.35)
    shot = _shot(scene, "slow")
    assert shot.state == "fired"
    assert "The unit is slow: an answer took" in shot.says


def test_a_flash_on_another_channel_does_not_answer(scene, well) -> None:
    shot = _shot(scene, flash_channel=5)
    assert "The flash did not answer" in shot.says


def test_waking_wakes(scene, well) -> None:
    _shot(scene, "asleep")
    shot = Shot.objects.create(
        scene=scene, sent=SENT, document=scene.document, wakes=True
    )
    shots.converse(shot.pk)
    shot.refresh_from_db()
    assert (shot.state, shot.says) == ("done", "The unit is awake.")


def test_nobody_there(scene, settings) -> None:
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    for address in (f"127.0.0.1:{port}", "127.0.0.1:none", ""):
        settings.TRIGGER_UNIT = address
        shot = _shot(scene)
        assert (shot.state, shot.problem) == ("failed", "dead")
        assert "does not answer" in shot.says


@pytest.mark.parametrize(
    ("sends", "kind"),
    [
        (b"", "broke off"),
        (b"x" * 5000, "babbling"),
        (b"noise\n" * 400, "babbling"),
        (b"1 OK protocol=7\n", "refused"),
        (b"1 ERR no such thing\n", "refused"),
        (
            b"1 OK protocol=1 step_s=0.0001\n2 OK\n3 OK\n4 OK channel=\xff\xfe delay_s=1e400\n",
            "babbling",
        ),
        (
            b"\x00\x01\xff\n1 OK protocol=1\n2 OK\n3 ERR armed by somebody else\n",
            "refused",
        ),
    ],
)
def test_whatever_a_stranger_sends_the_shot_ends(
    scene, settings, sends: bytes, kind: str
) -> None:
    """Lines without an end, noise, another protocol, figures that are none: one word for it, and never an exception."""
    settings.TRIGGER_UNIT_PLAYS = False

    def behave(connection: socket.socket) -> None:
        connection.recv(100)
        connection.sendall(sends)
        if not sends:
            return
        while connection.recv(1000):
            pass

    with behaving(behave) as settings.TRIGGER_UNIT:
        shot = _shot(scene)
    assert (shot.state, shot.problem) == ("failed", kind), shot.says
    assert len(shot.says) <= 400


def test_an_event_that_never_comes_is_disarmed(scene, settings, monkeypatch) -> None:
    monkeypatch.setattr(shots, "EVENT_S", 0.2)
    heard = []

    def behave(connection: socket.socket) -> None:
        for raw in connection.makefile("rb"):
            number, verb = raw.decode().split()[:2]
            heard.append(verb)
            said = {
                "HELLO": "protocol=1 step_s=0.0001",
                "REPORT": "state=armed",
                "GET": "channel=2 delay_s=0.3608 second_s=-",
            }
            connection.sendall(
                f"* chatter\n{number} OK {said.get(verb, '')}\n".encode()
            )

    settings.TRIGGER_UNIT_PLAYS = False
    with behaving(behave) as settings.TRIGGER_UNIT:
        shot = _shot(scene)
    assert (shot.state, shot.problem) == ("failed", "no event")
    assert heard[-1] == "DISARM"
    assert "EVENT" not in heard  # a unit that is no stand-in is not asked to play


def test_a_shot_that_was_given_up_is_not_brought_back(scene, well) -> None:
    """Whatever a late thread notes, a row that has ended stays as it is."""
    shot = Shot.objects.create(
        scene=scene,
        sent=SENT,
        document=scene.document,
        state="failed",
        says="as it was",
    )
    shots.converse(shot.pk)
    shot.refresh_from_db()
    assert (shot.state, shot.says) == ("failed", "as it was")


def test_one_shot_of_a_scene_at_a_time_and_few_are_kept(scene, settings) -> None:
    first = shots.begin(scene, SENT)
    assert shots.begin(scene, SENT) == first
    # its process is gone
    Shot.objects.filter(pk=first.pk).update(at=timezone.now() - GIVEN_UP)
    holding.give_back(first)
    assert shots.begin(scene, SENT, fault="no such fault") != first
    for _ in range(40):
        Shot.objects.update(state="failed")
        UnitHold.objects.all().delete()
        shots.begin(scene, SENT)
    assert scene.shots.count() <= 31


def test_figures_of_answers() -> None:
    assert figure({"a": "-"}, "a") is None
    assert figure({}, "a") is None
    assert figure({"a": "0.25"}, "a") == 0.25
    with pytest.raises(TriggerUnitError, match="makes no sense"):
        figure({"a": "twelve"}, "a")


def test_a_unit_that_goes_in_the_middle(monkeypatch) -> None:
    def behave(connection: socket.socket) -> None:
        connection.recv(100)
        connection.sendall(b"1 OK half=an")

    with (
        behaving(behave) as address,
        connected(address) as talk,
        pytest.raises(TriggerUnitError) as error,
    ):
        talk.ask("HELLO")
    assert error.value.kind == "broke off"
