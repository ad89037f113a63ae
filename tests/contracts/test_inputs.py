"""One layer between what people write and what Rapzel counts with; feet and miles for whom the account says so."""

import ast
from pathlib import Path

import pytest
from django.contrib.auth import get_user_model
from django.urls import reverse

from rapzel.kit.models import Lens
from rapzel.ui import inputs
from rapzel.ui.inputs import person

ROOT = Path(__file__).resolve().parents[2] / "rapzel"
LAYER = ROOT / "ui" / "inputs"
FILES = [
    path
    for path in sorted(ROOT.rglob("*.py"))
    if ROOT / "core" not in path.parents and LAYER not in path.parents
]


def parsers_in(path: Path) -> set[str]:
    """The core's readers of people's texts that a file names."""
    tree = ast.parse(path.read_text("utf-8"))
    named = {node.attr for node in ast.walk(tree) if isinstance(node, ast.Attribute)}
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom) and "shared.units" in (node.module or ""):
            named |= {each.name for each in node.names}
    from rapzel.core.shared import units  # noqa: PLC0415

    readers = {name for name in units.__all__ if name.startswith("parse_")}
    return named & readers


@pytest.mark.parametrize("path", FILES, ids=lambda path: str(path.relative_to(ROOT)))
def test_no_application_reads_quantities_by_itself(path: Path) -> None:
    assert parsers_in(path) == set(), (
        "rapzel.ui.inputs reads them, in the person's units"
    )


def test_a_bare_figure_is_in_the_units_that_a_person_likes() -> None:
    assert inputs.read("length", "4") == pytest.approx(4.0)
    with person.who_likes(feet=True):
        assert inputs.read("length", "4") == pytest.approx(4 * 0.3048)
        assert inputs.read("length", "4 m") == pytest.approx(4.0), (
            "a unit that is said counts"
        )
        assert inputs.read("speed", "60") == pytest.approx(60 * 0.44704)
        assert inputs.shown("length", 3.048) == "10 ft"
    assert inputs.shown("length", 3.0) == "3 m"


@pytest.fixture
def in_feet(client, owner):
    get_user_model().objects.filter(pk=owner.pk).update(imperial=True)
    client.force_login(owner)
    return client


def test_the_kit_is_in_feet(in_feet, owner) -> None:
    lens = Lens.objects.create(
        owner=owner, name="50 mm", focal_length_mm=50.0, nearest_m=0.3048
    )
    address = reverse("kit:edit", args=["lenses", lens.pk])
    assert 'value="1 ft"' in in_feet.get(address).content.decode()
    in_feet.post(address, {"field": "nearest_m", "nearest_m": "2"})
    lens.refresh_from_db()
    assert lens.nearest_m == pytest.approx(0.6096)


def test_tools_are_in_feet_and_keep_every_digit_that_they_do_not_show(
    in_feet, owner
) -> None:
    address = reverse("tools:page", args=["beam"])
    page = in_feet.get(address).content.decode()
    assert " ft" in page
    document = in_feet.get(reverse("tools:json", args=["beam"])).json()["in"]
    metric = get_user_model().objects.filter(pk=owner.pk)
    metric.update(imperial=False)
    assert in_feet.get(reverse("tools:json", args=["beam"])).json()["in"] == document


def test_rows_of_a_tool_are_in_feet(in_feet) -> None:
    asked = {"observations": "360 ms; 0.1"}
    answer = in_feet.post(reverse("tools:page", args=["drops"]), asked)
    assert answer.status_code == 200
    found = in_feet.get(reverse("tools:json", args=["drops"]), asked).json()["in"]
    assert found["observations"][0]["height_m"] == pytest.approx(0.03048)
