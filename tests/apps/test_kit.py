import json
from io import BytesIO

import jsonschema
import pytest
from django.urls import reverse

from rapzel.core.errors import DocumentError
from rapzel.core.scene import Strobe as CoreStrobe
from rapzel.kit import exchange, services
from rapzel.kit.kinds import KINDS
from rapzel.kit.models import Camera, Modifier, Strobe
from rapzel.ui.quantities import QUANTITIES


def strobe_post(strobe: Strobe, **changes):
    """What the page of a strobe would post, with changes."""
    rows = list(strobe.settings.all())
    data = {
        "name": strobe.name,
        "circuit": strobe.circuit,
        "guide_number_m": f"{strobe.guide_number_m:g} m",
        "energy_ws": "",
        "min_power": "",
        "full_recycle_s": "",
        "recycle_floor_s": "0 s",
        "hss_loss_stops": "0",
        "notes": "",
        "setting-mode": [row.mode for row in rows],
        "setting-power": ["full" if row.power == 1 else f"1/{1 / row.power:g}" for row in rows],
        "setting-t01": [f"{row.t01_s * 1e6:g} us" if row.t01_s else "" for row in rows],
        "setting-t05": [f"{row.t05_s * 1e6:g} us" if row.t05_s else "" for row in rows],
        "setting-provenance": [row.provenance for row in rows],
    }
    return {**data, **changes}


@pytest.fixture
def strobe(owner) -> Strobe:
    made = Strobe.objects.create(owner=owner, name="Test head", guide_number_m=40)
    services.replace_settings(made, [{"power": 1.0, "t01_s": 0.0031234567, "provenance": "measured"}])
    return made


def test_the_starter_kit_is_the_owners_own(kit, stranger) -> None:
    names = set(Strobe.objects.visible_to(kit).values_list("name", flat=True))
    assert names == {"Monobloc 600 quenched", "Hot-shoe 60", "Bank pack 2400", "Old voltage monobloc 500"}
    assert not Strobe.objects.visible_to(stranger).exists()
    for one in Strobe.objects.visible_to(kit):
        CoreStrobe.model_validate(one.to_core())


def table(strobe: Strobe, *left_out: int) -> dict[str, list[str]]:
    """The table as the page posts it, some of its rows emptied."""
    posted: dict[str, list[str]] = {f"setting-{column}": [] for column in ("mode", "power", "t01", "t05", "provenance")}
    for place, row in enumerate(strobe.settings.all()):
        cells = ("", "", "", "", "claimed")
        if place not in left_out:
            shown = [QUANTITIES["duration"].show(each) for each in (row.t01_s, row.t05_s)]
            cells = (row.mode, QUANTITIES["power"].show(row.power), *shown, row.provenance)
        for column, cell in zip(posted, cells, strict=True):
            posted[column].append(cell)
    return posted


def test_what_was_measured_stays_with_its_own_row_while_rows_come_and_go(visitor, kit) -> None:
    strobe = Strobe.objects.get(name="Monobloc 600 quenched")
    for number, row in enumerate(strobe.settings.all()):
        row.cct_k, row.t01_s = 5000.0 + number, row.t01_s * 1.0000001  # digits that no field shows
        row.save()
    before = {(row.mode, row.power): (row.cct_k, row.t01_s) for row in strobe.settings.all()}
    url = reverse("kit:edit", args=["strobes", strobe.pk])
    facts = {
        "name": strobe.name,
        "circuit": "quenched",
        "guide_number_m": "60 m",
        "recycle_floor_s": "20 ms",
        "hss_loss_stops": "0.7",
    }
    emptied = table(strobe, 1, 4)
    for _ in range(2):  # the page goes on showing the emptied rows, and posts them again
        answer = visitor.post(url, {**facts, **emptied})
        assert answer.status_code == 200, answer.content.decode()[:400]
    after = {(row.mode, row.power): (row.cct_k, row.t01_s) for row in strobe.settings.all()}
    assert len(after) == len(before) - 2
    assert all(before[key] == value for key, value in after.items())


