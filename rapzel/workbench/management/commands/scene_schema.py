"""manage.py scene_schema [--evaluation] : prints the JSON Schema. Needs no database."""

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from rapzel.core.document.scene import scene_schema
from rapzel.core.evaluate import evaluation_schema


class Command(BaseCommand):
    help = "Prints the JSON Schema of the scene document, or with --evaluation that of its evaluation."
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument(
            "--evaluation",
            action="store_true",
            help="the schema of the evaluation instead",
        )

    def handle(self, *args: Any, **options: Any) -> None:
        if options["evaluation"]:
            schema = evaluation_schema()
        else:
            schema = scene_schema()
        self.stdout.write(json.dumps(schema, indent=2, ensure_ascii=False))
