"""manage.py evaluate FILE|- : prints the evaluation of a scene document. Needs no database."""

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from rapzel.core.evaluate import evaluate
from rapzel.core.shared.errors import DocumentError
from rapzel.ui.headless import read_document, refused


class Command(BaseCommand):
    help = "Prints the evaluation of a scene document (JSON file, or - for standard input)."
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", help="a scene document, or - for standard input")
        parser.add_argument(
            "--json", action="store_true", help="JSON and nothing else, as always"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        document = read_document(options["file"], "The scene")
        try:
            answer = evaluate(document).to_document()
        except DocumentError as error:
            raise refused(error, "The scene") from None
        self.stdout.write(
            json.dumps(answer, indent=2, ensure_ascii=False, allow_nan=False)
        )
