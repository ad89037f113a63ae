"""Every address of the site: who may see it, how it answers the wrong method, and how often it asks the database.

A new address fails here until it is listed, so that none goes untested.
"""

from typing import Any

import pytest
from django.apps import apps
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import URLPattern, URLResolver, get_resolver, reverse

from rapzel.shoots import services
from rapzel.takes.services import log_take

# Name of the address, whether it takes GET or POST, and what it is about.
OWN = [
    ("workbench:shoot", "GET", "shoot"),
    ("workbench:shoot_json", "GET", "shoot"),
    ("workbench:add_scene", "POST", "shoot"),
    ("workbench:shoot_import", "POST", "shoot"),
    ("workbench:shoot_remove", "POST", "shoot"),
    ("workbench:scene", "GET", "scene"),
    ("workbench:pairs", "GET", "scene"),
    ("workbench:mend", "POST", "scene"),
    ("tools:scene_index", "GET", "scene"),
    ("tools:for_scene", "GET", "scene open-shutter"),
    ("tools:pin", "POST", "scene open-shutter"),
    ("tools:unpin", "POST", "scene result-1"),
    ("tools:use", "POST", "scene drops"),
    ("workbench:set", "POST", "scene"),
    ("workbench:answer", "GET", "scene"),
    ("workbench:scene_copy", "POST", "scene"),
    ("workbench:snapshot_rename", "POST", "scene snapshot"),
    ("workbench:snapshot_restore", "POST", "scene snapshot"),
    ("workbench:snapshot_open", "POST", "scene snapshot"),
    ("workbench:step", "POST", "scene"),
    ("workbench:act", "POST", "scene undo"),
    ("workbench:view", "GET", "scene pulse"),
    ("workbench:rehearsal", "GET", "scene jpg"),
    ("workbench:plan_picture", "GET", "scene"),
    ("workbench:speeds", "GET", "scene"),
    ("workbench:drawing", "GET", "scene ribbon"),
    ("workbench:scene_json", "GET", "scene"),
    ("workbench:evaluation_json", "GET", "scene"),
    ("workbench:pin", "POST", "scene"),
    ("workbench:compare", "GET", "scene"),
    ("workbench:snapshot_picture", "GET", "scene snapshot"),
    ("workbench:unpin", "POST", "scene snapshot"),
    ("workbench:repin", "POST", "scene snapshot"),
    ("workbench:scene_remove", "POST", "scene"),
    ("workbench:sheet", "GET", "scene"),
    ("workbench:sheet_pdf", "GET", "scene"),
    ("takes:list", "GET", "scene"),
    ("takes:add", "POST", "scene"),
    ("takes:csv", "GET", "scene"),
    ("takes:remove", "POST", "take"),
    ("kit:edit", "GET", "lenses lens"),
    ("kit:remove", "POST", "lenses lens"),
    ("kit:undo_table", "POST", "strobe"),
    ("kit:set_row", "POST", "strobe"),
    ("kit:new_row", "GET", "strobe"),
    ("kit:undo_figures", "POST", "figures"),
    ("kit:work_out", "GET", "strobe"),
    ("kit:take_over", "POST", "strobe"),
    ("bench:trace", "GET", "trace"),
    ("bench:confirm", "GET", "trace"),
    ("bench:cancel", "POST", "trace"),
    ("bench:data", "GET", "trace"),
    ("bench:json", "GET", "trace"),
    ("bench:csv", "GET", "trace"),
    ("bench:drawing", "GET", "trace"),
    ("bench:original", "GET", "trace"),
    ("bench:lag", "GET", "trace"),
    ("bench:lag_store", "POST", "trace"),
    ("bench:remove", "POST", "trace"),
    ("bench:colour", "GET", "run"),
    ("bench:colour_csv", "GET", "run"),
    ("bench:colour_cancel", "POST", "run"),
    ("bench:colour_apply", "POST", "run"),
    ("bench:colour_remove", "POST", "run"),
    ("workbench:cutout", "GET", "scene"),
    ("timing:page", "GET", "scene"),
    ("timing:picture", "GET", "scene"),
    ("timing:finger", "POST", "scene"),
    ("timing:recording", "POST", "scene"),
    ("timing:drawing", "GET", "scene lanes"),
    ("practice:remove", "POST", "drill"),
    ("takes:picture", "GET", "take"),
    ("dialling:page", "GET", "scene"),
    ("dialling:begin", "POST", "scene"),
    ("dialling:outcome", "POST", "scene"),
    ("dialling:value", "POST", "scene"),
    ("dialling:undo", "POST", "scene"),
    ("dialling:set_back", "POST", "scene"),
    ("dialling:leave", "POST", "scene"),
    ("dialling:resume", "POST", "scene"),
    ("dialling:frame", "POST", "scene"),
    ("dialling:fire", "POST", "scene"),
    ("dialling:wake", "POST", "scene"),
    ("dialling:log", "POST", "scene"),
    ("dialling:unit", "GET", "scene"),
    ("dialling:wanted", "GET", "scene"),
    ("dialling:picture", "GET", "shot"),
    ("workbench:cutout_remove", "POST", "scene"),
    ("finding:methods", "GET", "scene"),
    ("finding:methods_json", "GET", "scene"),
    ("finding:method_picture", "GET", "scene pulse"),
    ("finding:method_use", "POST", "scene pulse"),
    ("finding:cheap", "POST", "scene"),
    ("finding:set_limit", "POST", "scene find"),
    ("finding:set_scope", "POST", "scene methods"),
    ("finding:find", "GET", "scene"),
    ("finding:how_many", "POST", "scene light-1"),
    ("finding:found_json", "GET", "scene finding"),
    ("finding:cancel", "POST", "scene finding"),
    ("finding:again", "POST", "scene finding"),
    ("finding:patiently", "POST", "scene finding"),
    ("finding:relax", "POST", "scene finding 0"),
    ("finding:set_up", "GET", "scene finding hits 0"),
    ("finding:set_up_picture", "GET", "scene finding hits 0"),
    ("finding:set_up_use", "POST", "scene finding hits 0"),
    # These find only what has been put away.
    ("workbench:shoot_back", "POST", "shoot"),
    ("workbench:scene_back", "POST", "scene"),
    ("takes:take_back", "POST", "take"),
    ("kit:take_back", "POST", "lenses lens"),
    ("practice:take_back", "POST", "drill"),
    ("bench:take_back", "POST", "trace"),
    ("bench:colour_back", "POST", "run"),
]
MINE = [
    ("finding:begin", "GET", ""),
    ("finding:begin_with", "POST", "leap"),
    ("finding:begin_picture", "GET", "leap"),
    ("workbench:shoots", "GET", ""),
    ("workbench:shoot_add", "POST", ""),
    ("kit:list", "GET", ""),
    ("kit:starter", "POST", ""),
    ("kit:import", "POST", ""),
    ("kit:json", "GET", ""),
    ("kit:csv", "GET", "strobes"),
    ("kit:add", "POST", "lenses"),
    ("kit:compare", "GET", ""),
    ("kit:compare_csv", "GET", ""),
    ("bench:list", "GET", ""),
    ("bench:import", "POST", ""),
    ("bench:pop", "POST", ""),
    ("bench:apply", "POST", ""),
    ("bench:colours", "GET", ""),
    ("bench:curtains", "GET", ""),
    ("bench:curtains_store", "POST", ""),
    ("tools:list", "GET", ""),
    ("tools:page", "GET", "open-shutter"),
    ("tools:json", "GET", "open-shutter"),
    ("tools:ask", "POST", "open-shutter"),
    ("tools:csv", "GET", "open-shutter"),
    ("tools:svg", "GET", "open-shutter"),
    ("tools:open", "POST", "open-shutter"),
    ("practice:page", "GET", ""),
    ("practice:add", "POST", ""),
    ("practice:csv", "GET", ""),
    ("accounts:preferences", "POST", ""),
    ("accounts:clock", "POST", ""),
    ("accounts:account", "GET", ""),
    ("accounts:password", "GET", ""),
    ("accounts:everything", "GET", ""),
    ("accounts:farewell", "GET", ""),
    ("accounts:letters", "GET", ""),
]
PUBLIC = {
    "guide:front", "guide:live", "guide:live_picture", "guide:help", "guide:words", "guide:word", "guide:go",
    "healthz", "worker", "accounts:login", "accounts:logout", "accounts:sign_up", "accounts:session",
    "accounts:forgotten", "accounts:set_anew",
    "kit:schema", "workbench:schema", "tools:schema", "finding:schema", "demo:enter",
}  # fmt: skip


