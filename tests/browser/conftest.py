"""A real server, a real database and Debian's Chromium. Every test also fails on what a page should never do."""

from collections.abc import Iterator
from dataclasses import dataclass, field

import pytest
from playwright.sync_api import BrowserContext, Page

from tests.browser.kept import demo_world

VIOLATIONS = """document.addEventListener("securitypolicyviolation", (event) =>
  window.rapzelViolation(`${event.violatedDirective} ${event.blockedURI} ${event.sourceFile}:${event.lineNumber}`));"""


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict) -> dict:
    return {**browser_type_launch_args, "executable_path": "/usr/bin/chromium"}


@pytest.fixture
def browser_context_args(browser_context_args: dict) -> dict:
    return {
        **browser_context_args,
        "viewport": {"width": 1280, "height": 800},
        "reduced_motion": "reduce",
        "service_workers": "block",
    }  # a test that is about it asks for it


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
        "rapzelViolation", lambda _source, text: watching.found.append(f"policy: {text}")
    )
    context.add_init_script(VIOLATIONS)
    context.on("weberror", lambda error: watching.found.append(f"script: {error.error}"))

    def console(message) -> None:
        refused = (
            "Failed to load resource" in message.text or "Response Status Error" in message.text
        )
        fine = refused and any(str(code) in message.text for code in watching.expected)
        if message.type == "error" and not fine and not message.text.startswith(OVERTAKEN):
            watching.found.append(f"console: {message.text}")

    def request(asked) -> None:
        if not asked.url.startswith((live_server.url, "data:", "blob:")):
            watching.found.append(f"left the machine: {asked.url}")

    context.on("console", console)
    context.on("request", request)
    yield watching
    assert watching.found == []


@pytest.fixture
def demo(request, page: Page, live_server, watch: Watch, transactional_db) -> Page:
    """The demo world, one click in, on the list of shoots."""
    demo_world(bench=getattr(request, "param", "") == "bench")
    page.goto(f"{live_server.url}/account/login/")
    page.get_by_role("button", name="Open the demo").click()
    page.get_by_role("heading", name="Shoots").wait_for()
    return page


@pytest.fixture
def lunge(demo: Page) -> Page:
    """The workbench on the demo's first scene."""
    demo.get_by_role("link", name="Season brochure").click()
    demo.get_by_role("link", name="Lunge on black").click()
    demo.locator(".sentence").wait_for()
    demo.wait_for_load_state("domcontentloaded")  # keys work once the page's scripts have come
    return demo
