from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection
from django.urls import reverse

from rapzel.core.document.gear import Strobe as CoreStrobe
from rapzel.core.shared.errors import UnitError
from rapzel.kit import services
from rapzel.kit.drives import dressed, parsed
from rapzel.kit.kinds import KINDS
from rapzel.kit.models import Camera, Strobe
from rapzel.ui.inputs import QUANTITIES


def put(visitor, item, name: str, value: str, slug: str = "strobes"):
    """Posts one field, as the page does when it is changed."""
    return visitor.post(
        reverse("kit:edit", args=[slug, item.pk]), {"field": name, name: value}
    )


def put_row(visitor, strobe: Strobe, key: str, **cells: str):
    """Posts one row of the table, as the page does."""
    typed = {
        "mode": "",
        "power": "",
        "t01": "",
        "t05": "",
        "provenance": "claimed",
        **cells,
    }
    return visitor.post(reverse("kit:set_row", args=[strobe.pk]), {"key": key, **typed})


def shown(setting) -> dict[str, str]:
    """The cells of a stored row, as the page shows them."""
    times = {
        cell: QUANTITIES["duration"].show(getattr(setting, f"{cell}_s"))
        for cell in ("t01", "t05")
    }
    power = QUANTITIES["power"].show(setting.power)
    return {
        "mode": setting.mode,
        "power": power,
        **times,
        "provenance": setting.provenance,
    }


@pytest.fixture
def strobe(owner) -> Strobe:
    made = Strobe.objects.create(owner=owner, name="Test head", guide_number_m=40)
    services.replace_settings(
        made, [{"power": 1.0, "t01_s": 0.0031234567, "provenance": "measured"}]
    )
    return made


def test_the_starter_kit_is_the_owners_own(kit, stranger) -> None:
    names = set(Strobe.objects.visible_to(kit).values_list("name", flat=True))
    assert names == {
        "Monobloc 600 quenched",
        "Hot-shoe 60",
        "Bank pack 2400",
        "Old voltage monobloc 500",
    }
    assert not Strobe.objects.visible_to(stranger).exists()
    for one in Strobe.objects.visible_to(kit):
        CoreStrobe.model_validate(one.to_core())


def test_what_was_measured_stays_with_its_own_row_while_rows_come_and_go(
    visitor, kit
) -> None:
    strobe = Strobe.objects.get(name="Monobloc 600 quenched")
    for number, row in enumerate(strobe.settings.all()):
        # digits that no field shows
        row.cct_k, row.t01_s = 5000.0 + number, row.t01_s * 1.0000001
        row.save()
    rows = list(strobe.settings.all())
    before = {row.key: (row.cct_k, row.t01_s) for row in rows}
    for gone in (rows[1], rows[4]):
        # the page goes on showing the emptied row, and posts it again
        for _ in range(2):
            assert put_row(visitor, strobe, gone.key).status_code == 200
    assert (
        put_row(
            visitor, strobe, rows[0].key, **{**shown(rows[0]), "provenance": "measured"}
        ).status_code
        == 200
    )
    after = {row.key: (row.cct_k, row.t01_s) for row in strobe.settings.all()}
    assert set(after) == set(before) - {rows[1].key, rows[4].key}
    assert all(before[key] == value for key, value in after.items())
    services.undo_table(strobe)
    services.undo_table(strobe)
    assert rows[4].key in {row.key for row in strobe.settings.all()}, (
        "a row that comes back is the row it was"
    )


def test_a_stale_page_wipes_no_row_that_was_measured_meanwhile(visitor, strobe) -> None:
    services.merge_settings(
        strobe,
        [{"mode": "", "power": 0.25, "t01_s": 2e-4, "provenance": "measured"}],
        "measured",
    )
    stale = strobe.settings.get(power=1.0)
    put_row(visitor, strobe, stale.key, power="full", t01="3 ms", provenance="claimed")
    put(visitor, strobe, "notes", "typed on a page that is old")
    assert strobe.settings.get(power=0.25).t01_s == 2e-4


def test_a_row_is_judged_when_it_is_complete(visitor, strobe) -> None:
    begun = put_row(visitor, strobe, "n1", power="1/2")
    assert begun.status_code == 200
    assert "counts once it has a power and a t.1 or t.5" in begun.content.decode()
    assert strobe.settings.count() == 1
    assert put_row(visitor, strobe, "n1", power="1/2", t01="1 ms").status_code == 200
    assert (
        put_row(
            visitor, strobe, "n1", power="1/2", t01="1 ms", t05="0.4 ms"
        ).status_code
        == 200
    )
    assert strobe.settings.get(key="n1").t05_s == 4e-4
    assert strobe.settings.count() == 2
    assert (
        put_row(visitor, strobe, "not a key!", power="1/2", t01="1 ms").status_code
        == 404
    )


