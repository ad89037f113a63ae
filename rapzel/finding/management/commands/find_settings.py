"""manage.py find_settings FILE|- --kit KIT [--limits LIMITS]: prints what a search finds. Needs no database."""

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from rapzel.core.search.whole import search_all
from rapzel.finding import headless


class Command(BaseCommand):
    help = "Prints the settings of a kit that make a scene work, or what comes nearest to it."
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        headless.add_arguments(parser, kit_needed=True)

    def handle(self, *args: Any, **options: Any) -> None:
        answer = search_all(*headless.asked(options)).to_document()
        self.stdout.write(
            json.dumps(answer, indent=2, ensure_ascii=False, allow_nan=False)
        )
