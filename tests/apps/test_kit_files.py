"""The kit as files: JSON and CSV out and in again, and what is refused of them."""

import json
from io import BytesIO

import jsonschema
import pytest
from django.urls import reverse

from rapzel.core.shared.errors import DocumentError
from rapzel.kit import exchange, services
from rapzel.kit.kinds import KINDS
from rapzel.kit.models import Modifier, Strobe
from rapzel.ui.tables import plain_cell, unguarded
from tests.apps.rows import set_figures


def test_measured_light_colour_and_price_survive_csv_and_json(kit) -> None:
    strobe = Strobe.objects.get(name="Hot-shoe 60")
    set_figures(strobe, price=349.0, battery_pops=220.0)
    strobe.settings.update(light_stops=-0.07, cct_k=5612.5, duv=-0.0013)
    document = exchange.document_of(kit)
    one = next(each for each in document["strobes"] if each["name"] == "Hot-shoe 60")
    text = exchange.kit_csv(KINDS["strobes"], exchange.items_of(KINDS["strobes"], kit))
    again = next(
        each
        for each in exchange.from_csv(text)["strobes"]
        if each["name"] == "Hot-shoe 60"
    )
    assert again["price"] == one["price"] == 349.0
    assert again["battery_pops"] == 220.0
    assert again["durations"][0]["cct_k"] == one["durations"][0]["cct_k"] == 5612.5
    assert again["durations"][0]["duv"] == -0.0013
    assert again["durations"][0]["light_stops"] == -0.07


def test_the_kit_survives_json_and_back(kit, stranger) -> None:
    document = json.loads(json.dumps(exchange.document_of(kit)))
    jsonschema.validate(document, exchange.kit_schema())
    services.store_document(stranger, document)
    assert exchange.document_of(stranger) == document


@pytest.mark.parametrize("slug", KINDS)
def test_every_kind_survives_csv_and_back(kit, stranger, slug: str) -> None:
    kind = KINDS[slug]
    text = exchange.kit_csv(kind, exchange.items_of(kind, kit))
    services.store_document(stranger, exchange.from_csv(text))
    assert exchange.kit_csv(kind, exchange.items_of(kind, stranger)) == text


def test_a_csv_template_is_its_header() -> None:
    assert (
        exchange.kit_csv(KINDS["lenses"], [])
        == "name,focal_length_mm,widest_f_number,nearest_m,notes\n"
    )


def test_everything_wrong_in_a_csv_is_told_at_once(owner) -> None:
    text = "name,loss_stops,source_size_m,notes\nSoftbox,much,0.9,\n,1,0.5,\nGrid,1,2,3,4\nFine,1,0.1,\n"
    with pytest.raises(DocumentError) as caught:
        services.store_document(owner, exchange.from_csv(text))
    told = [str(problem) for problem in caught.value.problems]
    assert (
        told[0]
        == "row 2, loss_stops: “much” is not a number in SI units with a decimal point"
    )
    assert told[1] == "row 3.name: must not be empty"
    assert told[2] == "row 4: has 5 cells, the header has 4"
    assert not Modifier.objects.exists(), "nothing is half imported"


def test_an_unknown_header_answers_with_the_known_ones() -> None:
    with pytest.raises(
        DocumentError, match="modifiers: name,loss_stops,source_size_m,notes"
    ):
        exchange.from_csv("what,is,this\n1,2,3\n")


def test_a_text_that_a_spreadsheet_would_run_stays_a_text(owner) -> None:
    Modifier.objects.create(owner=owner, name="=2+3", loss_stops=1)
    text = exchange.kit_csv(KINDS["modifiers"], Modifier.objects.all())
    assert "'=2+3" in text
    assert exchange.from_csv(text)["modifiers"][0]["name"] == "=2+3"


@pytest.mark.parametrize(
    ("document", "says"),
    [
        ([], "this is not a kit document"),
        ({"format": "rapzel.kit", "version": 2}, "reads version 1"),
        (
            {"format": "rapzel.kit", "version": 1, "lenses": {}},
            "lenses: must be a list",
        ),
        ({"format": "rapzel.kit", "version": 1, "tripods": []}, "tripods: unknown key"),
        (
            {
                "format": "rapzel.kit",
                "version": 1,
                "strobes": [{"name": "A", "guide_number_m": 0}],
            },
            r"strobes\[0\].circuit: is missing\nstrobes\[0\].guide_number_m: must be 0.01 or more",
        ),
        (
            {
                "format": "rapzel.kit",
                "version": 1,
                "lenses": [{"name": " ", "focal_length_mm": 50}],
            },
            r"lenses\[0\].name: must not be empty",
        ),
    ],
)
def test_a_wrong_kit_document_is_refused_by_path(owner, document, says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        services.store_document(owner, document)


def test_import_page_says_what_is_wrong_and_adds_nothing(visitor) -> None:
    file = BytesIO(
        b'{"format": "rapzel.kit", "version": 1, "lenses": [{"name": "A", "focal_length_mm": -5}]}'
    )
    file.name = "kit.json"
    shown = visitor.post(
        reverse("kit:import"), {"file": file}, follow=True
    ).content.decode()
    assert "lenses[0].focal_length_mm: must be 0.5 or more (given: -5)" in shown
    assert "Nothing was imported." in shown


@pytest.mark.parametrize(
    "text", ["=1+1", "+1", "-1", "@x", "\t=1", "\r=1", "\n=1", " =1", "＝1"]
)
def test_no_cell_runs_in_a_spreadsheet(text: str) -> None:
    assert plain_cell(text).startswith("'")
    assert unguarded(plain_cell(text)) == text
    assert plain_cell(-1.5) == -1.5


def test_a_file_full_of_mistakes_is_read_up_to_a_hundred(owner) -> None:
    header = ",".join(exchange.csv_header(KINDS["modifiers"]))
    with pytest.raises(DocumentError) as caught:
        exchange.from_csv(header + "\n" + "A,much,0.9,\n" * 15_000)
    assert len(caught.value.problems) == 100
    with pytest.raises(
        DocumentError, match="holds 30000 things; up to 2000 are taken at once"
    ):
        services.store_document(
            owner, {"format": "rapzel.kit", "version": 1, "strobes": [{}] * 30_000}
        )
    with pytest.raises(DocumentError, match="up to 20000 are taken at once"):
        exchange.from_csv(header + "\n" + "A,1,0.9,\n" * 25_000)


def test_an_account_that_is_full_is_told_so(visitor, kit, settings) -> None:
    settings.QUOTAS = {**settings.QUOTAS, "things in the kit": services.kit_size(kit)}
    answer = visitor.post(reverse("kit:add", args=["lenses"]), {"name": "Mine"})
    assert answer.status_code == 422
    assert "things in the kit fit into one account" in answer.content.decode()
    assert (
        "fit into one account"
        in visitor.post(reverse("kit:starter"), follow=True).content.decode()
    )


def test_names_as_long_as_the_schema_allows_are_stored(owner) -> None:
    strobe = {
        "name": "n" * 200,
        "circuit": "banks",
        "guide_number_m": 40,
        "modes": [{"name": "m" * 200, "durations": [{"power": 1.0, "t01_s": 0.001}]}],
    }
    services.store_document(
        owner, {"format": "rapzel.kit", "version": 1, "strobes": [strobe]}
    )
    assert Strobe.objects.get().settings.get().mode == "m" * 200
