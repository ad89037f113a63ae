"""The bench: nothing is half-stored, the background always answers, and only what is sound reaches the kit."""

import json

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from rapzel.bench import measuring, services, tasks
from rapzel.bench.models import State, Trace
from rapzel.core.trace import Layout
from rapzel.core.trace.reading.samples import TraceError
from rapzel.demo.bench import record
from rapzel.kit.models import Camera, FigureRevision, Strobe, Trigger
from rapzel.workbench.answer import Answer
from simulators.light import Settings, fitting, series, to_csv
from tests.apps.rows import set_figures, trace_row

SETTINGS = fitting(Settings(power=1 / 16))
CSV = to_csv(series(SETTINGS, 3), SETTINGS).encode()


def upload(data: bytes = CSV, name: str = "pop.csv") -> SimpleUploadedFile:
    return SimpleUploadedFile(name, data)


def brought_in(visitor, data: bytes = CSV, name: str = "pop.csv") -> Trace:
    answer = visitor.post(reverse("bench:import"), {"file": upload(data, name)})
    assert answer.status_code == 302
    return Trace.objects.get()


def confirmed(visitor, trace: Trace, **changes):
    strobe = Strobe.objects.get(name="Monobloc 600 quenched")
    data = {
        "name": "Key at a sixteenth",
        "strobe": strobe.pk,
        "mode": "speed",
        "power": "1/16",
        **changes,
    }
    return visitor.post(reverse("bench:confirm", args=[trace.pk]), data)


@pytest.fixture
def measured(visitor, kit) -> Trace:
    trace = brought_in(visitor)
    assert confirmed(visitor, trace).status_code == 302
    tasks.run(trace.pk)
    trace.refresh_from_db()
    assert trace.state == State.DONE, trace.says
    return trace


def test_from_file_to_figures(visitor, measured) -> None:
    page = visitor.get(reverse("bench:trace", args=[measured.pk])).content.decode()
    truth = series(SETTINGS, 1)[0].shape
    assert measured.result["t05_s"] == pytest.approx(truth.width_s(0.5), rel=0.02)
    assert measured.result["t01_s"] == pytest.approx(truth.width_s(0.1), rel=0.02)
    assert len(measured.result["pops"]) == 3
    assert "Looks like a quenched circuit" in page
    assert "Apply to Monobloc 600 quenched" in page


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"\x00\x01\x02" * 500,
        b"PK\x03\x04" + b"\x00" * 999,
        b"1,2\n",
        b"one\ntwo\n" * 9,
    ],
)
def test_hostile_files_store_nothing_and_are_explained(visitor, data) -> None:
    answer = visitor.post(reverse("bench:import"), {"file": upload(data)}, follow=True)
    assert "was not imported" in answer.content.decode()
    assert "Accepted" in answer.content.decode()
    assert not Trace.objects.exists()


def test_a_file_that_breaks_later_fails_in_words_and_can_be_read_otherwise(
    visitor, kit
) -> None:
    trace = brought_in(visitor, CSV + b"1,2\n3\n")
    confirmed(visitor, trace)
    tasks.run(trace.pk)
    trace.refresh_from_db()
    assert trace.state == State.FAILED
    lines = CSV.count(b"\n")
    assert trace.says.startswith(
        f"Line {lines + 1} reads “1,2”, where 3 numbers were expected"
    )
    assert (
        "Look at its columns again"
        in visitor.get(reverse("bench:trace", args=[trace.pk])).content.decode()
    )
    assert trace.result is None


def test_corrections_are_taken_and_impossible_ones_refused(visitor, kit) -> None:
    trace = brought_in(
        visitor, b"a;b\n" + b"".join(b"%d;%d\n" % (n, n % 5) for n in range(200))
    )
    refused = visitor.post(
        reverse("bench:confirm", args=[trace.pk]),
        {"name": "x", "role-0": "skip", "role-1": "skip"},
    )
    assert refused.status_code == 422
    assert "Mark at least one column" in refused.content.decode()
    assert refused.content.decode().count('<option value="skip" selected>') == 2, (
        "the choice stays on the page"
    )
    half = visitor.post(
        reverse("bench:confirm", args=[trace.pk]), {"name": "x", "power": "1/16"}
    )
    assert "Say both the strobe and its power" in half.content.decode()
    visitor.post(
        reverse("bench:confirm", args=[trace.pk]),
        {"name": "x", "role-0": "time", "unit-0": "µs"},
    )
    trace.refresh_from_db()
    assert trace.layout["columns"][0] == {
        "name": "a",
        "role": "time",
        "unit": "µs",
        "scale": 1e-6,
    }
    assert trace.state == State.QUEUED


