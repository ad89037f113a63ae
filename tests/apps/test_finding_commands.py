"""Searches and the comparison of methods as commands: one document out, refusals in words, no database."""

import io
import json
import sys
from pathlib import Path
from typing import Any

import pytest
from django.core.management import CommandError, call_command

from tests.apps.asking import TIGHT
from tests.plans import LUNGE


@pytest.fixture
def run(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> Any:
    """What a command prints for a scene on its standard input. No database is asked: these tests have none."""

    def called(name: str, *options: str, given: Any) -> str:
        monkeypatch.setattr(sys, "stdin", io.StringIO(json.dumps(given)))
        call_command(name, "-", *options)
        said = capsys.readouterr()
        assert said.err == ""
        return said.out

    return called


def test_the_commands_print_one_document_and_nothing_else(
    run: Any, tmp_path: Path
) -> None:
    limits = tmp_path / "limits.json"
    limits.write_text(json.dumps(TIGHT), "utf-8")
    shared = ("--kit", "rapzel/kit/starter.json", "--limits", str(limits), "--json")
    said = json.loads(run("find_settings", *shared, given=LUNGE))
    assert not said["hits"]
    assert said["misses"][0]["by_stops"] > 0
    assert {"limit", "to", "says"} == set(said["relaxations"][0])
    methods = json.loads(run("compare_methods", "--json", given=LUNGE))
    assert methods["recommended"] == "pulse"


def test_the_commands_refuse_in_words(run: Any, tmp_path: Path) -> None:
    limits = tmp_path / "limits.json"
    limits.write_text('{"iso": [1600, 100], "strobez": 1}', "utf-8")
    with pytest.raises(
        CommandError, match="The document of limits is refused"
    ) as refused:
        run("compare_methods", "--limits", str(limits), given=LUNGE)
    assert "strobez" in str(refused.value)
