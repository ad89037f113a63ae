"""manage.py tool NAME FILE|- [--json] | --schema : asks a tool without a browser. Needs no database."""

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from rapzel.core.shared.errors import DocumentError
from rapzel.core.tools import TOOLS, ask
from rapzel.ui.headless import read_document, refused


class Command(BaseCommand):
    help = "Answers a JSON document of inputs (a file, or - for standard input) by one of the tools."
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name", help=f"one of {', '.join(TOOLS)}")
        parser.add_argument(
            "file", nargs="?", help="what is asked, as JSON, or - for standard input"
        )
        parser.add_argument(
            "--json",
            action="store_true",
            help="print the answer as JSON and nothing else",
        )
        parser.add_argument(
            "--schema",
            action="store_true",
            help="print the JSON Schema of inputs and answer",
        )

    def handle(self, *args: Any, **options: Any) -> None:
        name = options["name"]
        if name not in TOOLS:
            raise CommandError(
                f"There is no tool “{name}”; there are: {', '.join(TOOLS)}."
            )
        tool = TOOLS[name]
        if options["schema"]:
            self.stdout.write(json.dumps(tool.schema(), indent=2, ensure_ascii=False))
            return
        if not options["file"]:
            raise CommandError(
                "Name a JSON file with what is asked, or - for standard input."
            )
        document = read_document(options["file"], "What is asked")
        try:
            answer = ask(tool, document)
        except DocumentError as error:
            raise refused(error, "What is asked") from None
        if not options["json"]:
            self.stdout.write(answer["says"])
        self.stdout.write(
            json.dumps(answer, indent=2, ensure_ascii=False, allow_nan=False)
        )