def test_a_new_strobe_claims_nothing(visitor, owner) -> None:
    visitor.post(reverse("kit:add", args=["strobes"]), {"name": "New strobe"})
    strobe = Strobe.objects.visible_to(owner).get()
    assert (strobe.guide_number_m, strobe.settings.count()) == (None, 0)
    page = visitor.get(
        reverse("kit:edit", args=["strobes", strobe.pk])
    ).content.decode()
    assert "leave it out until it has a guide number and a setting in its table" in page
    assert (
        "no strobe with a duration yet"
        in visitor.get(reverse("kit:compare")).content.decode()
    )
    put(visitor, strobe, "guide_number_m", "40 m")
    assert (
        "has a setting in its table"
        in put_row(visitor, strobe, "n1", power="full").content.decode()
    )
    put_row(visitor, strobe, "n1", power="full", t01="1 ms")
    assert "New strobe" in visitor.get(reverse("kit:compare")).content.decode()


@pytest.mark.django_db(transaction=True)
def test_two_writers_at_once_do_not_double_a_row(kit) -> None:
    strobe = Strobe.objects.get(name="Hot-shoe 60")
    row = {"mode": "", "power": 1 / 3, "t01_s": 1e-4, "provenance": "measured"}

    def write(_: int) -> None:
        try:
            services.merge_settings(
                Strobe.objects.get(pk=strobe.pk), [row], "measured twice"
            )
        finally:
            connection.close()

    with ThreadPoolExecutor(8) as pool:
        list(pool.map(write, range(8)))
    assert strobe.settings.filter(power=1 / 3).count() == 1


def test_changes_are_saved_at_once_and_answered(visitor, strobe) -> None:
    answer = put(visitor, strobe, "guide_number_m", "197 ft")
    assert answer.status_code == 200
    assert "Saved." in answer.content.decode()
    assert put(visitor, strobe, "name", "Renamed").status_code == 200
    strobe.refresh_from_db()
    assert strobe.name == "Renamed"
    assert strobe.guide_number_m == pytest.approx(60.0456)


def test_a_value_that_is_only_shown_keeps_its_digits(visitor, strobe) -> None:
    row = strobe.settings.get()
    assert (
        put_row(
            visitor, strobe, row.key, power="full", t01="3.12 ms", provenance="measured"
        ).status_code
        == 200
    )
    assert strobe.settings.get().t01_s == 0.0031234567


@pytest.mark.parametrize(
    ("name", "value", "says"),
    [
        ("guide_number_m", "big", "“big” is not a length"),
        (
            "guide_number_m",
            "0",
            "Guide number, ISO 100: Must be 0.01 or more (given: 0.0).",
        ),
        ("name", "", "Name: This field is required."),
        ("min_power", "2", "“2” is not a power between nothing and full"),
    ],
)
def test_a_wrong_entry_is_said_and_nothing_is_stored(
    visitor, strobe, name: str, value: str, says: str
) -> None:
    before = Strobe.objects.filter(pk=strobe.pk).values().get()
    answer = put(visitor, strobe, name, value)
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert Strobe.objects.filter(pk=strobe.pk).values().get() == before


@pytest.mark.parametrize(
    ("cells", "says"),
    [
        (
            {"power": "2", "t01": "1 ms"},
            "Power: “2” is not a power between nothing and full",
        ),
        (
            {"power": "1/2", "t01": "0.5 ms", "t05": "1 ms"},
            "Not saved. t.5 must not be longer than t.1",
        ),
        (
            {"power": "1/2", "t01": "1 ms", "provenance": "guessed"},
            "Provenance: Select a valid choice",
        ),
        (
            {"power": "full", "t01": "1 ms", "provenance": "measured"},
            "This power is in the table already",
        ),
        ({"power": "1/2", "t01": "soon"}, "t.1: “soon” is not a duration"),
    ],
)
def test_a_wrong_row_is_said_and_the_table_stays(
    visitor, strobe, cells, says: str
) -> None:
    answer = put_row(visitor, strobe, "n1", **cells)
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert strobe.settings.get().t01_s == 0.0031234567


