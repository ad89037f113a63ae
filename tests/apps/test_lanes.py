"""Heavy work beside the pages: one piece at a time, shared by those who ask the same, there for who asks again."""

import gc
import html
import re
import threading
import urllib.parse
import weakref
from collections.abc import Callable
from zoneinfo import ZoneInfo

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from rapzel.accounts.models import User
from rapzel.shoots.models import Scene, Shoot
from rapzel.shoots.services import NEW_SCENE, add_scene, change_scene
from rapzel.ui import lanes
from rapzel.ui.inputs import person
from rapzel.ui.lanes import LANE, Lane
from rapzel.ui.parts import key_of
from tests.patience import ANSWER_S, PROCESS_S

HTMX = {"HX-Request": "true"}


@pytest.fixture
def impatient(settings) -> None:
    """No page waits for its work."""
    settings.LANE_WAIT_S = 0.0


@pytest.fixture
def waiting(settings) -> None:
    """Every page waits for its work, which is done in the lane."""
    settings.LANE_WAIT_S = PROCESS_S


@pytest.fixture
def done() -> list[str]:
    return []


def noted(done: list[str], name: str) -> Callable[[], str]:
    def work() -> str:
        done.append(name)
        return name

    return work


def scene_of(person: User) -> Scene:
    shoot = Shoot.objects.create(owner=person, name="Own")
    return add_scene(shoot, {**NEW_SCENE, "name": "Own"})


def test_who_waits_gets_what_the_work_returns(waiting, done: list[str]) -> None:
    lane = Lane()
    assert lane.ask("ada", "one", noted(done, "first")) == "first"
    assert lane.ask("bob", "one", noted(done, "again")) == "first", (
        "shared by who asks the same"
    )
    assert done == ["first"]


def test_what_an_answer_was_made_from_is_not_remembered_with_it(waiting) -> None:
    class Megabytes:
        pass

    lane, read = Lane(), Megabytes()
    gone = weakref.ref(read)
    lane.ask("ada", "one", lambda read=read: type(read).__name__)
    del read
    gc.collect()
    assert gone() is None
    assert lane.ask("bob", "one", str) == "Megabytes"


def test_memory_is_given_back_after_each_piece(
    waiting, monkeypatch: pytest.MonkeyPatch
) -> None:
    given_back = threading.Event()
    monkeypatch.setattr(lanes, "give_back", given_back.set)
    Lane().ask("ada", "one", str)
    assert given_back.wait(ANSWER_S)


def test_what_takes_long_is_there_for_who_asks_again(settings, done: list[str]) -> None:
    lane = Lane()
    settings.LANE_WAIT_S = 0.0
    with lane._turn:
        assert lane.ask("ada", "one", noted(done, "first")) is None
    settings.LANE_WAIT_S = PROCESS_S
    assert lane.ask("ada", "one", noted(done, "again")) == "first"


def test_a_newer_piece_of_a_person_takes_the_place_of_one_that_has_not_begun(
    settings, done: list[str]
) -> None:
    lane = Lane()
    settings.LANE_WAIT_S = 0.0
    with lane._turn:
        for name in ("one", "two", "three"):
            lane.ask("ada", name, noted(done, name))
        lane.ask("bob", "his", noted(done, "his"))
    settings.LANE_WAIT_S = PROCESS_S
    assert lane.ask("ada", "three", noted(done, "again")) == "three"
    assert lane.ask("bob", "his", noted(done, "again")) == "his"
    assert sorted(done) == ["his", "three"]
    assert lane.ask("cid", "one", noted(done, "one")) == "one", (
        "and may be asked for anew"
    )


def fails() -> None:
    raise ValueError("no such thing")


def test_what_the_work_raises_is_raised_where_it_is_asked_for(waiting) -> None:
    lane = Lane()
    for _ in range(2):
        with pytest.raises(ValueError, match="no such thing"):
            lane.ask("ada", "one", fails)


def test_what_fails_is_in_the_site_s_log_whoever_waits(settings, caplog) -> None:
    lane = Lane()
    settings.LANE_WAIT_S = 0.0
    with lane._turn:
        assert lane.ask("ada", "one", fails) is None
    settings.LANE_WAIT_S = PROCESS_S
    with pytest.raises(ValueError, match="no such thing"):  # waits for that piece
        lane.ask("ada", "one", int)
    assert "no such thing" in caplog.text


