"""manage.py evaluate FILE|- : prints the evaluation of a scene document. Needs no database."""

import json
import sys
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from rapzel.core import DocumentError, evaluate
from rapzel.ui.http import parse_json


class Command(BaseCommand):
    help = "Prints the evaluation of a scene document (JSON file, or - for standard input)."
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", help="a scene document, or - for standard input")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            text = (
                sys.stdin.read()
                if options["file"] == "-"
                else Path(options["file"]).read_text("utf-8")
            )
        except (OSError, UnicodeDecodeError) as error:
            raise CommandError(f"Cannot read {options['file']}: {error}") from None
        try:
            answer = evaluate(parse_json(text)).to_document()
        except DocumentError as error:
            raise CommandError(f"The scene is refused:\n{error}") from None
        self.stdout.write(json.dumps(answer, indent=2, ensure_ascii=False, allow_nan=False))
