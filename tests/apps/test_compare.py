"""Comparing strobes on the page, and figures from leaflets taken into the kit."""

import csv
import io
import re

import pytest
from django.urls import reverse

from rapzel.kit import services
from rapzel.kit.kinds import KINDS
from rapzel.kit.models import Strobe
from tests.apps.rows import set_figures


@pytest.fixture
def monobloc(kit) -> Strobe:
    return Strobe.objects.get(name="Monobloc 600 quenched")


def page(visitor, **query) -> str:
    answer = visitor.get(reverse("kit:compare"), query)
    assert answer.status_code == 200
    return answer.content.decode()


def test_what_do_i_get_and_who_never_gets_there(visitor, monobloc) -> None:
    text = page(visitor, t="1/6000")
    assert "At t.1 ≤ 1/6000" in text
    assert "the most" in text
    assert "never so short" in text  # the voltage-controlled one


def test_a_wrong_duration_is_explained(visitor, monobloc) -> None:
    assert "is not a duration. Accepted: 1/8000" in page(visitor, t="soon")
    assert "A t.1 is above 0" in page(visitor, t="0")


def test_two_at_once(visitor, monobloc) -> None:
    hot_shoe = Strobe.objects.get(name="Hot-shoe 60")
    text = page(
        visitor, a=f"{monobloc.pk}:speed", b=f"{hot_shoe.pk}:", p="1/8", t="1/4000"
    )
    assert "Monobloc 600 quenched, speed at that t.1:" in text
    assert "gives as much light as Hot-shoe 60 at" in text
    full = page(visitor, a=f"{monobloc.pk}:speed", b=f"{hot_shoe.pk}:", p="full")
    assert "has no setting with the light of" in full
    assert "is not a power" in page(
        visitor, a=f"{monobloc.pk}:speed", b=f"{hot_shoe.pk}:", p="loud"
    )


def test_an_empty_kit_teaches(visitor) -> None:
    assert "no strobe with a duration yet" in page(visitor)


def test_the_csv_has_every_setting_and_the_answer(visitor, monobloc) -> None:
    answer = visitor.get(
        reverse("kit:compare_csv"), {"s": f"{monobloc.pk}:speed", "t": "1/6000"}
    )
    rows = list(csv.DictReader(io.StringIO(answer.content.decode())))
    assert len(rows) == 9 + 1
    assert float(rows[0]["power"]) == 1.0
    assert float(rows[-1]["t01_s"]) <= 1 / 6000
    assert rows[-1]["at_t01_s"]


def test_price_is_compared_where_it_is_known(visitor, monobloc) -> None:
    set_figures(monobloc, price=900.0)
    assert "<td>900</td>" in page(visitor, t="1/6000", s=f"{monobloc.pk}:speed")


@pytest.mark.parametrize("step", ["1", "3", "10"])
def test_a_strobes_settings_in_steps(visitor, monobloc, step) -> None:
    text = visitor.get(
        reverse("kit:edit", args=["strobes", monobloc.pk]), {"step": step}
    ).content.decode()
    assert text.count('<tr><td class="num">') >= {"1": 18, "3": 50, "10": 162}[step]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (
            {"kind": "f", "value": "f/11", "distance": "2 m", "iso": "100"},
            "GN 22 m at ISO 100, measured",
        ),
        ({"kind": "gn", "value": "197 ft"}, "GN 60 m at ISO 100, claimed"),
        ({"kind": "bcps", "value": "2500"}, "GN 31.6 m"),
        ({"kind": "lux", "value": "1000", "distance": "1"}, "GN 20 m"),
        ({"kind": "ws", "value": "600"}, "estimated: between"),
        ({"kind": "f", "value": "bright", "distance": "2 m"}, "is not an f-number"),
        ({"kind": "gn", "value": "big"}, "Its figure: “big” is not a length"),
        ({"kind": "f", "value": "8"}, "Type the distance too"),
        (
            {"kind": "f", "value": "8", "distance": "far"},
            "The distance: “far” is not a length",
        ),
        (
            {"kind": "gn", "value": ""},
            '<div id="worked-out" role="status">\n  \n  \n</div>',
        ),
        ({"kind": "ws", "value": "0"}, "must be a number above 0"),
        (
            {"weaker": "2.7", "travel": "3 ms", "shutter": "1/1000"},
            "own HSS loss is 0.7 stops",
        ),
        ({"weaker": "much", "shutter": "1/1000"}, "is not a number of stops"),
        ({}, '<div id="worked-out"'),
    ],
)
def test_meters_and_leaflets_are_converted_as_one_types(
    visitor, monobloc, data, says
) -> None:
    answer = visitor.get(reverse("kit:work_out", args=[monobloc.pk]), data)
    assert answer.status_code == 200
    assert says in answer.content.decode()


