"""Fifty people at once: each asks for a page every one to three seconds; how long do the slowest answers take?

    python benchmarks/load.py http://127.0.0.1:PORT [--people 50] [--seconds 60] [--pages plain] [--uploads 12]

Started by script/load against a site of its own with the demo world and a hundred thousand takes. Only a loopback
address is accepted, and it ends by itself. Exit status 1 where the 95th percentile of a page is above its limit, which
is stated in units of this machine (benchmarks/calibration.py). --uploads: so many send a large picture all the while.
"""

import argparse
import gzip
import html
import http.client
import io
import math
import random
import re
import statistics
import sys
import threading
import time
import urllib.parse
from collections import Counter, defaultdict

from PIL import Image

from benchmarks.calibration import REFERENCE_MS, Clock

PLAIN_MS, COMPUTED_MS = 150.0, 400.0  # where the limits were set
COMPUTED = {"methods", "find", "timing", "dial-in", "rehearsal", "takes.csv"}
# A page that shows what is still worked out says where to ask again; the time until it is all there has a line, too.
UNDER_WAY = re.compile(r'hx-get="([^"]+part=1[^"]*)"')
WHOLE = ", all of it"
ASKED_AGAIN_S = 0.4
PATIENCE_S = 120.0  # a search may take a minute
WARM_UP_S = 10
FORM = "application/x-www-form-urlencoded"
LOOPBACK = ("127.0.0.1", "localhost")


class Person:
    """One browser: a session of its own, a page after a pause, now and then a change."""

    def __init__(
        self, address: tuple[str, int], seed: int, only_plain: bool = False
    ) -> None:
        self.address, self.rng, self.only_plain = (
            address,
            random.Random(seed),
            only_plain,
        )
        self.cookies: dict[str, str] = {}
        self.location = ""  # where the last answer leads to
        self.connection = http.client.HTTPConnection(*address, timeout=30)

    def ask(
        self,
        path: str,
        values: dict[str, str] | None = None,
        body: bytes | None = None,
        edge: str = "",
        part: bool = False,
    ) -> tuple[int, str]:
        """(status, text) of an answer; `values` are posted as a form, `body` as one in parts; `part` of a page."""
        cookies = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        headers = {"Cookie": cookies, "Accept-Encoding": "gzip"}
        if part:
            headers["HX-Request"] = "true"
        if values is not None:
            body = urllib.parse.urlencode(values).encode()
        if body is not None:
            kind = f'multipart/form-data; boundary="{edge}"' if edge else FORM
            headers |= {"Content-Type": kind, "HX-Request": "true"}
            headers |= {
                "X-CSRFToken": self.cookies.get("csrftoken", ""),
                "Origin": f"http://{self.address[0]}:{self.address[1]}",
            }
        try:
            answer = self._answer(path, body, headers)
        # the server closed an idle connection
        except (http.client.HTTPException, OSError):
            self.connection.close()
            self.connection = http.client.HTTPConnection(*self.address, timeout=60)
            answer = self._answer(path, body, headers)
        for cookie in answer.headers.get_all("Set-Cookie") or []:
            name, _, value = cookie.split(";")[0].partition("=")
            self.cookies[name] = value
        self.location = answer.headers.get("Location", "")
        content = answer.read()
        if answer.headers.get("Content-Encoding") == "gzip":
            content = gzip.decompress(content)
        return answer.status, content.decode("utf-8", "replace")

    def _answer(
        self, path: str, body: bytes | None, headers: dict[str, str]
    ) -> http.client.HTTPResponse:
        self.connection.request("GET" if body is None else "POST", path, body, headers)
        return self.connection.getresponse()

    def enter(self) -> None:
        """Opens the demo and looks around for what there is."""
        _, page = self.ask("/account/login/")
        entry = re.search(r'action="(/demo/[^"]+)"', page)
        assert entry, "the demo's door is on the log-in page"
        assert self.ask(entry[1], {})[0] == 302
        _, shoots = self.ask("/shoots/")
        self.shoot = re.findall(r'href="(/shoots/\d+/)"', shoots)[0]
        _, shoot = self.ask(self.shoot)
        self.scenes = sorted(set(re.findall(r'href="(/scenes/\d+/)"', shoot)))
        _, kit = self.ask("/kit/")
        self.strobes = sorted(set(re.findall(r'href="(/kit/strobes/\d+/)"', kit)))
        _, bench = self.ask("/bench/")
        self.traces = sorted(set(re.findall(r'href="(/bench/traces/\d+/)"', bench)))

    def next_page(self) -> tuple[str, str, dict[str, str] | None]:
        """(name, address, values to post) of what is asked for next; scenes most often, as people work there."""
        scene = self.rng.choice(self.scenes)
        iso = {
            "path": "exposure.iso",
            "value": str(self.rng.choice([200, 250, 320, 400, 500, 640, 800])),
        }
        choices: list[tuple[float, str, str, dict[str, str] | None]] = [
            (2, "shoots", "/shoots/", None), (3, "shoot", self.shoot, None), (6, "scene", scene, None),
            (6, "a change", f"{scene}set/", iso), (3, "takes", f"{scene}takes/", None),
            (1, "compare", f"{scene}compare/", None), (2, "run sheet", f"{scene}run-sheet/?phone", None),
            (2, "kit", "/kit/", None), (1, "strobe", self.rng.choice(self.strobes), None),
            (1, "compare strobes", "/kit/compare/", None), (1, "bench", "/bench/", None),
            (1, "trace", self.rng.choice(self.traces), None), (1, "methods", f"{scene}methods/", None),
            (1, "find", f"{scene}find/", None), (1, "timing", f"{scene}timing/", None),
            (1, "dial-in", f"{scene}dial-in/", None), (1, "rehearsal", f"{scene}rehearsal.jpg?draft=1", None),
            (0.25, "takes.csv", f"{scene}takes.csv", None),
        ]  # fmt: skip
        if self.only_plain:
            choices = [each for each in choices if each[1] not in COMPUTED]
        _, name, address, values = self.rng.choices(
            choices, [each[0] for each in choices]
        )[0]
        return name, address, values


