"""manage.py rehearse SCENE PICTURE : computes the picture of a scene document. Needs no database."""

import json
import re
from pathlib import Path
from typing import Any

import numpy as np
from django.core.management.base import BaseCommand, CommandError, CommandParser
from PIL import Image

from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.rehearsal.render import linear_picture, render
from rapzel.core.shared.errors import DocumentError
from rapzel.ui.headless import read_document, refused

_LARGEST = 6000  # pixels of a side


class Command(BaseCommand):
    help = "Writes the rehearsal of a scene (JSON file, or - for standard input) as a PNG or JPEG picture."
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("scene", help="a scene document, or - for standard input")
        parser.add_argument(
            "picture", help="where the picture goes: a .png or .jpg file"
        )
        parser.add_argument(
            "--size",
            default="960x640",
            help="width and height in pixels, 960x640 unless said",
        )
        parser.add_argument(
            "--linear",
            help="a .npy file for the linear light: rows × columns × 3 floats",
        )
        parser.add_argument(
            "--json",
            action="store_true",
            help="print what was made as JSON and nothing else",
        )

    def handle(self, *args: Any, **options: Any) -> None:
        size = self._size(options["size"])
        path = Path(options["picture"])
        if path.suffix.lower() not in (".png", ".jpg", ".jpeg"):
            raise CommandError(
                f"{path.name} is not a picture: name a .png or .jpg file."
            )
        physics = self._physics(options["scene"])
        made = render(physics, size)
        try:
            Image.fromarray(made.frame).save(path)
            if options["linear"]:
                with Path(options["linear"]).open("wb") as out:
                    np.save(out, linear_picture(physics, size))
        except OSError as error:
            raise CommandError(f"The picture cannot be written: {error}") from None
        answer = {
            "size": list(size),
            "clipped_share": made.clipped_share,
            "says": made.says,
        }
        if options["json"]:
            self.stdout.write(json.dumps(answer, ensure_ascii=False))
        else:
            self.stdout.write(f"{path.name}, {size[0]} × {size[1]}: {made.says}")

    def _size(self, text: str) -> tuple[int, int]:
        sides = re.fullmatch(r"(\d{2,4})\s*[x×]\s*(\d{2,4})", text.strip())
        if not sides or max(int(side) for side in sides.groups()) > _LARGEST:
            raise CommandError(
                f"“{text}” is no size; an example is 960x640, up to {_LARGEST} a side."
            )
        return int(sides[1]), int(sides[2])

    def _physics(self, name: str) -> Physics:
        try:
            return Physics(read_possible_scene(read_document(name, "The scene")))
        except DocumentError as error:
            raise refused(error, "The scene") from None
