"""The one command that starts it: a fresh folder, Ctrl-C, and a machine that lost its power."""

import os
import shutil
import signal
import socket
import subprocess
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
PATIENCE_S = 240
pytestmark = pytest.mark.skipif(not Path("/usr/lib/postgresql").exists(), reason="needs Debian's PostgreSQL server")


@pytest.fixture
def folder() -> Iterator[Path]:
    """The project in a folder of its own, whose `var` is still empty; PostgreSQL's user may enter it."""
    home = Path(tempfile.mkdtemp(prefix="rapzel-start-"))
    home.chmod(0o755)
    for each in ROOT.iterdir():
        if each.name not in ("var", ".git"):
            (home / each.name).symlink_to(each)
    yield home
    for pid in processes(home):
        os.kill(pid, signal.SIGKILL)
    shutil.rmtree(home)


def processes(home: Path) -> list[int]:
    """What works in the folder, or on the cluster in it."""
    found = []
    for each in Path("/proc").glob("[0-9]*"):
        try:
            inside = (each / "cwd").readlink().is_relative_to(home) or f"{home}/" in (each / "cmdline").read_text()
        except OSError:
            continue
        if inside and "defunct" not in (each / "stat").read_text():
            found.append(int(each.name))
    return found


def start(home: Path) -> tuple[subprocess.Popen[bytes], str]:
    """The running start command and the site's address, once it answers."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    own = {
        name: value for name, value in os.environ.items() if not name.startswith(("DATABASE_", "DJANGO_", "RAPZEL_"))
    }
    own |= {"PORT": str(port), "RAPZEL_FILES": str(home / "files")}
    with (home / "says").open("ab") as says:
        process = subprocess.Popen(
            [home / "script" / "server"], env=own, stdout=says, stderr=says, start_new_session=True
        )
    site = f"http://127.0.0.1:{port}"
    end = time.monotonic() + PATIENCE_S
    while time.monotonic() < end and process.poll() is None:
        try:
            with urllib.request.urlopen(f"{site}/healthz", timeout=10) as answer:
                assert b"ok" in answer.read()
                return process, site
        except OSError:
            time.sleep(0.5)
    raise AssertionError((home / "says").read_text())


def test_it_survives_a_lost_machine_and_stops_what_it_started(folder: Path) -> None:
    first, _ = start(folder)
    for pid in processes(folder):
        os.kill(pid, signal.SIGKILL)
    first.wait(60)
    assert (folder / "var" / "postgres" / "data" / "postmaster.pid").exists(), "nobody could tidy up"

    second, site = start(folder)
    with urllib.request.urlopen(f"{site}/account/login/") as page:
        assert b"Open the demo" in page.read()
    os.killpg(second.pid, signal.SIGINT)  # as Ctrl-C does: to all of them
    assert second.wait(60) == 0
    assert processes(folder) == []
    assert (folder / "says").read_text().count("demo data loaded") == 1, "what is there is kept"
