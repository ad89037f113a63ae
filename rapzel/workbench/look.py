"""What the inputs of a wanted look need to know of the scene: the room as it is, a trail as people say its length."""

import re

from rapzel.core.document.places import Document
from rapzel.core.motion.presets import BODY_M
from rapzel.core.physics import Physics
from rapzel.core.shared.errors import CoreError, UnitError
from rapzel.shoots.documents import judged
from rapzel.ui.inputs import QUANTITIES, read

_PIXELS = re.compile(r"\s*([\d.,]+)\s*(?:px|pixels?)\s*", re.IGNORECASE)
_BODY = re.compile(r"\s*(?:about\s+)?(?:an?\s+)?([a-z]+)\s*", re.IGNORECASE)
ACCEPTED = f"0.3 m, 1 ft, 120 px, or about a {', '.join(BODY_M)}"


def room_as_it_is(document: Document) -> float | None:
    """The room against correct exposure [stops]; None for a dark one, and where the scene is refused."""
    try:
        return Physics(judged(document)).ambient_offset_stops
    except CoreError:
        return None


def trail_m(text: str, document: Document, imperial: bool) -> float:
    """`0.3 m`, `120 px`, `about a hand` -> metres on the subject. Raises UnitError with what is accepted."""
    part = _BODY.fullmatch(text)
    if part and part[1].lower() in BODY_M:
        return BODY_M[part[1].lower()]
    pixels = _PIXELS.fullmatch(text)
    if pixels:
        frame = Physics(judged(document)).frame
        return read("number", pixels[1]) * frame.pixel_pitch_m / frame.magnification
    try:
        return QUANTITIES["length"].parse(text, imperial)
    except UnitError:
        raise UnitError(text, "the length of a trail", ACCEPTED) from None
