"""Gear from its class: a figure is a line there, and everything else follows."""

import threading

import pytest
from django.db import IntegrityError, connection, transaction
from django.test import Client
from django.urls import reverse

from rapzel.core.shared.part import shown
from rapzel.kit import exchange, figures
from rapzel.kit.kinds import KINDS
from rapzel.kit.models import Camera, Lens, Strobe
from rapzel.kit.parts import KitLens, figures_of


@pytest.mark.parametrize("slug", KINDS)
def test_every_figure_of_a_class_is_an_attribute_of_its_row(owner, slug: str) -> None:
    kind = KINDS[slug]
    item = kind.model.objects.create(owner=owner, name="Mine")
    again = kind.model.objects.get(pk=item.pk)
    assert set(again.figures) == set(figures_of(kind.part)), (
        "a new row has all that it begins with"
    )
    for name in figures_of(kind.part):
        assert getattr(again, name) == again.USUAL[name]
    assert set(kind.form(instance=again).fields) == {"name", *kind.inputs, "notes"}
    assert set(kind.columns) <= set(kind.inputs)


def test_a_new_figure_is_a_line_in_the_class(owner) -> None:
    """Rows that were stored before have what the class takes for it, until it is said."""
    old = Lens.objects.create(owner=owner, name="50 mm", focal_length_mm=50.0)

    class Wider(KitLens):
        weight_kg: float = shown(0.4, "Weight, kg", "number", ge=0.01, le=100)

    model = figures.with_figures(Wider, focal_length_mm=50.0)(
        type("Row", (), {"figures": old.figures})
    )
    row = model()
    assert row.weight_kg == 0.4
    row.weight_kg = 1
    assert (row.weight_kg, row.figures["weight_kg"]) == (1.0, 1)
    assert row.focal_length_mm == 50.0


def test_what_is_changed_in_one_row_is_not_what_the_next_begins_with(owner) -> None:
    body = Camera.objects.create(owner=owner, name="Body")
    body.drives.append({"name": "High", "frames_per_s": 12.0})
    Camera(owner=owner, name="Unsaved").drives.append("another")
    assert Camera.objects.create(owner=owner, name="Another").drives == []


def test_figures_are_an_object_whoever_writes_them(owner) -> None:
    lens = Lens.objects.create(owner=owner, name="50 mm")
    with pytest.raises(IntegrityError), transaction.atomic():
        Lens.objects.filter(pk=lens.pk).update(figures=[1, 2])


def test_a_whole_number_in_the_row_stands_for_a_figure_with_decimals(owner) -> None:
    body = Camera.objects.create(owner=owner, name="Body")
    Camera.objects.filter(pk=body.pk).update(
        figures={**body.figures, "sensor_width_mm": 36}
    )
    body.refresh_from_db()
    assert isinstance(body.sensor_width_mm, float)
    assert isinstance(body.pixels_wide, int)


@pytest.mark.django_db(transaction=True)
def test_two_fields_saved_at_once_both_stand(owner) -> None:
    """They share a column: the second must not write the first away."""
    strobe = Strobe.objects.create(owner=owner, name="Flash")
    address = reverse("kit:edit", args=["strobes", strobe.pk])
    values = {
        "energy_ws": "600",
        "price": "349",
        "battery_pops": "220",
        "full_recycle_s": "0.9 s",
    }
    together = threading.Barrier(len(values))

    def save(name: str, value: str) -> None:
        client = Client()
        client.force_login(owner)
        together.wait()
        client.post(address, {"field": name, name: value})
        connection.close()

    threads = [threading.Thread(target=save, args=pair) for pair in values.items()]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    strobe.refresh_from_db()
    found = (strobe.energy_ws, strobe.price, strobe.battery_pops, strobe.full_recycle_s)
    assert found == (600.0, 349.0, 220.0, 0.9)


def test_the_columns_of_a_file_may_stand_in_any_order() -> None:
    """And files of earlier versions lack those that came later."""
    header = exchange.csv_header(KINDS["lenses"])
    line = {
        "name": "50 mm",
        "focal_length_mm": "50",
        "widest_f_number": "1.4",
        "nearest_m": "0.4",
        "notes": "",
    }
    turned = list(reversed(header))
    text = f"{','.join(turned)}\n{','.join(line[name] for name in turned)}\n"
    (lens,) = exchange.from_csv(text)["lenses"]
    assert lens["focal_length_mm"] == 50.0
    (short,) = exchange.from_csv("name,focal_length_mm\n85 mm,85\n")["lenses"]
    assert short == {"name": "85 mm", "focal_length_mm": 85.0}