def every_name(resolver: URLResolver, space: str = "") -> set[str]:
    names = set()
    for entry in resolver.url_patterns:
        if isinstance(entry, URLResolver):
            names |= every_name(
                entry, f"{entry.namespace}:" if entry.namespace else space
            )
        elif isinstance(entry, URLPattern) and entry.name:
            names.add(f"{space}{entry.name}")
    return names


def test_every_address_is_tested_here() -> None:
    assert every_name(get_resolver()) == {name for name, _, _ in OWN + MINE} | PUBLIC


def ask(client: Client, method: str, url: str):
    return client.get(url) if method == "GET" else client.post(url)


def rows() -> dict[str, list[dict[str, Any]]]:
    """What each table holds."""
    return {
        model._meta.label: list(model.objects.order_by("pk").values())
        for model in apps.get_models()
    }


def test_nobody_else_sees_or_changes_it(client, address, stranger) -> None:
    """Without an account one is asked to log in; with another's, what is somebody's own is not found."""
    other = Client()
    other.force_login(stranger)
    before = rows()
    found = []
    for name, method, about in OWN + MINE:
        url = address(name, about)
        answer = ask(client, method, url)
        asked_to_log_in = answer.headers.get("Location", "").startswith(
            reverse("accounts:login")
        )
        if answer.status_code != 302 or not asked_to_log_in:
            found.append(f"{name} answers nobody with {answer.status_code}")
        if (name, method, about) not in OWN:
            continue
        status = ask(other, method, url).status_code
        if status != 404:
            found.append(f"{name} answers a stranger with {status}")
    assert found == []
    assert rows() == before