def test_a_file_may_be_read_with_another_delimiter(visitor, kit) -> None:
    trace = brought_in(
        visitor, b"time,one\n" + b"".join(b"%d,%d\n" % (n, n % 7) for n in range(99))
    )
    assert (trace.layout["delimiter"], len(trace.layout["columns"])) == (",", 2)
    url = reverse("bench:confirm", args=[trace.pk])
    wrong = visitor.post(url, {"way": "\t."}, follow=True)
    assert "Not read so: Only 0 lines hold numbers" in wrong.content.decode()
    trace.refresh_from_db()
    assert trace.layout["delimiter"] == ",", "what cannot be read changes nothing"
    visitor.post(url, {"way": ";,"})
    trace.refresh_from_db()
    assert (
        trace.layout["delimiter"],
        trace.layout["decimal"],
        len(trace.layout["columns"]),
    ) == (
        ";",
        ",",
        1,
    )


def test_cancel_before_and_during(visitor, kit, monkeypatch) -> None:
    trace = brought_in(visitor)
    confirmed(visitor, trace)
    visitor.post(reverse("bench:cancel", args=[trace.pk]))
    tasks.run(trace.pk)
    trace.refresh_from_db()
    assert trace.state == State.CANCELLED
    confirmed(visitor, trace)
    real = measuring.report

    def cancelled_half_way(row: Trace, share: float) -> None:
        if share > 0.3:
            Trace.objects.filter(pk=row.pk).update(cancel_asked=True)
        real(row, share)

    monkeypatch.setattr(measuring, "report", cancelled_half_way)
    tasks.run(trace.pk)
    trace.refresh_from_db()
    assert trace.state == State.CANCELLED
    assert "Stopped as asked" in trace.says
    assert trace.result is None


def test_whatever_goes_wrong_the_trace_says_so(
    visitor, kit, monkeypatch, caplog
) -> None:
    trace = brought_in(visitor)
    confirmed(visitor, trace)
    monkeypatch.setattr(measuring, "analyse_recording", lambda *_: 1 / 0)
    tasks.run(trace.pk)
    trace.refresh_from_db()
    assert trace.state == State.FAILED
    assert "on Rapzel's side" in trace.says
    assert "ZeroDivisionError" in caplog.text


def test_the_slow_detectors_lag_is_out_of_what_reaches_the_table(visitor, kit) -> None:
    slow = fitting(Settings(power=1 / 16, bandwidth_hz=8000))
    trace = brought_in(visitor, to_csv(series(slow, 2), slow).encode())
    assert trace.layout["detector_s"] == pytest.approx(
        1 / (2 * np.pi * 8000), rel=1e-3
    ), "read off the preamble"
    confirmed(visitor, trace, detector_s="19.9 µs")
    tasks.run(trace.pk)
    trace.refresh_from_db()
    assert [each["code"] for each in trace.result["warnings"]] == ["slow_detector"]
    row = services.measured_row(trace)
    truth = series(slow, 1)[0].shape
    assert trace.result["t01_s"] > 1.1 * truth.width_s(0.1)
    assert row["t01_s"] == pytest.approx(truth.width_s(0.1), rel=0.05)
    assert row["t05_s"] == pytest.approx(truth.width_s(0.5), rel=0.05)


def test_too_many_files_at_once_are_refused_not_forgotten(visitor) -> None:
    files = [upload(name=f"{n}.csv") for n in range(31)]
    answer = visitor.post(reverse("bench:import"), {"file": files}, follow=True)
    assert "31 files at once are too many; bring in up to 30" in answer.content.decode()
    assert not Trace.objects.exists()


def test_long_lists_have_pages(visitor, owner) -> None:
    Trace.objects.bulk_create(
        Trace(owner=owner, name=f"Trace {n:02d}", state=State.FAILED) for n in range(53)
    )
    first = visitor.get(reverse("bench:list")).content.decode()
    second = visitor.get(reverse("bench:list"), {"page": 2}).content.decode()
    assert "Page 1 of 2" in first
    assert first.count("Remove Trace") == 50
    assert second.count("Remove Trace") == 3


@pytest.mark.parametrize("key", ["²", "-1", "abc", "9" * 40, "9223372036854775808", ""])
def test_keys_that_are_none_find_nothing_and_break_nothing(visitor, owner, key) -> None:
    measured = trace_row(owner)
    refused = visitor.post(reverse("bench:apply"), {"trace": key}, follow=True)
    assert "choose at least one trace" in refused.content.decode()
    assert (
        visitor.get(
            reverse("bench:data", args=[measured.pk]), {"over": key}
        ).status_code
        == 200
    )
    assert (
        visitor.get(
            reverse("bench:lag", args=[measured.pk]), {"event": key}
        ).status_code
        == 200
    )
    target = {"target": f"trigger:{key}"}
    assert (
        visitor.post(reverse("bench:lag_store", args=[measured.pk]), target).status_code
        == 404
    )


