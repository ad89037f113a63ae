"""What commands that take a document share: reading it from a file or from standard input."""

import sys
from pathlib import Path
from typing import Any

from django.core.management.base import CommandError

from rapzel.core.shared.errors import DocumentError
from rapzel.ui.http import parse_json


def read_document(name: str, what: str) -> Any:
    """The JSON value in a file, or on standard input for `-`; raises CommandError in words that say what it is."""
    try:
        if name == "-":
            text = sys.stdin.read()
        else:
            text = Path(name).read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise CommandError(f"Cannot read {name}: {error}") from None
    try:
        return parse_json(text)
    except DocumentError as error:
        raise refused(error, what) from None


def refused(error: DocumentError, what: str) -> CommandError:
    """The refusal of a document as a command ends with it."""
    return CommandError(f"{what} is refused:\n{error}")
