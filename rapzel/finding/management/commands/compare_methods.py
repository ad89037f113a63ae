"""manage.py compare_methods FILE|- [--kit KIT] [--limits LIMITS]: prints the methods compared. Needs no database."""

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from rapzel.core.search.compare import compare
from rapzel.finding import headless


class Command(BaseCommand):
    help = "Prints the best set-up of a scene by every method; without a kit, with the scene's own strobes."
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        headless.add_arguments(parser, kit_needed=False)

    def handle(self, *args: Any, **options: Any) -> None:
        answer = compare(*headless.asked(options)).to_document()
        self.stdout.write(
            json.dumps(answer, indent=2, ensure_ascii=False, allow_nan=False)
        )
