"""What a scene's pages show: bars, views, the rehearsal, snapshots and run sheets."""

import re
from io import BytesIO
from urllib.parse import urlencode
from xml.etree import ElementTree

import pytest
from django.urls import reverse
from pypdf import PdfReader

from rapzel.shoots import services
from rapzel.ui.margins import MarginView
from rapzel.workbench.answer import Answer
from tests.apps.asking import put, stored


def test_bars_stand_on_the_line_or_hang_from_it(document) -> None:
    margins = {
        view.margin.name: view
        for view in map(MarginView, Answer(document).evaluation.margins)
    }
    assert margins["ghost"].bar_y + margins["ghost"].bar_px == pytest.approx(34)
    assert margins["light"].bar_y == 34
    assert margins["pace"].bar_px == 0, (
        "no rate is asked, so there is nothing to be above or below"
    )
    timing = margins["timing"]
    assert (timing.figure, timing.unit, timing.verdict, timing.bar_px) == (
        "?",
        "not known",
        "not known",
        0,
    )
    judged = Answer(
        {
            **document,
            "moment": {"at_s": 0.0554},
            "criterion": {"kind": "pixels", "pixels": 9.0},
        }
    )
    landing = MarginView(judged.evaluation.margin("timing"))
    assert (landing.figure, landing.unit) == ("100", "% land")
    (band,) = margins["light"].bands
    assert band == (pytest.approx(34 - 26 / 9), pytest.approx(52 / 9)), (
        "a third of a stop either way"
    )
    top, bottom = margins["light"].whisker
    assert bottom - top == pytest.approx(2 * margins["light"].margin.doubt / 3 * 26)
    assert (
        margins["light"].figure,
        margins["light"].unit,
        margins["light"].verdict,
    ) == (
        "−0.5",
        "stops",
        "probably does not work",
    )


@pytest.mark.parametrize("name", ["pulse", "curtain", "ladder", "chain"])
def test_views_come_with_their_table(visitor, scene, name: str) -> None:
    answer = visitor.get(reverse("workbench:view", args=[scene.pk, name]))
    shown = answer.content.decode()
    assert 'role="img"' in shown
    assert "<summary>As a table</summary>" in shown
    assert shown.count("<tr>") > 1
    assert answer.cookies["view"].value == name


def test_an_unknown_view_is_not_found(visitor, scene) -> None:
    assert (
        visitor.get(reverse("workbench:view", args=[scene.pk, "soup"])).status_code
        == 404
    )


@pytest.mark.parametrize("name", ["ribbon", "pulse", "curtain", "ladder", "chain"])
def test_figures_leave_as_svg_that_stands_alone(visitor, scene, name: str) -> None:
    content = visitor.get(reverse("workbench:drawing", args=[scene.pk, name])).content
    root = ElementTree.fromstring(content)
    shapes = [
        each
        for each in root.iter()
        if each.tag.endswith(("rect", "line", "polygon", "polyline", "text"))
    ]
    assert all("fill" in each.attrib or "stroke" in each.attrib for each in shapes), (
        "no style sheet reaches into a file"
    )


@pytest.mark.parametrize(("kind", "magic"), [("jpg", b"\xff\xd8"), ("png", b"\x89PNG")])
def test_the_rehearsal_is_a_picture(visitor, scene, kind: str, magic: bytes) -> None:
    answer = visitor.get(reverse("workbench:rehearsal", args=[scene.pk, kind]))
    assert answer.content.startswith(magic)
    assert "no-store" in answer["Cache-Control"], (
        "without the scene's fingerprint it may be another picture tomorrow"
    )
    fingerprint = Answer(stored(scene)).fingerprint
    kept = visitor.get(
        reverse("workbench:rehearsal", args=[scene.pk, kind]), {"v": fingerprint}
    )
    assert kept["Cache-Control"] == "private, max-age=3600, immutable"
    assert kept.content == answer.content
    put(visitor, scene, "exposure.iso", "800")
    stale = visitor.get(
        reverse("workbench:rehearsal", args=[scene.pk, kind]), {"v": fingerprint}
    )
    assert "no-store" in stale["Cache-Control"]
    assert stale.content != kept.content


def test_snapshots_are_compared_and_can_be_taken_back(visitor, scene) -> None:
    visitor.post(reverse("workbench:pin", args=[scene.pk]), {"name": "Before"})
    services.change_scene(scene, {"exposure.iso": 1600.0})
    shown = visitor.get(reverse("workbench:compare", args=[scene.pk])).content.decode()
    assert "Before" in shown
    assert re.search(r"ISO</th><td>1600</td><td>200</td>", shown)
    snapshot = scene.snapshots.get()
    assert (
        visitor.get(
            reverse("workbench:snapshot_picture", args=[scene.pk, snapshot.pk])
        ).content[:2]
        == b"\xff\xd8"
    )
    notice = visitor.post(
        reverse("workbench:unpin", args=[scene.pk, snapshot.pk]), follow=True
    ).content.decode()
    assert reverse("workbench:repin", args=[scene.pk, snapshot.pk]) in notice
    assert "What differs" not in notice
    visitor.post(reverse("workbench:repin", args=[scene.pk, snapshot.pk]))
    assert (
        "What differs"
        in visitor.get(reverse("workbench:compare", args=[scene.pk])).content.decode()
    )


def test_run_sheets(visitor, scene) -> None:
    services.change_scene(scene, {"hazards": ["glass"]})
    paper = visitor.get(reverse("workbench:sheet", args=[scene.pk])).content.decode()
    phone = visitor.get(
        f"{reverse('workbench:sheet', args=[scene.pk])}?{urlencode({'phone': ''})}"
    ).content.decode()
    for sheet in (paper, phone):
        for must in (
            "Black frame",
            "Flash only",
            "Both, subject still",
            "Trigger dry run",
            "Broken glass",
            "1/16",
            "1/200",
        ):
            assert must in sheet
    assert "How often it lands is not known: state the moment first." in " ".join(
        paper.split()
    )
    services.change_scene(
        scene,
        {"moment.at_s": 0.0554, "criterion.pixels": 9.0, "plan.keepers_wanted": 3},
    )
    timed = visitor.get(reverse("workbench:sheet", args=[scene.pk])).content.decode()
    said = " ".join(timed.split())
    assert (
        "3 keepers: by timing alone 3 tries on half of all days, 3 on nineteen" in said
    )
    assert "Plan for 3 tries, 3 minutes." in said
    pdf = visitor.get(reverse("workbench:sheet_pdf", args=[scene.pk])).content
    assert pdf.startswith(b"%PDF")
    read = PdfReader(BytesIO(pdf))
    assert len(read.pages) == 1
    for must in (
        "Black frame",
        "1/200 s",
        "Broken glass",
        "Local rules and licensed people come first",
    ):
        assert must in read.pages[0].extract_text()
