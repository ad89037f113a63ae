"""The bench by mouse and by keyboard: a file comes in, is confirmed, measured, and reaches a scene."""

import asyncio
import copy
import re
import threading
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from asgiref.sync import sync_to_async
from django.db import connections
from playwright.sync_api import Page, expect
from procrastinate.contrib.django import procrastinate_app

from rapzel.accounts.models import User
from rapzel.bench.models import Trace
from rapzel.demo.bench import card
from rapzel.kit.models import Strobe
from simulators.instrument import Server
from simulators.light import Settings, fitting, series, to_csv
from tests.apps.rows import colour_row, trace_row
from tests.browser.hands import settled
from tests.patience import PROCESS_S

SETTINGS = fitting(Settings(power=1 / 64, seed=9))


@pytest.fixture
def worker() -> Callable[[], None]:
    """Works off the queue once, in a thread of its own: the page's own loop stands in the way here."""

    def work() -> None:
        def once() -> None:
            connector: Any = procrastinate_app.current_app.connector
            app = procrastinate_app.current_app.with_connector(
                connector.get_worker_connector()
            )
            app.run_worker(
                wait=False,
                install_signal_handlers=False,
                listen_notify=False,
                queues=["bench"],
            )
            # the thread that defers periodic tasks has its own
            asyncio.run(sync_to_async(connections.close_all)())

        thread = threading.Thread(target=once)
        thread.start()
        thread.join(PROCESS_S)
        assert not thread.is_alive()

    return work


def pick_again(page: Page) -> None:
    """Renews both lights' figures from the kit."""
    for place, name in enumerate(("Key", "Rim")):
        more = page.locator("summary", has_text=f"More of {name}")
        if not more.evaluate("each => each.parentElement.open"):
            more.click()
        with page.expect_response(lambda answer: "use-strobe" in answer.url):
            page.locator(f"#pick-use-strobe-light-{place + 1}").select_option(
                label="Monobloc 600 quenched"
            )
        settled(page)


def test_from_a_file_to_a_scenes_margin(lunge: Page, worker, tmp_path) -> None:
    strobe = Strobe.objects.get(name="Monobloc 600 quenched")
    strobe.settings.filter(mode="speed", power=1 / 64).update(
        t01_s=2.5e-4, provenance="claimed"
    )
    pick_again(lunge)
    expect(lunge.locator("[data-margin=freeze] .says")).to_have_text("5.3 px of 2")
    lunge.get_by_role("link", name="Bench").click()
    path = tmp_path / "key.csv"
    path.write_bytes(to_csv(series(SETTINGS, 3), SETTINGS).encode())
    lunge.locator("#trace-file").set_input_files(path)
    lunge.get_by_role("heading", name="What this file holds").wait_for()
    expect(lunge.get_by_label("What Light holds")).to_have_value("value")
    expect(lunge.get_by_label("Unit of Time")).to_have_value("s")
    lunge.get_by_label("Strobe").select_option(label="Monobloc 600 quenched")
    lunge.get_by_label("Mode").fill("speed")
    lunge.get_by_label("Power").fill("1/64")
    lunge.get_by_role("button", name="Measure it").click()
    expect(lunge.locator("#progress")).to_contain_text("Waiting: 0 %")
    worker()
    expect(lunge.locator(".figures")).to_contain_text("t.1")
    expect(lunge.locator(".trace-page")).to_contain_text(
        "Looks like a quenched circuit"
    )
    lunge.locator(".plot canvas").wait_for()
    lunge.wait_for_function(
        "() => Number(document.querySelector('.plot').dataset.points) > 100"
    )
    lunge.get_by_role("button", name="Apply to Monobloc 600 quenched").click()
    expect(lunge.locator(".notice")).to_contain_text(
        "is in the table of Monobloc 600 quenched"
    )
    measured = Trace.objects.get().result["t01_s"]
    assert strobe.settings.get(
        mode="speed", power=1 / 64, provenance="measured"
    ).t01_s == pytest.approx(measured)
    lunge.goto(lunge.url.split("/kit/")[0] + "/shoots/")
    lunge.get_by_role("link", name="Season brochure").click()
    expect(lunge.locator(".page > .warning")).to_contain_text(
        "The kit has newer figures than"
    )
    lunge.locator(".scene-row").get_by_role("link", name="Lunge on black").click()
    (
        expect(lunge.locator("[data-margin=freeze] .says")).to_have_text("5.3 px of 2"),
        "a plan changes when it is told to",
    )
    news = lunge.locator(".warning", has_text="The kit has newer figures")
    expect(news.first).to_contain_text(re.compile(r"t\.1 [\d.]+ µs instead of 250 µs"))
    for left in (1, 0):
        news.first.get_by_role("button", name="Use them").click()
        expect(news).to_have_count(left)
    expect(lunge.locator("[data-margin=freeze] .says")).to_have_text("1.8 px of 2")
    expect(lunge.locator("#s-lights")).to_contain_text("Key 1/64")