def test_apply_history_and_undo(visitor, measured) -> None:
    strobe = measured.strobe
    before = [row.stored() for row in strobe.settings.all()]
    answer = visitor.post(reverse("bench:apply"), {"trace": measured.pk}, follow=True)
    assert (
        "measurement is in the table of Monobloc 600 quenched"
        in answer.content.decode()
    )
    row = strobe.settings.get(mode="speed", power=1 / 16)
    assert row.t01_s == pytest.approx(measured.result["t01_s"])
    assert row.provenance == "measured"
    assert strobe.settings.count() == len(before), (
        "it takes the place of the earlier measurement"
    )
    assert "Key at a sixteenth" in strobe.revisions.get().what
    visitor.post(reverse("kit:undo_table", args=[strobe.pk]))
    assert [row.stored() for row in strobe.settings.all()] == before
    assert not strobe.revisions.exists()


def test_the_margin_of_a_scene_follows_the_measurement(
    visitor, measured, scene
) -> None:
    strobe = measured.strobe
    document = {
        **scene.document,
        "lights": [
            {**scene.document["lights"][0], "strobe": strobe.to_core(), "mode": "speed"}
        ],
    }
    strobe.settings.filter(power=1 / 16).update(t01_s=4e-4)
    worse = {
        **document,
        "lights": [{**document["lights"][0], "strobe": strobe.to_core()}],
    }
    visitor.post(reverse("bench:apply"), {"trace": measured.pk})
    better = {
        **document,
        "lights": [{**document["lights"][0], "strobe": strobe.to_core()}],
    }
    gained = (
        Answer(better).evaluation.margin("freeze").value
        - Answer(worse).evaluation.margin("freeze").value
    )
    assert gained == pytest.approx(np.log2(4e-4 / measured.result["t01_s"]), abs=0.01)


def test_light_against_full_power_comes_with_a_batch(owner, kit, visitor) -> None:
    full, low = (
        record(owner, "Monobloc 600 quenched", power, 2, "none")
        for power in (1.0, 1 / 16)
    )
    visitor.post(reverse("bench:apply"), {"trace": [full.pk, low.pk]})
    rows = {
        row.power: row.light_stops for row in full.strobe.settings.filter(mode="speed")
    }
    assert rows[1.0] == 0.0
    # the simulated strobe keeps its dial, with some scatter
    assert rows[1 / 16] == pytest.approx(-4.0, abs=0.15)
    assert rows[1 / 64] is None


@pytest.mark.parametrize("fault", ["clipping", "logic", "preflash", "no light"])
def test_what_is_spoiled_does_not_reach_the_kit(visitor, kit, owner, fault) -> None:
    trace = record(owner, "Monobloc 600 quenched", 1 / 16, 1, fault)
    trace.refresh_from_db()
    answer = visitor.post(reverse("bench:apply"), {"trace": trace.pk}, follow=True)
    assert "Nothing was applied" in answer.content.decode()
    assert "no pop of it can be used" in answer.content.decode()
    assert not trace.strobe.revisions.exists()


def test_all_chosen_measurements_or_none(owner, kit, visitor) -> None:
    good = record(owner, "Monobloc 600 quenched", 1 / 16, 1, "none")
    bad = record(owner, "Hot-shoe 60", 1 / 16, 1, "none")
    answer = visitor.post(
        reverse("bench:apply"), {"trace": [good.pk, bad.pk]}, follow=True
    )
    assert "more than one strobe" in answer.content.decode()
    assert not good.strobe.revisions.exists()


def test_numbers_figure_and_original_go_out(visitor, measured) -> None:
    figures = (
        visitor.get(reverse("bench:csv", args=[measured.pk]))
        .content.decode()
        .splitlines()
    )
    assert figures[0].startswith("pop,t05_s,t01_s")
    assert len(figures) == 4
    assert (
        json.loads(visitor.get(reverse("bench:json", args=[measured.pk])).content)[
            "format"
        ]
        == "rapzel.trace"
    )
    assert visitor.get(reverse("bench:drawing", args=[measured.pk])).content.startswith(
        b"<svg"
    )
    original = visitor.get(reverse("bench:original", args=[measured.pk]))
    assert b"".join(original.streaming_content) == CSV


