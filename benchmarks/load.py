"""Fifty people at once: each asks for a page every one to three seconds; how long do the slowest answers take?

    python benchmarks/load.py http://127.0.0.1:PORT [--people 50] [--seconds 60]

Started by script/load against a site of its own with the demo world and a hundred thousand takes. Only a loopback
address is accepted, and it ends by itself. Exit status 1 where the 95th percentile of a page is above the limit.
"""

import argparse
import http.client
import random
import re
import statistics
import sys
import threading
import time
import urllib.parse
from collections import defaultdict

LIMIT_MS = 300
WARM_UP_S = 10
LOOPBACK = ("127.0.0.1", "localhost")


class Person:
    """One browser: a session of its own, a page after a pause, now and then a change."""

    def __init__(self, address: tuple[str, int], seed: int) -> None:
        self.address, self.rng = address, random.Random(seed)
        self.cookies: dict[str, str] = {}
        self.connection = http.client.HTTPConnection(*address, timeout=30)

    def ask(self, path: str, values: dict[str, str] | None = None) -> tuple[int, str]:
        headers = {"Cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items())}
        body = None
        if values is not None:
            headers |= {"Content-Type": "application/x-www-form-urlencoded", "HX-Request": "true"}
            headers |= {
                "X-CSRFToken": self.cookies.get("csrftoken", ""),
                "Origin": f"http://{self.address[0]}:{self.address[1]}",
            }
            body = urllib.parse.urlencode(values)
        try:
            self.connection.request("POST" if values is not None else "GET", path, body, headers)
            answer = self.connection.getresponse()
        except (http.client.HTTPException, OSError):  # the server closed an idle connection
            self.connection.close()
            self.connection = http.client.HTTPConnection(*self.address, timeout=30)
            self.connection.request("POST" if values is not None else "GET", path, body, headers)
            answer = self.connection.getresponse()
        for cookie in answer.headers.get_all("Set-Cookie") or []:
            name, _, value = cookie.split(";")[0].partition("=")
            self.cookies[name] = value
        return answer.status, answer.read().decode("utf-8", "replace")

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
        choices: list[tuple[int, str, str, dict[str, str] | None]] = [
            (2, "shoots", "/shoots/", None), (3, "shoot", self.shoot, None), (6, "scene", scene, None),
            (6, "a change", f"{scene}set/", iso), (3, "takes", f"{scene}takes/", None),
            (1, "compare", f"{scene}compare/", None), (2, "run sheet", f"{scene}run-sheet/?phone", None),
            (2, "kit", "/kit/", None), (1, "strobe", self.rng.choice(self.strobes), None),
            (1, "compare strobes", "/kit/compare/", None), (1, "bench", "/bench/", None),
            (1, "trace", self.rng.choice(self.traces), None),
        ]  # fmt: skip
        _, name, address, values = self.rng.choices(choices, [each[0] for each in choices])[0]
        return name, address, values


def work(
    person: Person, warm: float, end: float, found: dict[str, list[float]], wrong: list[str]
) -> None:
    time.sleep(person.rng.uniform(0, 2))
    while time.monotonic() < end:
        name, address, values = person.next_page()
        began = time.perf_counter()
        status, _ = person.ask(address, values)
        if time.monotonic() > warm:
            found[name].append((time.perf_counter() - began) * 1000)
        if status != 200:
            wrong.append(f"{address}: {status}")
        time.sleep(person.rng.uniform(1, 3))


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("site")
    parser.add_argument("--people", type=int, default=50)
    parser.add_argument("--seconds", type=float, default=60)
    asked = parser.parse_args()
    site = urllib.parse.urlsplit(asked.site)
    if site.hostname not in LOOPBACK or not site.port:
        parser.error("only a loopback address with a port is asked")
    people = [Person((site.hostname, site.port), seed) for seed in range(asked.people)]
    for person in people:
        person.enter()
    found: dict[str, list[float]] = defaultdict(list)
    wrong: list[str] = []
    warm = (
        time.monotonic() + WARM_UP_S
    )  # what is asked before is not counted: processes have just begun
    end = warm + min(asked.seconds, 600)
    threads = [
        threading.Thread(target=work, args=(person, warm, end, found, wrong)) for person in people
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    print(
        f"{'page':16} {'asked':>6} {'median':>8} {'p95':>8} {'worst':>8}   ms; limit {LIMIT_MS} for p95"
    )
    slow = []
    for name, times in sorted(found.items()):
        p95 = statistics.quantiles(times, n=20)[-1] if len(times) > 1 else times[0]
        print(
            f"{name:16} {len(times):6} {statistics.median(times):8.0f} {p95:8.0f} {max(times):8.0f}"
        )
        slow += [name] if p95 > LIMIT_MS else []
    print(f"{sum(map(len, found.values()))} answers, {len(wrong)} wrong {wrong[:3]}")
    return 1 if slow or wrong else 0


if __name__ == "__main__":
    sys.exit(main())
