"""manage.py kit_reference : prints what the files of a kit hold, as docs/kit.md. Needs no database."""

from typing import Any

from django.core.management.base import BaseCommand

from rapzel.kit.reference import kit_reference


class Command(BaseCommand):
    help = "Prints what the files of a kit hold, as Markdown: the text of docs/kit.md."
    requires_system_checks = []

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(kit_reference(), ending="")
