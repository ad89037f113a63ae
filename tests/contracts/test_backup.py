"""A backup and what comes back of it: rows and recordings, into a database of its own."""

import os
import subprocess
from pathlib import Path

import psycopg
import pytest
from django.db import connection

from tests.patience import PROCESS_S

ROOT = Path(__file__).resolve().parents[2]
pytestmark = pytest.mark.skipif(
    not Path("/usr/lib/postgresql").exists(), reason="needs Debian's PostgreSQL server"
)


@pytest.fixture
def urls(django_db_setup, django_db_blocker):
    """Addresses of two new databases of the test's own server."""
    with django_db_blocker.unblock():
        known = connection.settings_dict
    names = [f"{known['NAME']}_{kind}" for kind in ("from", "to")]
    base = f"postgres://{known['USER']}:{known['PASSWORD']}@{known['HOST']}:{known['PORT']}"
    with psycopg.connect(f"{base}/postgres", autocommit=True) as server:
        for name in names:
            server.execute(f'CREATE DATABASE "{name}"')
        yield [f"{base}/{name}" for name in names]
        for name in names:
            server.execute(f'DROP DATABASE "{name}" WITH (FORCE)')


def run(
    script: str, folder: Path, url: str, files: Path, **more: str
) -> subprocess.CompletedProcess[str]:
    own = {**os.environ, "DATABASE_URL": url, "RAPZEL_FILES": str(files), **more}
    return subprocess.run(
        [ROOT / "script" / script, folder],
        env=own,
        capture_output=True,
        text=True,
        check=False,
        timeout=PROCESS_S,
    )


def test_what_was_saved_comes_back(urls, tmp_path) -> None:
    there, here = urls
    recordings, back = tmp_path / "files", tmp_path / "back"
    (recordings / "bench" / "1").mkdir(parents=True)
    (recordings / "bench" / "1" / "pop.csv").write_bytes(b"0,1\n" * 1000)
    with psycopg.connect(there, autocommit=True) as database:
        database.execute("CREATE TABLE takes (note text)")
        database.execute(
            "INSERT INTO takes VALUES ('guard and threads sharp, µs and Δ kept')"
        )

    backup = tmp_path / "saved"
    assert run("backup", backup, there, recordings).returncode == 0
    again = run("backup", backup, there, recordings)
    assert again.returncode == 1
    assert "holds a backup already" in again.stderr

    done = run("restore", backup, here, back)
    assert done.returncode == 0, done.stderr
    with psycopg.connect(here) as database:
        assert database.execute("SELECT note FROM takes").fetchall() == [
            ("guard and threads sharp, µs and Δ kept",)
        ]
    assert (back / "bench" / "1" / "pop.csv").read_bytes() == b"0,1\n" * 1000

    refused = run("restore", backup, here, back)
    assert refused.returncode == 1
    assert "is not empty" in refused.stderr
    assert run("restore", backup, here, back, FORCE="1").returncode == 0

    (backup / "files.tar.gz").unlink()
    half = run("restore", backup, here, back, FORCE="1")
    assert "holds no whole backup" in half.stderr