def levels(says: str) -> list[float]:
    """The level under each cursor, each with its unit, from the line that tells where they stand."""
    return [
        float(level)
        for level in re.findall(
            r"[AB] \S+ \S+, (-?[\d.]+) (?:V|%)", says.replace("−", "-")
        )
    ]


def test_the_curve_is_explored_with_cursors_zoom_and_log(
    demo: Page, live_server, watch
) -> None:
    owner = User.objects.get(username="demo")
    trace, other = trace_row(owner), trace_row(owner)
    clock = copy.deepcopy(other.result)
    clock["segments"] = [
        [begin, step * 1.37, count] for begin, step, count in clock["segments"]
    ]
    Trace.objects.filter(pk=other.pk).update(name="The other one", result=clock)
    demo.goto(f"{live_server.url}/bench/traces/{trace.pk}/")
    says = demo.locator(".cursor-says")
    expect(says).to_contain_text("Δt")
    first = says.inner_text()
    baseline, peak = trace.result["baseline"], trace.result["peak"]
    assert levels(first) == pytest.approx([baseline + peak / 2] * 2, rel=0.03), (
        "the cursors start at the t.5 bracket"
    )
    demo.get_by_label("Cursor B").focus()
    demo.keyboard.press("Shift+ArrowRight")
    expect(says).not_to_have_text(first)
    handle = demo.get_by_label("Cursor A").locator("span")
    box = handle.bounding_box()
    assert box
    demo.mouse.move(box["x"] + 5, box["y"] + 5)
    demo.mouse.down()
    demo.mouse.move(box["x"] + 60, box["y"] + 5, steps=4)
    demo.mouse.up()
    expect(says).not_to_contain_text(first.split("·")[0])
    moved = says.inner_text()
    demo.get_by_label("Log level, to see the tail").check()
    expect(demo.locator(".plot canvas")).to_be_visible()
    assert says.inner_text() == moved, "the cursors stay where they were put"
    plot = demo.locator(".plot .u-over").bounding_box()
    assert plot
    with demo.expect_response(lambda answer: "from=" in answer.url):
        demo.mouse.move(plot["x"] + plot["width"] * 0.55, plot["y"] + 150)
        demo.mouse.down()
        demo.mouse.move(plot["x"] + plot["width"] * 0.8, plot["y"] + 160, steps=5)
        demo.mouse.up()
    for name in ("Cursor A", "Cursor B"):
        expect(demo.get_by_label(name)).to_be_visible()
    demo.locator("summary", has_text="Lay others over it").click()
    with demo.expect_response(lambda answer: "over=" in answer.url):
        demo.get_by_label("Over it").select_option(label="The other one")
    expect(demo.locator(".plot .u-legend")).to_contain_text("The other one")
    demo.get_by_label("Log level, to see the tail").uncheck()
    demo.get_by_label("Cursor B").focus()
    for _ in range(8):
        before = says.inner_text()
        demo.keyboard.press("ArrowRight")
        expect(says).not_to_have_text(before)
        assert len(levels(says.inner_text())) == 2, (
            "a level under each cursor, though sampled at other instants"
        )
    with demo.expect_download() as started:
        demo.get_by_role("button", name="PNG").click()
    assert started.value.path().read_bytes().startswith(b"\x89PNG")


def test_the_simulated_bench_pops(
    demo: Page, live_server, worker, settings, watch
) -> None:
    server = Server(0)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    settings.BENCH_SIMULATOR = f"127.0.0.1:{server.port}"
    demo.goto(f"{live_server.url}/bench/")
    demo.get_by_label("Fault of the simulated bench").select_option("clipping")
    demo.get_by_role("button", name="Pop").click()
    expect(demo.locator("#progress")).to_be_visible()
    worker()
    expect(demo.locator("[data-code=clipped]")).to_contain_text("The top is flat")
    server.shutdown()
    server.server_close()


