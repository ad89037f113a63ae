"""The worlds that browser tests begin in, each a template of which PostgreSQL makes the tests' database anew.

A copy takes a tenth of a second, where emptying every table and loading the demo again took several; nothing that a
test has done outlives it, its tables and counters included. The demo's owner is logged in once, in the template.
"""

from collections.abc import Iterator
from contextlib import contextmanager

import psycopg
from django.apps import apps
from django.conf import settings
from django.contrib.sessions.models import Session
from django.core.management.color import no_style
from django.db import connection, connections
from django.test import Client

from rapzel.accounts.models import User
from rapzel.demo.world import DEMO_USER, build
from tests.browser.slow import REQUESTS

EMPTY, DEMO, BENCH = "empty", "demo", "bench"
_PART = "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = %s"


def _build(world: str) -> None:
    """The demo with a session of its owner, as one has after a press on the door's button."""
    build(bench=world == BENCH)
    Client().force_login(User.objects.get(username=DEMO_USER))


def _restart_counters() -> None:
    """Rows are numbered alike whatever ran before: tests that took theirs back have counted on all the same.

    A scene's number is also what its simulated set is drawn by, so that it decides how a dial-in goes.
    """
    with connection.cursor() as cursor:
        for statement in connection.ops.sequence_reset_sql(
            no_style(), apps.get_models()
        ):
            cursor.execute(statement)


class Worlds:
    """The tests' database of this process, and the templates beside it."""

    def __init__(self) -> None:
        known = connection.settings_dict
        self._database = known["NAME"]
        self._server = f"postgres://{known['USER']}:{known['PASSWORD']}@{known['HOST']}:{known['PORT']}/postgres"
        self._made: set[str] = set()
        self._untouched = True  # whether the tests' database is still the empty one

    def put(self, world: str) -> None:
        """Makes the tests' database a world: empty, the demo, or the demo with its measured bench."""
        REQUESTS.wait_until_none()
        for needed in (EMPTY, DEMO, world):
            if needed not in self._made:
                self._make(needed)
        self._copy(self._template(world), self._database)
        self._untouched = False

    def leave(self) -> None:
        """The database is empty again, as tests without a browser expect it."""
        if not self._untouched:
            REQUESTS.wait_until_none()
            self._copy(self._template(EMPTY), self._database)
            self._untouched = True

    def remove(self) -> None:
        """Drops the templates; the tests are over."""
        self._untouched = True
        with self._asked() as server:
            server.execute(_PART, [self._database])
            for world in self._made:
                server.execute(f'DROP DATABASE "{self._template(world)}" WITH (FORCE)')

    def _template(self, world: str) -> str:
        return f"{self._database}_{world}"

    def _make(self, world: str) -> None:
        """Builds a world in the tests' database, and keeps that as a template."""
        if world == EMPTY:
            _restart_counters()
        else:
            self._copy(self._template(EMPTY), self._database)
            _build(world)
        self._copy(self._database, self._template(world))
        self._made.add(world)

    def _copy(self, source: str, target: str) -> None:
        with self._asked() as server:
            server.execute(f'DROP DATABASE IF EXISTS "{target}" WITH (FORCE)')
            # Django keeps a connection from before the browser's event loop began apart, where nobody closes it.
            server.execute(_PART, [source])
            server.execute(f'CREATE DATABASE "{target}" TEMPLATE "{source}"')

    @contextmanager
    def _asked(self) -> Iterator[psycopg.Connection]:
        """The server by itself; a database is only copied while nobody is connected to it."""
        connections.close_all()
        with psycopg.connect(self._server, autocommit=True) as server:
            yield server


def session_cookie(address: str) -> dict[str, str]:
    """The cookie with which a browser is logged in to the demo, for a site's address."""
    key = Session.objects.latest("expire_date").session_key
    return {"name": settings.SESSION_COOKIE_NAME, "value": key, "url": address}