def work(
    person: Person,
    warm: float,
    end: float,
    found: dict[str, list[float]],
    wrong: list[str],
) -> None:
    time.sleep(person.rng.uniform(0, 2))
    while time.monotonic() < end:
        name, address, values = person.next_page()
        began = time.perf_counter()
        status, text = person.ask(address, values)
        took_s = time.perf_counter() - began
        if time.monotonic() > warm:
            found[name].append(took_s * 1000)
        if status != 200:
            wrong.append(f"{address}: {status}")
        if name in ("methods", "find"):
            if not wait_for_all(person, text):
                wrong.append(f"{address}: not all there after {PATIENCE_S:g} s")
            elif time.monotonic() > warm:
                found[name + WHOLE].append((time.perf_counter() - began) * 1000)
        time.sleep(person.rng.uniform(1, 3))


def wait_for_all(person: Person, text: str) -> bool:
    """Asks again, as the browser does, until a page shows everything; False where that takes too long."""
    end = time.monotonic() + PATIENCE_S
    while again := UNDER_WAY.search(text):
        if time.monotonic() > end:
            return False
        time.sleep(ASKED_AGAIN_S)
        _, text = person.ask(html.unescape(again[1]), part=True)
    return True


def send_pictures(
    person: Person, picture: bytes, end: float, answers: Counter[int]
) -> None:
    """Sends a large picture with each try of a dial-in, as a dozen photographers at once would."""
    scene = person.rng.choice(person.scenes)
    person.ask(f"{scene}dial-in/begin/", {"path": "trigger.set_delay_s"})
    while time.monotonic() < end:
        fields = {"outcome": "early", "key": f"{person.rng.random()}"}
        body, edge = posted_in_parts(fields, "picture", "frame.png", picture)
        status, _ = person.ask(f"{scene}dial-in/outcome/", body=body, edge=edge)
        answers[status] += 1
        if status == 422:  # somebody has moved something else meanwhile
            person.ask(f"{scene}dial-in/set-back/", {})
        # as browsers do, and people
        time.sleep(5 if status == 503 else person.rng.uniform(1, 3))