def test_grey_cards_and_a_drawn_patch(
    demo: Page, live_server, worker, tmp_path, watch
) -> None:
    rng = np.random.default_rng(1)
    paths = []
    for number in range(3):
        paths.append(tmp_path / f"card-{number}.jpg")
        paths[-1].write_bytes(card(0.01 * number, 0.0, 1.0, rng))
    demo.goto(f"{live_server.url}/bench/colour/")
    demo.locator("#frames").set_input_files(paths)
    demo.wait_for_function(
        "() => document.querySelector('.patch-box img').naturalWidth > 0"
    )
    box = demo.locator(".patch-box").bounding_box()
    assert box
    demo.mouse.move(box["x"] + box["width"] * 0.35, box["y"] + box["height"] * 0.35)
    demo.mouse.down()
    demo.mouse.move(
        box["x"] + box["width"] * 0.6, box["y"] + box["height"] * 0.6, steps=4
    )
    demo.mouse.up()
    expect(demo.locator(".patch")).to_be_visible()
    demo.get_by_role("button", name="Measure them").click()
    expect(demo.locator("#progress")).to_be_visible()
    worker()
    expect(demo.locator(".drawn figcaption", has_text="Bars are")).to_contain_text(
        "of 3 pops lie beyond the tolerance"
    )


def test_marks_of_the_comparison_count_as_they_stand(
    demo: Page, live_server, watch
) -> None:
    demo.goto(f"{live_server.url}/kit/compare/")
    compared = demo.locator("#compared")
    slow = "Old voltage monobloc 500"
    expect(compared).to_contain_text(slow)
    demo.get_by_label(slow).uncheck()
    expect(compared).not_to_contain_text(slow)
    demo.get_by_label("Bank pack 2400").press("Space")
    expect(compared).not_to_contain_text("Bank pack 2400")
    assert (
        demo.get_by_role("link", name="This comparison as CSV")
        .get_attribute("href")
        .count("s=")
        == 3
    )
    demo.reload()
    (
        expect(demo.get_by_label(slow)).not_to_be_checked(),
        "the address carries the choice",
    )
    marked = demo.locator(".chooser input:checked")
    for _ in range(marked.count()):
        marked.first.press("Space")
    expect(compared).to_contain_text("Choose at least one strobe")
    demo.get_by_label("What do I get at a t.1 of").fill("soon")
    expect(compared.get_by_role("alert")).to_contain_text(
        "“soon” is not a duration. Accepted: 1/8000"
    )


def test_bench_pages_show_what_is_there(demo: Page, live_server, watch) -> None:
    owner = User.objects.get(username="demo")
    trace_row(owner)
    run = colour_row(owner)
    demo.goto(f"{live_server.url}/bench/")
    demo.get_by_role("link", name="Key at a sixteenth").click()
    demo.get_by_role("link", name="Lag").click()
    expect(demo.locator(".sentence")).to_contain_text("jitter")
    demo.goto(f"{live_server.url}/bench/colour/{run.pk}/")
    expect(demo.locator("figcaption", has_text="Bars are")).to_contain_text(
        "1 of 2 pops lie beyond"
    )
    demo.goto(f"{live_server.url}/kit/compare/")
    demo.get_by_label("What do I get at a t.1 of").fill("1/4000")
    expect(demo.locator("#compared")).to_contain_text("At t.1 ≤ 1/4000")
    demo.goto(
        f"{live_server.url}/kit/strobes/{Strobe.objects.get(name='Hot-shoe 60').pk}/"
    )
    demo.locator("summary", has_text="Work out its light").click()
    demo.get_by_label("A leaflet or meter says").select_option("f")
    demo.get_by_label("Its figure").fill("f/11")
    demo.get_by_label("At a distance of").fill("2 m")
    expect(demo.locator("#worked-out")).to_contain_text("GN 22 m at ISO 100, measured")
    # A long press: leaving the field must not replace the button under it.
    demo.get_by_role("button", name="Use it").click(delay=400)
    expect(demo.get_by_label("Guide number, ISO 100")).to_have_value("22 m")
