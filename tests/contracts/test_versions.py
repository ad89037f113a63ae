"""Versions: what the changes tell is what the package says it is."""

import re
import tomllib
from itertools import pairwise
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
_HEADING = re.compile(
    r"^## (?:(\d+)\.(\d+)\.(\d+) \((\d{4}-\d{2}-\d{2})\)|Unreleased)$", re.MULTILINE
)


def test_the_newest_version_of_the_changes_is_that_of_the_package() -> None:
    changes = (ROOT / "CHANGELOG.md").read_text()
    headings = re.findall(r"^## .*$", changes, re.MULTILINE)
    told = [match for match in map(_HEADING.match, headings) if match]
    assert len(told) == len(headings), (
        "a heading is a version with its day, or “Unreleased”"
    )
    versions = [tuple(map(int, match.groups()[:3])) for match in told if match[1]]
    assert all(newer > older for newer, older in pairwise(versions))
    package = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["version"]
    assert package == ".".join(map(str, versions[0]))
