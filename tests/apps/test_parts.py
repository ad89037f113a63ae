"""What is kept in files for every process: nobody sees that there was no room, or that a file is broken."""

from pathlib import Path

import pytest

from rapzel.ui.parts import KeptOnDisk


@pytest.fixture
def kept(tmp_path: Path) -> KeptOnDisk:
    return KeptOnDisk(str(tmp_path / "parts"), {})


def test_what_is_kept_is_there_for_another_process(
    kept: KeptOnDisk, tmp_path: Path
) -> None:
    kept.set("name", "a part of a page")
    assert KeptOnDisk(str(tmp_path / "parts"), {}).get("name") == "a part of a page"


def test_what_finds_no_room_is_not_kept(kept: KeptOnDisk, tmp_path: Path) -> None:
    (tmp_path / "parts").rmdir()
    (tmp_path / "parts").write_text("no file can be made in it")
    kept.set("name", "a part of a page")
    assert kept.get("name") is None


@pytest.mark.parametrize("share", [0.0, 0.3, 0.7])
def test_what_was_half_written_is_made_anew(
    kept: KeptOnDisk, tmp_path: Path, share: float
) -> None:
    kept.set("name", "a part of a page")
    for file in (tmp_path / "parts").iterdir():
        whole = file.read_bytes()
        file.write_bytes(whole[: int(len(whole) * share)])
    assert kept.get("name") is None
    kept.set("name", "made anew")
    assert kept.get("name") == "made anew"