@pytest.mark.parametrize("slug", KINDS)
def test_every_kind_is_added_edited_removed_and_taken_back(
    visitor, owner, slug: str
) -> None:
    answer = visitor.post(
        reverse("kit:add", args=[slug]), {"name": "Mine"}, follow=True
    )
    assert answer.status_code == 200
    item = KINDS[slug].model.objects.visible_to(owner).get()
    shown = visitor.post(
        reverse("kit:remove", args=[slug, item.pk]), follow=True
    ).content.decode()
    assert "was removed from the kit" in shown
    assert not KINDS[slug].model.objects.visible_to(owner).exists()
    visitor.post(reverse("kit:take_back", args=[slug, item.pk]))
    assert KINDS[slug].model.objects.visible_to(owner).get() == item


@pytest.mark.parametrize("name", ["", "   "])
def test_nothing_nameless_is_added(visitor, owner, name: str) -> None:
    shown = visitor.post(
        reverse("kit:add", args=["strobes"]), {"name": name}, follow=True
    )
    assert "Give the strobe a name first" in shown.content.decode()
    assert not Strobe.objects.exists()


def test_every_setting_follows_the_table(visitor, owner) -> None:
    """It stayed empty until the page was loaded again."""
    strobe = Strobe.objects.create(owner=owner, name="New", guide_number_m=40.0)
    page = f"http://testserver{reverse('kit:edit', args=['strobes', strobe.pk])}?step=3"
    assert "Its settings stand here once" in visitor.get(page).content.decode()
    url = reverse("kit:set_row", args=[strobe.pk])
    row = {
        "key": "n1",
        "mode": "",
        "power": "full",
        "t01": "1 ms",
        "t05": "",
        "provenance": "claimed",
    }
    asked = {"HX-Request": "true", "HX-Current-URL": page}
    visitor.post(
        url, {**row, "key": "n2", "power": "1/4", "t01": "0.5 ms"}, headers=asked
    )
    answer = visitor.post(url, row, headers=asked).content.decode()
    assert 'id="kit-steps" hx-swap-oob="true"' in answer
    steps = answer.split('id="kit-steps"')[1].split("</table>")[0]
    assert steps.count("<tr>") == 1 + 7, "two stops in thirds, as the page lists them"
    assert "editing the table" in answer.split('id="kit-changes"')[1]


def test_a_camera_that_every_scene_would_refuse_is_refused_on_its_field(
    visitor, owner
) -> None:
    camera = Camera.objects.create(owner=owner, name="Body")
    width = put(visitor, camera, "sensor_width_mm", "-36", "cameras")
    assert (
        "Sensor width, mm: Must be 0.5 or more (given: -36.0)."
        in width.content.decode()
    )
    travel = put(visitor, camera, "curtain_travel_s", "6 ms", "cameras")
    assert travel.status_code == 422
    assert "Curtain travel is longer than the sync speed" in travel.content.decode()
    camera.refresh_from_db()
    assert (camera.sensor_width_mm, camera.curtain_travel_s) == (36.0, None), (
        "travel is not known yet"
    )


def test_unknown_kinds_are_not_found(visitor) -> None:
    assert visitor.get("/kit/tripods/1/").status_code == 404


DRIVE_LINES = (
    "High, electronic; 20/s; rolling; 1/16000 to 1/60; no flash; no HSS; formats compressed raw",
    "Low; 5 frames/s; lens with motor; focus priority",
)


def test_drive_modes_are_lines_that_are_read_again(visitor, owner) -> None:
    camera = Camera.objects.create(owner=owner, name="Body")
    url = reverse("kit:edit", args=["cameras", camera.pk])
    answer = visitor.post(url, {"field": "drives", "drives": "\n".join(DRIVE_LINES)})
    assert answer.status_code == 200
    camera.refresh_from_db()
    first, second = camera.drives
    assert (first["frames_per_s"], first["shutters"], first["flash"]) == (
        20,
        ["rolling"],
        False,
    )
    assert (second["lens"], second["focus_priority"], second["fastest_s"]) == (
        "with motor",
        True,
        None,
    )
    assert parsed(dressed(camera.drives)) == camera.drives
    assert "High, electronic; 20/s; rolling; 1/16" in visitor.get(url).content.decode()


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("High", "a drive mode with its name and rate"),
        ("High; quickly", "a term of a drive mode"),
        ("High; 0/s", "a drive mode"),
        ("; 10/s", "a drive mode with its name and rate"),
    ],
)
def test_a_drive_mode_that_cannot_be_read_says_what_can(line, said) -> None:
    with pytest.raises(UnitError, match=said) as refused:
        parsed(line)
    assert "High; 12/s; focal plane" in str(refused.value)