def test_the_wrong_method_is_refused_and_changes_nothing(visitor, address) -> None:
    before = rows()
    found = []
    for name, method, about in OWN + MINE:
        url = address(name, about)
        if visitor.delete(url).status_code != 405:
            found.append(f"{name} by DELETE")
        if method == "POST" and visitor.get(url).status_code != 405:
            found.append(f"{name} by GET")
    assert found == []
    assert rows() == before


def assert_strict(policy: str) -> None:
    """Whatever a page could be made to hold, no script of another place runs."""
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    assert "script-src 'self'" in policy


PAGES = [(name, about) for name, method, about in OWN + MINE if method == "GET"]


def test_the_owner_sees_it_with_at_most_twelve_queries(
    visitor, kit, address, shoot
) -> None:
    for number in range(5):  # more rows must not mean more queries
        other = services.add_scene(shoot, services.NEW_SCENE, f"Scene {number}")
        log_take(other, "late")
    # the first look searches; what it found is kept
    visitor.get(address("finding:find", "scene"))
    found = []
    for name, about in PAGES:
        with CaptureQueriesContext(connection) as queries:
            answer = visitor.get(address(name, about))
        if answer.status_code != 200:
            found.append(f"{name} answers {answer.status_code}")
            continue
        assert_strict(answer["Content-Security-Policy"])
        if len(queries) > 12 and name != "accounts:everything":
            asked = "\n".join(each["sql"][:120] for each in queries)
            found.append(f"{name} asks {len(queries)} times:\n{asked}")
    assert found == [], "\n".join(found)


@pytest.mark.parametrize(
    "name", ["workbench:set", "workbench:step", "workbench:act", "takes:add"]
)
def test_a_change_asks_the_database_at_most_twelve_times(
    visitor, kit, address, name
) -> None:
    about = {"workbench:act": "scene undo"}.get(name, "scene")
    data = {
        "path": "exposure.iso",
        "value": "800",
        "direction": "up",
        "outcome": "keep",
    }
    with CaptureQueriesContext(connection) as queries:
        assert visitor.post(address(name, about), data).status_code == 200
    assert len(queries) <= 12, "\n".join(each["sql"][:120] for each in queries)