def test_measured_light_colour_and_price_survive_csv_and_json(kit) -> None:
    strobe = Strobe.objects.get(name="Hot-shoe 60")
    Strobe.objects.filter(pk=strobe.pk).update(price=349.0, battery_pops=220.0)
    strobe.settings.update(light_stops=-0.07, cct_k=5612.5, duv=-0.0013)
    document = exchange.document_of(kit)
    one = next(each for each in document["strobes"] if each["name"] == "Hot-shoe 60")
    text = exchange.to_csv(KINDS["strobes"], exchange.items_of(KINDS["strobes"], kit))
    again = next(each for each in exchange.from_csv(text)["strobes"] if each["name"] == "Hot-shoe 60")
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
    text = exchange.to_csv(kind, exchange.items_of(kind, kit))
    services.store_document(stranger, exchange.from_csv(text))
    assert exchange.to_csv(kind, exchange.items_of(kind, stranger)) == text


def test_a_csv_template_is_its_header() -> None:
    assert exchange.to_csv(KINDS["lenses"], []) == "name,focal_length_mm,widest_f_number,nearest_m,notes\n"


def test_everything_wrong_in_a_csv_is_told_at_once(owner) -> None:
    text = "name,loss_stops,source_size_m,notes\nSoftbox,much,0.9,\n,1,0.5,\nGrid,1,2,3,4\nFine,1,0.1,\n"
    with pytest.raises(DocumentError) as caught:
        services.store_document(owner, exchange.from_csv(text))
    told = [str(problem) for problem in caught.value.problems]
    assert told[0] == "row 2, loss_stops: “much” is not a number in SI units with a decimal point"
    assert told[1] == "row 3.name: must not be empty"
    assert told[2] == "row 4: has 5 cells, the header has 4"
    assert not Modifier.objects.exists(), "nothing is half imported"


def test_an_unknown_header_answers_with_the_known_ones() -> None:
    with pytest.raises(DocumentError, match="modifiers: name,loss_stops,source_size_m,notes"):
        exchange.from_csv("what,is,this\n1,2,3\n")


def test_a_text_that_a_spreadsheet_would_run_stays_a_text(owner) -> None:
    Modifier.objects.create(owner=owner, name="=2+3", loss_stops=1)
    text = exchange.to_csv(KINDS["modifiers"], Modifier.objects.all())
    assert "'=2+3" in text
    assert exchange.from_csv(text)["modifiers"][0]["name"] == "=2+3"


