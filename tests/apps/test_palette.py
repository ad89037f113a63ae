"""Colours are written once: screens, files and the icon take them from there."""

import re
from pathlib import Path

import pytest

from rapzel.ui import palette
from rapzel.ui.drawing import PAPER, Svg

ROOT = Path(__file__).resolve().parents[2] / "rapzel"
COLOUR = re.compile(r"#[0-9a-fA-F]{6}\b")


def test_every_theme_has_every_token() -> None:
    wanted = set(palette.THEMES["dark"])
    assert all(set(theme) == wanted for theme in palette.THEMES.values())


def test_every_look_ends_in_a_colour_on_screens_and_in_files() -> None:
    styles = palette.styles()
    for name, look in palette.LOOKS.items():
        assert f".{name} {{" in styles
        for attribute in ("fill", "stroke"):
            if attribute in look:
                assert PAPER[name][attribute] == "none" or COLOUR.fullmatch(
                    PAPER[name][attribute]
                )
    named = set(re.findall(r"var\(--([a-z-]+)\)", styles))
    assert named <= set(palette.THEMES["dark"])


def test_a_file_has_literal_colours_and_a_page_has_classes() -> None:
    svg = Svg(10, 10, "A pulse")
    svg.line("flash-line", 0, 0, 10, 10)
    assert 'class="flash-line"' in svg.markup()
    assert f'stroke="{palette.FILE["flash"]}"' in svg.markup(paper=True)
    assert "class=" not in svg.markup(paper=True).replace('class="drawing"', "")


def test_the_icon_wears_the_dark_theme() -> None:
    icon = (ROOT / "ui/static/rapzel/icon.svg").read_text("utf-8")
    dark = palette.THEMES["dark"]
    assert set(COLOUR.findall(icon)) == {dark["ground"], dark["flash"]}


@pytest.mark.parametrize("suffix", ["*.py", "*.js", "*.html"])
def test_no_other_file_has_colours_of_its_own(suffix: str) -> None:
    for path in ROOT.rglob(suffix):
        if "vendor" in path.parts or path.name == "palette.py":
            continue
        assert not COLOUR.search(path.read_text("utf-8")), path
