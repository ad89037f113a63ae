"""One way through: every page says what it answers and what comes next; every page of a scene has its strip."""

import re
from collections.abc import Iterator

import pytest
from django.test import Client
from django.urls import reverse

from rapzel.core.document.places import changed
from rapzel.core.motion import KINDS as MOTIONS
from rapzel.core.trigger.links import KINDS as LINKS
from rapzel.shoots.services import NEW_CRITERION, NEW_SCENE
from rapzel.ui.ways import HOUSE, PAGES
from rapzel.ui.words import word_of_input, word_of_margin, words
from rapzel.workbench.answer import answered
from rapzel.workbench.groups import LOOKS, all_fields, groups_of
from rapzel.workbench.way import STEPS
from tests.apps.test_view_drawings import YARD
from tests.contracts.test_every_page import MINE, OWN
from tests.plans import LUNGE

# Parts of pages, files and pictures: what is asked for as a whole page is all the rest.
_NO_PAGES = re.compile(
    r"json|csv|svg|picture|drawing|pdf|original|data$|rehearsal|plan_picture|speeds|everything|answer|pairs|view$|"
    r"new_row|work_out|:unit$|wanted|schema"
)
SHOWN = [
    (name, about)
    for name, method, about in OWN + MINE
    if method == "GET" and not _NO_PAGES.search(name)
]
_TEXT = re.compile(r"<[^>]+>")


def shown(client: Client, address, name: str, about: str) -> str:
    return client.get(address(name, about)).content.decode()


def first_line(page: str) -> str:
    """What a page says it answers; the plan says it by answering."""
    found = re.search(r'class="(?:first-line|sentence)"[^>]*>(.*?)</p>', page, re.S)
    return _TEXT.sub("", found[1]).strip() if found else ""


def test_every_page_says_what_it_answers_and_leads_on(visitor, kit, address) -> None:
    visitor.get(address("finding:find", "scene"))
    wrong = []
    for name, about in SHOWN:
        page = shown(visitor, address, name, about)
        if len(first_line(page)) < 10:
            wrong.append(f"{name} does not say what it answers")
        if len(re.findall(r'class="next"', page)) != 1:
            wrong.append(f"{name} does not lead on")
    assert wrong == []


def test_every_page_of_a_scene_has_the_same_strip_and_marks_where_one_is(
    visitor, kit, address, scene
) -> None:
    expected = [step.title for step in STEPS]
    for step in STEPS:
        page = shown(visitor, address, step.view, "scene")
        strip = page[
            page.index('id="steps"') : page.index("</nav>", page.index('id="steps"'))
        ]
        links = re.findall(r"<a ([^>]*)>\s*([^<]*?)\s*<", strip)
        assert [title for _, title in links] == expected, step.key
        current = [title for told, title in links if 'aria-current="page"' in told]
        assert current == [step.title]


def test_pages_beside_the_strip_belong_to_one_of_its_pages(
    visitor, kit, address
) -> None:
    for name, about in (
        ("workbench:cutout", "scene"),
        ("tools:scene_index", "scene"),
        ("finding:set_up", "scene finding hits 0"),
    ):
        page = shown(visitor, address, name, about)
        assert 'id="steps"' in page, name
        assert page.count('aria-current="true"') == 2, f"{name}: house and strip"


def test_the_house_is_the_same_on_every_page(visitor, kit, address) -> None:
    expected = [place.title for place in HOUSE]
    for name, about in SHOWN:
        page = shown(visitor, address, name, about)
        house = page[page.index('id="house"') : page.index('class="house-ends"')]
        assert re.findall(r">([^<>\s][^<>]*)</a>", house) == expected, name


def test_every_address_that_is_told_leads_somewhere() -> None:
    """A page that leads to an address that is not there would fail only when it is shown."""
    for view, page in PAGES.items():
        if page.next_view:
            assert reverse(page.next_view), view


# --- the words of the interface ---


def documents() -> Iterator[dict]:
    """Scenes that between them have every input."""
    for kind, motion in MOTIONS.items():
        yield {**NEW_SCENE, "motion": {"kind": kind, **motion.beginning}}
    links = [{"kind": kind, **link.beginning} for kind, link in LINKS.items()]
    for link in links:
        yield {**NEW_SCENE, "trigger": {**NEW_SCENE["trigger"], "links": [link]}}
    for kind in ("print", "viewing"):
        yield {**NEW_SCENE, "criterion": NEW_CRITERION[kind]}
    for look, _ in LOOKS:
        yield {**NEW_SCENE, "look": {"room": look}}
    meter = {"f_number": 4.0, "shutter_s": 0.01, "iso": 400.0}
    for ambient in ({"meter": meter}, {"lux": 100.0}, {"sky": YARD}):
        yield {**NEW_SCENE, "ambient": ambient}
    flicker = {"frequency_hz": 300.0, "depth": 1.0, "lit_share": 0.5}
    yield {**NEW_SCENE, "ambient": {"ev100": 5.0, "flicker": flicker}}
    yield {**NEW_SCENE, "lamps": [{"lux_1m": 800.0, "distance_m": 2.0}]}
    yield changed(NEW_SCENE, {"exposure.method": "long_pulse", "exposure.panning": {}})
    yield changed(LUNGE, {"exposure.frames_per_s": 5.0})


@pytest.mark.parametrize(
    "margin", [each.name for each in answered(NEW_SCENE).evaluation.margins]
)
def test_every_tile_is_explained(margin: str) -> None:
    assert word_of_margin(margin), margin


# Inputs whose label says all there is to say, by their last name.
SAID_BY_THEMSELVES = {"name"}


def test_every_input_has_its_word() -> None:
    lacking = set()
    for document in documents():
        for field in all_fields(groups_of(document)):
            if word_of_input(field.path) is None:
                lacking.add(re.sub(r"\[[^\]]*\]", "[]", field.path))
    assert {
        path for path in lacking if path.split(".")[-1] not in SAID_BY_THEMSELVES
    } == set()


def test_a_word_is_short_enough_to_be_read_in_place() -> None:
    assert {word.key for word in words().values() if len(word.says) > 260} == set()
    assert all(word.says.endswith(".") for word in words().values())