def test_pieces_come_one_after_another(settings) -> None:
    lane, together, most = Lane(), 0, 0
    settings.LANE_WAIT_S = PROCESS_S

    def work() -> bool:
        nonlocal together, most
        together += 1
        most = max(most, together)
        threading.Event().wait(0.002)  # long enough for another to begin, if it could
        together -= 1
        return True

    asking = [
        threading.Thread(target=lane.ask, args=(number, number, work))
        for number in range(30)
    ]
    for thread in asking:
        thread.start()
    for thread in asking:
        thread.join()
    assert most == 1


def test_methods_that_take_long_are_asked_for_again(
    impatient, visitor: Client, kit: User, scene: Scene, settings
) -> None:
    address = reverse("finding:methods", args=[scene.pk])
    with LANE._turn:
        page = visitor.get(address).content.decode()
    assert "Comparing the methods…" in page
    again = re.search(r'hx-get="([^"]+part=1[^"]*)"', page)
    assert again
    assert again[1].startswith(address)
    assert "Which method wins" not in page
    settings.LANE_WAIT_S = PROCESS_S
    part = visitor.get(html.unescape(again[1]), headers=HTMX).content.decode()
    assert "<html" not in part
    assert "Which method wins" in part
    assert "Which method wins" in visitor.get(address).content.decode(), (
        "and then it is kept"
    )


def test_what_was_asked_is_shown_though_the_scene_has_changed_since(
    visitor: Client, kit: User, scene: Scene, settings, monkeypatch: pytest.MonkeyPatch
) -> None:
    address = reverse("finding:methods", args=[scene.pk])
    settings.LANE_WAIT_S = 0.0
    with LANE._turn:
        page = visitor.get(address).content.decode()
    settings.LANE_WAIT_S = PROCESS_S
    visitor.get(address)  # by now it is written
    change_scene(scene, {"exposure.iso": 320.0})
    # nothing is compared
    monkeypatch.setattr("rapzel.finding.views.methods.methods_page", None)
    again = re.search(r'hx-get="([^"]+part=1[^"]*)"', page)
    assert again
    part = visitor.get(html.unescape(again[1]), headers=HTMX).content.decode()
    assert "Which method wins" in part


def test_nobody_is_shown_what_another_asked_for(
    visitor: Client, kit: User, scene: Scene, settings
) -> None:
    """Neither by a key that is made up, nor by one that was signed for another person and is written by now."""
    address = reverse("finding:methods", args=[scene.pk])
    settings.LANE_WAIT_S = 0.0
    with LANE._turn:
        asked = re.search(r"of=([^\"]+)", visitor.get(address).content.decode())
    assert asked
    theirs = urllib.parse.unquote(html.unescape(asked[1]))
    settings.LANE_WAIT_S = PROCESS_S
    visitor.get(address)
    stranger, client = User.objects.create_user("stranger"), Client()
    own = scene_of(stranger)
    client.force_login(stranger)
    settings.LANE_WAIT_S = 0.0
    with LANE._turn:
        for key in (theirs, theirs.rpartition(":")[0], "0" * 64 + ":forged", ""):
            query = {"part": "1", "of": key}
            at = reverse("finding:methods", args=[own.pk])
            assert "Comparing" in client.get(at, query, headers=HTMX).content.decode()
        seen = visitor.get(
            address, {"part": "1", "of": theirs}, headers=HTMX
        ).content.decode()
    assert "Which method wins" in seen, "whose it is sees it"


def test_a_comparison_is_written_once_for_all_who_ask_the_same(
    visitor: Client, kit: User, scene: Scene, monkeypatch: pytest.MonkeyPatch
) -> None:
    address = reverse("finding:methods", args=[scene.pk])
    first = visitor.get(address).content.decode()
    # nothing is compared
    monkeypatch.setattr("rapzel.finding.views.methods.methods_page", None)
    second = visitor.get(address).content.decode()
    assert "csrfmiddlewaretoken" in second, (
        "the token is the person's own, and not kept"
    )
    assert first.count("<td") == second.count("<td")


def test_work_of_the_lane_is_done_on_the_askers_clock_and_in_their_units(
    settings,
) -> None:
    """Parts of pages are kept under the clock as well: on another one they would never be found again."""
    settings.LANE_WAIT_S = PROCESS_S
    lane = Lane()

    def seen() -> tuple[str, bool, str]:
        return (
            timezone.get_current_timezone_name(),
            person.likes_feet(),
            key_of("part.html", 1),
        )

    with timezone.override(ZoneInfo("Europe/Berlin")), person.who_likes(feet=True):
        here = seen()
        assert lane.ask("me", "berlin", seen) == here
    assert here[:2] == ("Europe/Berlin", True)
    assert lane.ask("me", "utc", seen) == seen() != here
