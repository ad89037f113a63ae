"""By how much a try was early or late, as people write it: `5 ms late`, `+3 ms`, `2 cm early`, `1.5 in`."""

import re

from rapzel.core.document.places import Document
from rapzel.core.physics import Physics
from rapzel.core.shared.errors import DocumentError, UnitError
from rapzel.shoots.documents import judged
from rapzel.ui.inputs import read

_WORDS = re.compile(r"\b(early|late)\b", re.IGNORECASE)
ACCEPTED = "5 ms late, −3 ms, 2 cm early; early is negative"
_LARGEST_S = 60.0


def late_s(text: str, outcome: str, document: Document) -> float | None:
    """By how much the light came late [s], negative early; None for nothing written.

    A length counts by the speed of the plan at the wanted instant. Without a word or a sign the outcome says which way.
    Raises UnitError with what is accepted.
    """
    said = text.strip()
    if not said:
        return None
    word = _WORDS.search(said)
    bare = _WORDS.sub("", said).strip()
    if bare[:1] in "-−":
        sign = -1.0
    else:
        sign = 1.0
    bare = bare.lstrip("+-− ")
    if word:
        if word[1].lower() == "early":
            sign = -1.0
        else:
            sign = 1.0
    # Somebody who keyed “early” and writes 5 ms means 5 ms early.
    elif said[:1] not in "+-−" and outcome == "early":
        sign = -1.0
    value = sign * _duration_of(bare, text, document)
    if abs(value) > _LARGEST_S:
        raise UnitError(text, "within a minute", ACCEPTED)
    return value


def _duration_of(bare: str, text: str, document: Document) -> float:
    # A bare 5 may be milliseconds or centimetres: it is asked, not guessed.
    if not re.search(r"[a-zµ]", bare, re.IGNORECASE):
        raise UnitError(text, "how far off it was, with its unit", ACCEPTED)
    try:
        return read("duration", bare)
    except UnitError:
        pass
    try:
        way = read("length", bare)
    except UnitError:
        raise UnitError(text, "how far off it was", ACCEPTED) from None
    try:
        physics = Physics(judged(document))
    except DocumentError:
        raise UnitError(
            text,
            "an offset of this plan, which cannot be answered",
            "a time: 5 ms late",
        ) from None
    speed = physics.trajectory.wanted_speed_m_s
    if speed <= 1e-6:
        raise UnitError(
            text,
            "an offset of something that stands still in the plan",
            "a time: 5 ms late",
        )
    return way / speed
