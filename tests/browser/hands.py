"""What several browser tests do with a page: hold a request back, drag a handle, show that nothing was sent."""

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from playwright.sync_api import Locator, Page, Request, Route

from tests.patience import ANSWER_S

PATIENCE_MS = ANSWER_S * 1000
LOOK_MS = 200  # between two looks at what no expectation can wait for


def until(holds: Callable[[], bool], page: Page) -> None:
    """Waits for what no locator shows, and no longer than an expectation does."""
    for _ in range(int(PATIENCE_MS / LOOK_MS)):
        if holds():
            return
        page.wait_for_timeout(LOOK_MS)
    raise AssertionError("it never came to be")


def settled(page: Page) -> None:
    """Waits until what was sent is answered and shown: what an answer replaces must not be touched before."""
    page.wait_for_function("() => !document.querySelector('.htmx-request')")


class Held:
    """Requests to an address that wait until the test lets them go."""

    def __init__(self, page: Page, address: str | re.Pattern[str]) -> None:
        self.page = page
        self.routes: list[Route] = []
        self.address = address
        page.route(address, self._hold)

    def _hold(self, route: Route) -> None:
        self.routes.append(route)

    def let_go(self) -> None:
        """The one that has waited longest goes on; where none has come yet, the next one."""
        until(lambda: bool(self.routes), self.page)
        self.routes.pop(0).continue_()


def hold_steps(page: Page, field: Locator) -> Held:
    """Presses an arrow key in an input; its step, and each one after it, waits until the test lets it go."""
    steps = Held(page, "**/step/")
    with page.expect_request("**/step/"):
        field.press("ArrowUp")
    return steps


def drag(page: Page, handle: Locator, dx: float, dy: float) -> None:
    """Takes a handle by its middle and lets it go so many pixels further, in steps as a hand does."""
    handle.scroll_into_view_if_needed()
    box = handle.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(1, 6):
        page.mouse.move(x + dx * step / 5, y + dy * step / 5)
    page.mouse.up()
    page.wait_for_function("() => !document.body.classList.contains('dragging')")


def mark(page: Page) -> None:
    """A request of this page on purpose, answered. Whatever a page had to send before has been sent by then, and a
    page that was left in the meantime fails it.
    """
    assert page.evaluate("() => fetch('/healthz').then((answer) => answer.ok)")


LATER_MS = 30_000  # longer than any pause after which a page sends something by itself


@contextmanager
def nothing_is_sent(page: Page, method: str = "POST") -> Iterator[None]:
    """Nothing goes to the server by itself, however long one waits.

    The page's clock, which the test has installed before the page was loaded, runs on; then a request is made on
    purpose, before which all others would have been seen.
    """
    sent: list[str] = []

    def note(request: Request) -> None:
        if request.method == method:
            sent.append(f"{request.url} {request.post_data}")

    page.on("request", note)
    yield
    page.clock.run_for(LATER_MS)
    mark(page)
    page.remove_listener("request", note)
    assert sent == [], f"sent by itself: {sent}"