@pytest.mark.parametrize(
    ("document", "says"),
    [
        ([], "this is not a kit document"),
        ({"format": "rapzel.kit", "version": 2}, "reads version 1"),
        ({"format": "rapzel.kit", "version": 1, "lenses": {}}, "lenses: must be a list"),
        ({"format": "rapzel.kit", "version": 1, "tripods": []}, "tripods: unknown key"),
        (
            {"format": "rapzel.kit", "version": 1, "strobes": [{"name": "A", "circuit": "quenched"}]},
            r"strobes\[0\].guide_number_m",
        ),
        (
            {"format": "rapzel.kit", "version": 1, "lenses": [{"name": " ", "focal_length_mm": 50}]},
            r"lenses\[0\].name: must not be empty",
        ),
    ],
)
def test_a_wrong_kit_document_is_refused_by_path(owner, document, says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        services.store_document(owner, document)


def test_import_page_says_what_is_wrong_and_adds_nothing(visitor) -> None:
    file = BytesIO(b'{"format": "rapzel.kit", "version": 1, "lenses": [{"name": "A", "focal_length_mm": -5}]}')
    file.name = "kit.json"
    shown = visitor.post(reverse("kit:import"), {"file": file}, follow=True).content.decode()
    assert "lenses[0].focal_length_mm: Input should be greater than 0" in shown
    assert "Nothing was imported." in shown


def test_changes_are_saved_at_once_and_answered(visitor, strobe) -> None:
    url = reverse("kit:edit", args=["strobes", strobe.pk])
    answer = visitor.post(url, strobe_post(strobe, name="Renamed", guide_number_m="197 ft"))
    assert answer.status_code == 200
    assert "Saved." in answer.content.decode()
    strobe.refresh_from_db()
    assert strobe.name == "Renamed"
    assert strobe.guide_number_m == pytest.approx(60.0456)


def test_a_value_that_is_only_shown_keeps_its_digits(visitor, strobe) -> None:
    posted = strobe_post(strobe, **{"setting-t01": ["3.12 ms"], "setting-power": ["full"]})  # as the page shows it
    assert visitor.post(reverse("kit:edit", args=["strobes", strobe.pk]), posted).status_code == 200
    assert strobe.settings.get().t01_s == 0.0031234567


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"guide_number_m": "big"}, "“big” is not a length"),
        ({"guide_number_m": "0"}, "Input should be greater than 0"),
        ({"setting-power": ["2"]}, "Row 1: “2” is not a power between nothing and full"),
        ({"setting-t01": ["0.5 ms"], "setting-t05": ["1 ms"]}, "Row 1: t05_s must not be longer"),
        ({"setting-t01": [""], "setting-t05": [""]}, "Row 1: give t01_s, t05_s or both"),
        ({"setting-power": [""], "setting-t01": [""]}, "A strobe needs at least one setting"),
        ({"setting-provenance": ["guessed"]}, "Row 1: Input should be"),
        ({"name": ""}, "Name: This field is required."),
    ],
)
def test_a_wrong_entry_is_said_and_nothing_is_stored(visitor, strobe, changes, says: str) -> None:
    answer = visitor.post(
        reverse("kit:edit", args=["strobes", strobe.pk]), strobe_post(strobe, **{"energy_ws": "500", **changes})
    )
    assert answer.status_code == 422
    assert says in answer.content.decode()
    strobe.refresh_from_db()
    assert (strobe.energy_ws, strobe.settings.get().t01_s) == (None, 0.0031234567)


def test_the_same_power_twice_is_refused(visitor, strobe) -> None:
    twice = {
        "setting-mode": ["", ""],
        "setting-power": ["1/2", "1/2"],
        "setting-t01": ["1 ms", "2 ms"],
        "setting-t05": ["", ""],
        "setting-provenance": ["claimed", "claimed"],
    }
    shown = visitor.post(
        reverse("kit:edit", args=["strobes", strobe.pk]), strobe_post(strobe, **twice)
    ).content.decode()
    assert "Row 2: this power is in the table twice" in shown


@pytest.mark.parametrize("slug", KINDS)
def test_every_kind_is_added_edited_removed_and_taken_back(visitor, owner, slug: str) -> None:
    answer = visitor.post(reverse("kit:add", args=[slug]), follow=True)
    assert answer.status_code == 200
    item = KINDS[slug].model.objects.visible_to(owner).get()
    shown = visitor.post(reverse("kit:remove", args=[slug, item.pk]), follow=True).content.decode()
    assert "was removed from the kit" in shown
    assert not KINDS[slug].model.objects.visible_to(owner).exists()
    visitor.post(reverse("kit:take_back", args=[slug, item.pk]))
    assert KINDS[slug].model.objects.visible_to(owner).get() == item


def test_a_camera_that_the_core_refuses_is_refused_on_its_field(visitor, owner) -> None:
    camera = Camera.objects.create(owner=owner, name="Body")
    data = {key: getattr(camera, key) or "" for key in ("name", *Camera.CORE_KEYS)}
    answer = visitor.post(
        reverse("kit:edit", args=["cameras", camera.pk]),
        {**data, "sensor_width_mm": "-36", "lag_s": "0", "lag_jitter_s": "0", "curtain_travel_s": "0"},
    )
    assert "Sensor width, mm: Input should be greater than 0" in answer.content.decode()


def test_unknown_kinds_are_not_found(visitor) -> None:
    assert visitor.get("/kit/tripods/1/").status_code == 404