def posted_in_parts(
    fields: dict[str, str], of: str, name: str, content: bytes
) -> tuple[bytes, str]:
    """(body, line between its parts) of a form that is sent with a file."""
    edge = "a line between parts"
    parts = [
        f'--{edge}\r\nContent-Disposition: form-data; name="{each}"\r\n\r\n{value}\r\n'.encode()
        for each, value in fields.items()
    ]
    head = f'Content-Disposition: form-data; name="{of}"; filename="{name}"'
    parts.append(
        f"--{edge}\r\n{head}\r\nContent-Type: application/octet-stream\r\n\r\n".encode()
    )
    return b"".join([*parts, content, f"\r\n--{edge}--\r\n".encode()]), edge


def large_picture() -> bytes:
    """A PNG of forty million pixels in some hundred kilobytes."""
    out = io.BytesIO()
    Image.new("RGB", (8000, 4990), (120, 90, 60)).save(out, "PNG", compress_level=9)
    return out.getvalue()


def arguments() -> argparse.Namespace:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("site")
    parser.add_argument("--people", type=int, default=50)
    parser.add_argument("--seconds", type=float, default=60)
    parser.add_argument("--pages", choices=["all", "plain"], default="all")
    parser.add_argument("--uploads", type=int, default=0)
    asked = parser.parse_args()
    site = urllib.parse.urlsplit(asked.site)
    if site.hostname not in LOOPBACK or not site.port:
        parser.error("only a loopback address with a port is asked")
    asked.address = (site.hostname, site.port)
    return asked


def main() -> int:
    asked, clock = arguments(), Clock()
    people = [
        Person(asked.address, seed, asked.pages == "plain")
        for seed in range(asked.people)
    ]
    senders = [Person(asked.address, 1000 + seed) for seed in range(asked.uploads)]
    for person in (*people, *senders):
        person.enter()
    # before the clock runs: to make it costs a second of the processor
    picture = large_picture()
    found: dict[str, list[float]] = defaultdict(list)
    wrong: list[str] = []
    sent: Counter[int] = Counter()
    # What is asked before is not counted: processes have just begun.
    warm = time.monotonic() + WARM_UP_S
    end = warm + min(asked.seconds, 600)
    threads = [
        threading.Thread(target=work, args=(person, warm, end, found, wrong))
        for person in people
    ]
    threads += [
        threading.Thread(target=send_pictures, args=(one, picture, end, sent))
        for one in senders
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    clock.end()
    slow = printed(found, clock)
    print(
        f"{sum(map(len, found.values()))} answers, {len(wrong)} wrong {wrong[:3]}; {clock}"
    )
    if sent:
        print(f"pictures sent meanwhile, by status: {dict(sent)}")
    return 1 if slow or wrong else 0


def limit_of(name: str) -> float:
    """The 95th percentile that a page may have, in units; none for the time until all of it is there."""
    if name.endswith(WHOLE):
        return math.inf
    return (COMPUTED_MS if name in COMPUTED else PLAIN_MS) / REFERENCE_MS


def p95_of(times: list[float]) -> float:
    """The 95th percentile of what was seen: of a few times it is near the worst, never beyond it."""
    return (
        statistics.quantiles(times, n=20, method="inclusive")[-1]
        if len(times) > 1
        else times[0]
    )


def printed(found: dict[str, list[float]], clock: Clock) -> list[str]:
    """Prints a line a page; those that are above their limit."""
    print(
        f"{'page':20} {'asked':>6} {'median':>7} {'p95':>7} {'worst':>7} ms {'p95':>7} {'limit':>6} units"
    )
    slow = []
    for name, times in sorted(found.items()):
        p95 = p95_of(times)
        limit = limit_of(name)
        print(
            f"{name:20} {len(times):6} {statistics.median(times):7.0f} {p95:7.0f} {max(times):7.0f}    "
            f"{p95 / clock.unit:7.1f} {limit:6.1f}"
        )
        slow += [name] if p95 / clock.unit > limit else []
    return slow


if __name__ == "__main__":
    sys.exit(main())
