"""manage.py prepare : database, demo data and static files as the code wants them, and nothing twice."""

import hashlib
from pathlib import Path
from typing import Any

from django.apps import apps
from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.executor import MigrationExecutor


def _print_of(files: list[Path]) -> str:
    told = hashlib.sha256()
    for file in files:
        told.update(
            f"{file.relative_to(settings.ROOT)} {file.stat().st_size} {file.stat().st_mtime_ns}\n".encode()
        )
    return told.hexdigest()


class Command(BaseCommand):
    help = "Brings the database, the demo data and the collected static files up to date, in one process."

    def handle(self, *args: Any, **options: Any) -> None:
        self._database()
        if apps.is_installed("rapzel.demo"):
            call_command("load_demo", stdout=self.stdout)
        self._static_files()

    def _database(self) -> None:
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            call_command("migrate", interactive=False, verbosity=0)

    def _static_files(self) -> None:
        sources = sorted(
            each
            for each in Path(settings.ROOT, "rapzel").glob("*/static/**/*")
            if each.is_file()
        )
        target = Path(settings.STATIC_ROOT)
        stamp, wanted = target / ".collected", _print_of(sources)
        if stamp.exists() and stamp.read_text() == wanted:
            return
        call_command("collectstatic", interactive=False, verbosity=0)
        stamp.write_text(wanted)
