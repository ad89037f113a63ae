"""What would break the strict policy, or put sums into templates, is found before a browser does."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
TEMPLATES = sorted(ROOT.glob("rapzel/*/templates/**/*.html"))
BANNED = {
    "inline script": re.compile(r"<script(?![^>]*\bsrc=)", re.IGNORECASE),
    "inline style sheet": re.compile(r"<style\b", re.IGNORECASE),
    "style attribute": re.compile(r"\sstyle\s*=", re.IGNORECASE),
    "event attribute": re.compile(
        r"\son(click|load|change|submit|input|error)\s*=", re.IGNORECASE
    ),
    "hx-on, which needs eval": re.compile(r"\shx-on[:=-]"),
    "a trigger filter, which is ignored without eval": re.compile(
        r'hx-trigger="[^"]*\['
    ),
    "js: values, which need eval": re.compile(r"=\s*['\"]js:"),
    "a get of the page's own address, whose old query would be sent again": re.compile(
        r'hx-get=""'
    ),
    "something fetched from elsewhere": re.compile(
        r"(src|href|action|hx-get|hx-post)=\"(https?:)?//"
    ),
    "arithmetic": re.compile(r"widthratio|\|add:\"?-?\d"),
}


def test_there_are_templates() -> None:
    assert len(TEMPLATES) > 20


@pytest.mark.parametrize("path", TEMPLATES, ids=lambda path: path.name)
def test_templates_hold_nothing_banned(path: Path) -> None:
    text = path.read_text("utf-8")
    found = [what for what, pattern in BANNED.items() if pattern.search(text)]
    assert not found


@pytest.mark.parametrize(
    "path",
    [path for path in TEMPLATES if path.name.startswith("_")],
    ids=lambda path: path.name,
)
def test_partials_say_what_they_need(path: Path) -> None:
    assert path.read_text("utf-8").startswith("{# Needs: ")


@pytest.mark.parametrize("path", TEMPLATES, ids=lambda path: path.name)
def test_templates_are_written_in_lines_that_can_be_read(path: Path) -> None:
    long = [
        number
        for number, line in enumerate(path.read_text("utf-8").splitlines(), 1)
        if len(line) > 160
    ]
    assert long == []


def test_the_ui_names_no_apps_class() -> None:
    """What several apps share must not know any of them."""
    names = {
        "Scene",
        "Shoot",
        "Strobe",
        "Trace",
        "Take",
        "Snapshot",
        "DurationSetting",
        "ColourRun",
    }
    for path in [
        *ROOT.glob("rapzel/ui/**/*.py"),
        *ROOT.glob("rapzel/ui/templates/**/*.html"),
    ]:
        found = names & set(
            re.findall(
                r"\b[A-Z][A-Za-z]+\b", re.sub(r'"[^"]*"', "", path.read_text("utf-8"))
            )
        )
        assert not found, f"{path.name} names {found}"


def test_styles_and_scripts_name_no_other_host() -> None:
    scripts = ROOT.glob("rapzel/*/static/*/*.js")
    own = [*ROOT.glob("rapzel/ui/styles/*.scss"), *scripts]
    for path in own:
        if path.parent.name == "vendor":
            continue
        assert not re.search(r"https?://(?!www\.w3\.org)", path.read_text("utf-8")), (
            path.name
        )


def test_locks_name_no_registry() -> None:
    for name in ("requirements/runtime.txt", "requirements/dev.txt"):
        assert "http" not in (ROOT / name).read_text("utf-8"), name
    assert '"resolved"' not in (ROOT / "package-lock.json").read_text("utf-8")