def test_a_lag_becomes_the_kits(visitor, measured) -> None:
    page = visitor.get(reverse("bench:lag", args=[measured.pk])).content.decode()
    assert "Only 3 pops" in page
    trigger = Trigger.objects.get(name="Radio trigger")
    visitor.post(
        reverse("bench:lag_store", args=[measured.pk]),
        {"target": f"trigger:{trigger.pk}", "event": 1, "light": 0},
    )
    trigger.refresh_from_db()
    assert trigger.lag_s == pytest.approx(SETTINGS.lag_s, abs=60e-6)
    assert trigger.lag_provenance == "measured"
    camera = Camera.objects.get(name="Full-frame body")
    visitor.post(
        reverse("bench:lag_store", args=[measured.pk]),
        {"target": f"camera:{camera.pk}"},
    )
    camera.refresh_from_db()
    assert camera.to_core()["lag_provenance"] == "measured"
    assert len(camera.to_core()["lags_s"]) == 3
    assert (
        "two different channels"
        in visitor.get(
            reverse("bench:lag", args=[measured.pk]), {"event": 0, "light": 0}
        ).content.decode()
    )


def test_the_states_of_a_body_are_measured_against_it_as_it_is(
    visitor, measured
) -> None:
    """What the mirror saves is the plain lag less the one with the mirror up; nothing is stored that cannot be."""
    camera, address = (
        Camera.objects.get(name="Full-frame body"),
        reverse("bench:lag_store", args=[measured.pk]),
    )
    data = {"target": f"camera:{camera.pk}", "event": 1, "light": 0}
    set_figures(camera, lag_s=0.06, mirror_s=None, wake_s=None)
    visitor.post(address, {**data, "state": "mirror_s"})
    camera.refresh_from_db()
    assert camera.mirror_s == pytest.approx(0.06 - SETTINGS.lag_s, abs=60e-6)
    assert camera.lag_s == 0.06
    refused = visitor.post(
        address, {**data, "state": "wake_s"}, follow=True
    ).content.decode()
    assert "quicker than as it is" in refused
    assert visitor.post(address, {**data, "state": "soup"}).status_code == 404
    set_figures(camera, lag_s=None)
    unknown = visitor.post(
        address, {**data, "state": "mirror_s"}, follow=True
    ).content.decode()
    assert "as it is first" in unknown


def test_a_layout_is_plain_data(db) -> None:
    with pytest.raises(TraceError):
        services.bring_in(None, None)
    assert Layout(
        **Layout(columns=[{"name": "a", "role": "value"}]).model_dump(mode="json")
    ).of("value") == [0]


CURTAINS = {"shutter1": "1/400", "dark1": "34.4", "shutter2": "1/800", "dark2": "73.4"}


def test_test_frames_tell_the_curtains_and_store_them(visitor, owner) -> None:
    """T_c 3.2 ms and L 0.4 ms give d = 1 − (t − L) / T_c: 34.4 % at 1/400 and 73.4 % at 1/800."""
    url = reverse("bench:curtains")
    body = visitor.get(url, CURTAINS, headers={"HX-Request": "true"}).content.decode()
    assert "Curtain travel 3.2" in body
    camera = Camera.objects.create(owner=owner, name="Body")
    visitor.post(reverse("bench:curtains_store"), {**CURTAINS, "camera": camera.pk})
    camera.refresh_from_db()
    assert camera.curtain_travel_s == pytest.approx(0.0032, rel=0.01)
    assert camera.curtain_travel_sd_s > 0
    kept = FigureRevision.objects.get()
    visitor.post(reverse("kit:undo_figures", args=[kept.pk]))
    camera.refresh_from_db()
    assert camera.curtain_travel_s is None


def test_frames_that_say_nothing_store_nothing(visitor, owner, stranger) -> None:
    camera = Camera.objects.create(owner=owner, name="Body")
    one = {"shutter1": "1/400", "dark1": "34.4"}
    page = visitor.get(reverse("bench:curtains"), one, headers={"HX-Request": "true"})
    assert "cannot tell travel from latency" in page.content.decode()
    answer = visitor.post(reverse("bench:curtains_store"), {**one, "camera": camera.pk})
    assert answer.status_code == 422
    wrong = visitor.get(
        reverse("bench:curtains"), {"shutter1": "fast"}
    ).content.decode()
    assert "is not" in wrong
    other = Camera.objects.create(owner=stranger, name="Not mine")
    theirs = {**CURTAINS, "camera": other.pk}
    assert visitor.post(reverse("bench:curtains_store"), theirs).status_code == 404
