"""Searches that take long: shared, one at a time a person, stopped by a newer question, and bounded in memory."""

import resource
from typing import Any

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from rapzel.accounts.models import User
from rapzel.bench.management.commands.work import limit_memory
from rapzel.core.search import find
from rapzel.core.search.limits import Limits
from rapzel.finding import searching, tasks
from rapzel.finding.models import PATIENCE, Finding
from rapzel.shoots.models import Scene
from rapzel.shoots.services import change_scene
from rapzel.ui.lanes import LANE
from tests.apps.asking import question


@pytest.fixture
def slow(settings) -> None:
    """No search is done while a page waits."""
    settings.SEARCH_AT_ONCE_S = -1.0


def _page(visitor: Client, scene: Scene) -> str:
    answer = visitor.get(reverse("finding:find", args=[scene.pk]))
    assert answer.status_code == 200
    return answer.content.decode().replace("\u00a0", " ")


def test_what_it_will_go_through_is_said_first(
    slow, visitor: Client, kit: User, scene: Scene
):
    page = _page(visitor, scene)
    assert "5 strobes at every power, up to 3 at once." in page
    assert "Fewer strobes or fewer lights make it quicker" in page
    assert "Searching: 0%" in page


def test_equal_questions_share_one_search(
    slow, visitor: Client, kit: User, scene: Scene
) -> None:
    for _ in range(3):
        _page(visitor, scene)
    assert Finding.objects.count() == 1
    assert ProcrastinateJob.objects.filter(task_name="find_settings").count() == 1


def test_who_waits_for_a_search_is_shown_that_one(
    slow, visitor: Client, kit: User, scene: Scene
) -> None:
    """Also where the scene has changed meanwhile, in another tab perhaps: nothing is searched anew at every look."""
    _page(visitor, scene)
    row = Finding.objects.get()
    change_scene(scene, {"exposure.iso": 320.0})
    address = f"{reverse('finding:find', args=[scene.pk])}?part=1&search={row.pk}"
    assert (
        "Searching: 0%"
        in visitor.get(address, headers={"HX-Request": "true"}).content.decode()
    )
    assert Finding.objects.count() == 1
    Finding.objects.update(state=Finding.State.CANCELLED)
    visitor.get(address, headers={"HX-Request": "true"})
    assert Finding.objects.count() == 2, (
        "it was stopped: the scene as it is now is another question"
    )


def test_one_that_broke_off_is_taken_up_by_one_caller(
    slow, kit: User, scene: Scene
) -> None:
    handed: list[int] = []
    asked = question(kit, scene, Limits(lights=1))
    row = searching.find(scene, asked, handed.append)
    Finding.objects.update(begun=True, heard_at=timezone.now() - PATIENCE)
    row.refresh_from_db()
    assert not row.busy
    assert searching._taken_up(row)
    assert not searching._taken_up(row), "another who saw the same comes too late"


def test_a_newer_question_stops_the_older_of_the_scene(
    slow, kit: User, scene: Scene
) -> None:
    first = searching.find(scene, question(kit, scene, Limits(lights=1)), int)
    second = searching.find(scene, question(kit, scene, Limits(lights=2)), int)
    first.refresh_from_db()
    assert first.cancel_asked
    searching.work(first.pk)
    first.refresh_from_db()
    assert first.state == Finding.State.CANCELLED
    assert second.state == Finding.State.RUNNING


def test_searches_of_one_person_come_one_after_another(
    slow, visitor: Client, kit: User, scene: Scene, glass: Scene
) -> None:
    for each in (scene, glass):
        _page(visitor, each)
    jobs = ProcrastinateJob.objects.filter(task_name="find_settings")
    assert {job.lock for job in jobs} == {f"searches of {kit.pk}"}
    Finding.objects.filter(scene=scene).update(begun=True)
    assert f"Waits until your search for “{scene.name}” has ended" in _page(
        visitor, glass
    )


def test_where_the_lane_is_full_a_search_goes_to_the_background(
    kit: User, scene: Scene, settings
) -> None:
    handed: list[int] = []
    settings.LANE_WAIT_S = 0.0
    with LANE._turn:
        for number in range(5):
            assert not LANE.is_full
            LANE.ask(number, ("full", number), int)
        row = searching.find(
            scene, question(kit, scene, Limits(lights=1)), handed.append
        )
    assert handed == [row.pk]


def _left_out(
    kit: User, scene: Scene, monkeypatch: pytest.MonkeyPatch, takes_s: float
) -> Finding:
    """A search that found two kinds of light to take so long."""
    monkeypatch.setattr(find, "_TRIAL_S", -1.0)
    monkeypatch.setattr(searching, "PATIENCE_S", 0.0)
    row = searching.find(scene, question(kit, scene, Limits()), int)
    assert row.result is not None
    left: dict[str, Any] = row.result["left_out"]
    row.result["left_out"] = {**left, "takes_s": takes_s}
    row.save()
    monkeypatch.undo()
    return row


def test_what_was_left_out_is_said_and_searched_when_asked_for(
    visitor: Client, kit: User, scene: Scene, monkeypatch: pytest.MonkeyPatch
) -> None:
    row = _left_out(kit, scene, monkeypatch, 240.0)
    page = _page(visitor, scene)
    assert "two kinds together would take about 4 minutes. Choose at most" in page
    assert "set-ups are listed. First:" in page
    visitor.post(reverse("finding:patiently", args=[scene.pk, row.pk]))
    searching.work(row.pk)
    row.refresh_from_db()
    assert row.result is not None
    assert row.result["left_out"] is None
    assert "two kinds together would take" not in _page(visitor, scene)


def test_what_takes_hours_is_not_offered(
    visitor: Client, kit: User, scene: Scene, monkeypatch: pytest.MonkeyPatch
) -> None:
    row = _left_out(kit, scene, monkeypatch, 7800.0)
    page = _page(visitor, scene)
    assert "about 2 hours" in page
    assert "all the same" not in page
    visitor.post(reverse("finding:patiently", args=[scene.pk, row.pk]))
    row.refresh_from_db()
    assert row.state == Finding.State.DONE


def test_a_search_that_wants_too_much_memory_says_so(
    slow, visitor: Client, kit: User, scene: Scene, monkeypatch: pytest.MonkeyPatch
) -> None:
    _page(visitor, scene)
    row = Finding.objects.get()

    def too_large(pk: int) -> None:
        raise MemoryError

    monkeypatch.setattr(searching, "work", too_large)
    monkeypatch.setattr(tasks.connections, "close_all", int)
    monkeypatch.setattr(tasks, "close_old_connections", int)
    tasks.find_settings(finding_id=row.pk)
    assert "needs more memory than it may have. Choose fewer strobes" in _page(
        visitor, scene
    )


def test_the_worker_may_take_so_much_memory_and_no_more() -> None:
    before = resource.getrlimit(resource.RLIMIT_DATA)
    try:
        limit_memory(50_000_000)
        with pytest.raises(MemoryError):
            bytearray(1_500_000_000)
        assert len(bytearray(20_000_000)) == 20_000_000
    finally:
        resource.setrlimit(resource.RLIMIT_DATA, before)


def test_a_changed_scene_is_searched_anew(
    kit: User, visitor: Client, scene: Scene
) -> None:
    _page(visitor, scene)
    change_scene(scene, {"exposure.iso": 500.0})
    _page(visitor, scene)
    assert Finding.objects.count() == 2
