"""A real server, a real database and Debian's Chromium. Every test also fails on what a page should never do."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

import numpy as np
import pytest
from django.test.testcases import LiveServerThread
from PIL import Image
from playwright.sync_api import BrowserContext, Page, expect

from rapzel.core.physics import Physics
from rapzel.core.rehearsal.render import render
from rapzel.shoots.models import Scene
from rapzel.workbench import pictures
from tests.browser.hands import PATIENCE_MS
from tests.browser.slow import ANSWERS, LEAST_S, MOST_S, THROTTLED, HoldingServer
from tests.browser.worlds import DEMO, Worlds, session_cookie
from tests.patience import PROCESS_S

LiveServerThread.server_class = HoldingServer

VIOLATIONS = """document.addEventListener("securitypolicyviolation", (event) =>
  window.rapzelViolation(`${event.violatedDirective} ${event.blockedURI} ${event.sourceFile}:${event.lineNumber}`));"""


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict) -> dict:
    return {
        **browser_type_launch_args,
        "executable_path": "/usr/bin/chromium-headless-shell",
    }


@pytest.fixture
def browser_context_args(browser_context_args: dict) -> dict:
    # a test that is about it asks for it
    return {
        **browser_context_args,
        "viewport": {"width": 1280, "height": 800},
        "reduced_motion": "reduce",
        "service_workers": "block",
    }


@pytest.fixture
def context(context: BrowserContext, slow_machine: str | None) -> BrowserContext:
    patience_ms = PATIENCE_MS if slow_machine is None else PATIENCE_MS * THROTTLED
    expect.set_options(timeout=patience_ms)
    context.set_default_timeout(patience_ms)
    context.set_default_navigation_timeout(patience_ms)
    if slow_machine is not None:
        context.on("page", _throttle)
    return context


# --- a slow machine on call ---


def _throttle(page: Page) -> None:
    session = page.context.new_cdp_session(page)
    session.send("Emulation.setCPUThrottlingRate", {"rate": THROTTLED})


@pytest.fixture(autouse=True)
def slow_machine(request: pytest.FixtureRequest) -> Iterator[str | None]:
    """The seed by which each answer is held back during this test; None on a machine as it is."""
    seed = request.config.getoption("--slow-machine-seed")
    if not request.config.getoption("--slow-machine"):
        yield None
        return
    ANSWERS.begin(f"{seed} {request.node.name}", LEAST_S, MOST_S)
    yield str(seed)
    ANSWERS.end()


# --- pictures ---


def _blank(_physics: Physics, size: str) -> Image.Image:
    (width, height), _, coarser = pictures.SIZES[size]
    return Image.new("RGB", (width // coarser, height // coarser), (60, 60, 60))


def _blank_close_up(_physics: Physics, size: tuple[int, int]) -> pictures.Pixels:
    return np.full((size[1], size[0], 3), 60, dtype=np.uint8)


@pytest.fixture(autouse=True)
def pictures_as_looked_at(
    request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A plain picture of the right size stands for the rehearsal, unless the test says that it looks at it.

    One that is computed is waited for: its limit of time is for servers, not for tests beside other work.
    """
    if request.node.get_closest_marker("looks_at_pictures") is None:
        monkeypatch.setattr(pictures, "_composed", _blank)
        monkeypatch.setattr(pictures, "render_close_up", _blank_close_up)
        # and is not kept as a real one
        monkeypatch.setattr(pictures, "RENDERED_BY", "nobody")
    else:
        monkeypatch.setattr(pictures, "render", partial(render, budget_s=PROCESS_S))


# --- the world that a test begins in ---

WORLDS = pytest.StashKey[Worlds]()


@pytest.fixture(scope="session")
def worlds(request, django_db_setup, django_db_blocker) -> Iterator[Worlds]:
    made = Worlds()
    request.config.stash[WORLDS] = made
    yield made
    with django_db_blocker.unblock():
        made.remove()


@pytest.fixture
def world() -> str:
    """Which one; a test that begins in another is parametrised with it."""
    return DEMO


@pytest.fixture
def transactional_db(worlds: Worlds, world: str, django_db_blocker) -> Iterator[None]:
    """In the place of pytest-django's own: a database copied from a template, instead of one that is emptied."""
    with django_db_blocker.unblock():
        worlds.put(world)
        yield


@pytest.hookimpl(trylast=True)
def pytest_runtest_teardown(item: pytest.Item, nextitem: pytest.Item | None) -> None:
    """Whatever comes after the last browser test finds the database empty."""
    goes_on = nextitem is not None and Path(__file__).parent in nextitem.path.parents
    made = item.config.stash.get(WORLDS, None)
    if made is not None and not goes_on:
        made.leave()


# A question that a newer one overtakes is given up, which is meant and yet logged; a failed one also says sendError.
OVERTAKEN = ("htmx:sendAbort", "htmx:afterRequest")


@dataclass
class Watch:
    """What went wrong behind the page's back; a test may expect some refusals by their status."""

    found: list[str] = field(default_factory=list)
    expected: set[int] = field(default_factory=set)


@pytest.fixture
def watch(context: BrowserContext, live_server) -> Iterator[Watch]:
    watching = Watch()
    context.expose_binding(
        "rapzelViolation",
        lambda _source, text: watching.found.append(f"policy: {text}"),
    )
    context.add_init_script(VIOLATIONS)
    context.on(
        "weberror", lambda error: watching.found.append(f"script: {error.error}")
    )

    def console(message) -> None:
        refused = (
            "Failed to load resource" in message.text
            or "Response Status Error" in message.text
        )
        fine = refused and any(str(code) in message.text for code in watching.expected)
        if (
            message.type == "error"
            and not fine
            and not message.text.startswith(OVERTAKEN)
        ):
            watching.found.append(f"console: {message.text}")

    def request(asked) -> None:
        if not asked.url.startswith((live_server.url, "data:", "blob:")):
            watching.found.append(f"left the machine: {asked.url}")

    context.on("console", console)
    context.on("request", request)
    yield watching
    assert watching.found == []


@pytest.fixture
def insider(page: Page, live_server, watch: Watch, transactional_db) -> Page:
    """A browser whose owner has come in to the demo, and has opened no page yet."""
    page.context.add_cookies([session_cookie(live_server.url)])
    return page


@pytest.fixture
def demo(insider: Page, live_server) -> Page:
    """The demo world on the list of shoots."""
    insider.goto(f"{live_server.url}/shoots/")
    return insider


@pytest.fixture
def lunge(insider: Page, live_server) -> Page:
    """The workbench on the demo's first scene."""
    pk = Scene.objects.get(name="Lunge on black").pk
    insider.goto(f"{live_server.url}/scenes/{pk}/")
    return insider