def test_a_worked_out_figure_is_taken_over(visitor, monobloc) -> None:
    visitor.post(
        reverse("kit:take_over", args=[monobloc.pk]),
        {"kind": "f", "value": "11", "distance": "2"},
    )
    visitor.post(
        reverse("kit:take_over", args=[monobloc.pk]),
        {"weaker": "2.9", "travel": "3 ms", "shutter": "1 ms"},
    )
    monobloc.refresh_from_db()
    assert monobloc.guide_number_m == pytest.approx(22)
    assert monobloc.hss_loss_stops == pytest.approx(0.9)
    answer = visitor.post(
        reverse("kit:take_over", args=[monobloc.pk]),
        {"kind": "ws", "value": "x"},
        follow=True,
    )
    assert "is not a plain number" in answer.content.decode()
    monobloc.refresh_from_db()
    assert monobloc.guide_number_m == pytest.approx(22)
    assert monobloc.guide_provenance == "measured", "by a meter"
    visitor.post(
        reverse("kit:take_over", args=[monobloc.pk]), {"kind": "ws", "value": "600"}
    )
    monobloc.refresh_from_db()
    assert monobloc.guide_provenance == "estimated", (
        "of watt-seconds nobody knows what comes out"
    )


def test_a_strobe_that_waits_for_its_figures_takes_them_one_by_one(
    visitor, owner
) -> None:
    new = services.add_item(owner, KINDS["strobes"], "New strobe")
    visitor.post(
        reverse("kit:take_over", args=[new.pk]),
        {"weaker": "2.9", "travel": "3 ms", "shutter": "1 ms"},
    )
    new.refresh_from_db()
    assert (new.hss_loss_stops, new.guide_number_m) == (pytest.approx(0.9), None), (
        "what is not said stays unknown"
    )
    visitor.post(
        reverse("kit:take_over", args=[new.pk]),
        {"kind": "f", "value": "11", "distance": "2"},
    )
    new.refresh_from_db()
    assert new.guide_number_m == pytest.approx(22)
    assert new.settings.count() == 0


@pytest.mark.parametrize(
    ("data", "says"),
    [
        ({"kind": "ws", "value": "1e12"}, "guide_number_m: must be 10000 or less"),
        (
            {"weaker": "29", "travel": "3 ms", "shutter": "1 ms"},
            "hss_loss_stops: must be 10 or less",
        ),
    ],
)
def test_a_figure_that_no_strobe_has_is_not_taken(
    visitor, monobloc, data, says
) -> None:
    answer = visitor.post(
        reverse("kit:take_over", args=[monobloc.pk]), data, follow=True
    )
    assert "Nothing was taken over" in answer.content.decode()
    assert says in answer.content.decode()
    monobloc.refresh_from_db()
    assert (monobloc.guide_number_m, monobloc.hss_loss_stops) == (60.0, 0.7)


def test_no_mark_left_is_a_choice_and_seven_are_too_many(visitor, monobloc) -> None:
    cleared = visitor.get(
        reverse("kit:compare"), {"t": "1/6000"}, headers={"HX-Request": "true"}
    ).content.decode()
    assert "Choose at least one strobe" in cleared
    services.copy_starter_kit(monobloc.owner)
    every = [
        f"{s.pk}:{m}"
        for s in Strobe.objects.all()
        for m in sorted({row.mode for row in s.settings.all()})
    ]
    assert len(every) == 10
    crowded = page(visitor, s=every[:7])
    assert re.search(r"Left out: [^.]+\. Take a mark away", crowded)
    assert "Left out" not in page(visitor, s=every[:6])
    assert "Left out" in page(visitor), (
        "nothing was chosen yet, and not all of them fit"
    )
    assert f"compare.csv?s={every[0].replace(':', '%3A')}" in crowded


def test_every_change_of_a_table_can_be_undone_in_turn(monobloc) -> None:
    first = services.rows_of(monobloc)
    services.rewrite_table(monobloc, lambda rows: rows[:-1], "one fewer")
    services.merge_settings(monobloc, [{**first[0], "t01_s": 0.004}], "a better figure")
    services.rewrite_table(monobloc, lambda rows: rows, "nothing new")
    assert monobloc.revisions.count() == 2
    assert services.undo_table(monobloc).what == "a better figure"
    assert services.undo_table(monobloc).what == "one fewer"
    assert services.rows_of(monobloc) == first
    assert services.undo_table(monobloc) is None
