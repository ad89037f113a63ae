"""What the commands that search share: a scene, a kit and limits from files."""

from typing import Any, NamedTuple

from django.core.management.base import CommandParser

from rapzel.core.document.scene import Scene
from rapzel.core.possible import read_possible_scene
from rapzel.core.search.find import Kit
from rapzel.core.search.limits import Limits, read_limits
from rapzel.core.shared.errors import DocumentError
from rapzel.finding import kits
from rapzel.ui.headless import read_document, refused


class HeadlessQuestion(NamedTuple):
    scene: Scene
    kit: Kit
    limits: Limits


def add_arguments(parser: CommandParser, kit_needed: bool) -> None:
    """The scene, and the files of kit and limits."""
    parser.add_argument("file", help="a scene document, or - for standard input")
    parser.add_argument(
        "--kit", required=kit_needed, help="a kit document (docs/scene.md)"
    )
    parser.add_argument("--limits", help="limits of the search (docs/scene.md)")
    parser.add_argument(
        "--json", action="store_true", help="JSON and nothing else, as always"
    )


def asked(options: dict[str, Any]) -> HeadlessQuestion:
    """What the files say; raises CommandError with all that is wrong in the first that is."""
    what = "The scene"
    try:
        scene = read_possible_scene(read_document(options["file"], what))
        what = "The kit"
        kit = (
            kits.of_document(read_document(options["kit"], what), scene)
            if options["kit"]
            else kits.of_scene(scene)
        ).kit
        what = "The document of limits"
        limits = read_limits(
            read_document(options["limits"], what) if options["limits"] else None
        )
    except DocumentError as error:
        raise refused(error, what) from None
    return HeadlessQuestion(scene, kit, limits)
