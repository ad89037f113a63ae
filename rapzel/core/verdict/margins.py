"""The margins, in the order of the strip; what is first in it is closed first.

A margin is a row here. To add one: a file that judges it, and its row; sentence, remedies, strip, comparison and search
take the table.
"""

from rapzel.core.document.evaluation import Margin
from rapzel.core.document.scene import Scene
from rapzel.core.methods import Method
from rapzel.core.verdict import remedies, wording
from rapzel.core.verdict.ambient import room
from rapzel.core.verdict.exposed import light
from rapzel.core.verdict.flickers import flicker, flickers, for_flicker, of_flicker
from rapzel.core.verdict.freeze import freeze
from rapzel.core.verdict.freeze_remedies import for_freeze
from rapzel.core.verdict.ghost import ghost
from rapzel.core.verdict.kind import MarginKind
from rapzel.core.verdict.machine import sync
from rapzel.core.verdict.pacing import pace
from rapzel.core.verdict.timely import timing


def _always(margin: Margin) -> bool:
    return True


def _where_it_has_a_figure(margin: Margin) -> bool:
    return margin.value is not None


def _where_it_is_wanted(margin: Margin) -> bool:
    """A room that is wanted so bright is worth a word where it is; that black is black goes without saying."""
    return margin.two_sided and margin.value is not None


def _wrong_light(method: Method, scene: Scene, over: bool) -> str:
    if over:
        return "over by"
    return "short of light by"


def _wrong_room(method: Method, scene: Scene, over: bool) -> str:
    if scene.look.room == "black":
        return "the room is too bright by"
    return "the room is off by"


def _wrong_ghost(method: Method, scene: Scene, over: bool) -> str:
    if scene.look.room == "trail":
        return "the trail is off by"
    if scene.look.room == "streaks":
        return "the streaks are off by"
    return "the room trails, too bright against the flash by"


def _wrong_rows(method: Method, scene: Scene, over: bool) -> str:
    if method.leads:
        return "the rows are too uneven by"
    return "the shutter is too fast by"


_KINDS = (
    MarginKind(
        name="freeze",
        title="Freeze",
        judge=freeze,
        remedies=for_freeze,
        says=wording.of_freeze,
        told=_always,
        question="whether it freezes",
        brief="freeze",
        falls_short=lambda method, scene, over: "smeared by",
        to_spare="freezes with {} stops to spare",
    ),
    MarginKind(
        name="light",
        title="Light",
        judge=light,
        remedies=remedies.for_light,
        says=wording.of_light,
        told=_always,
        question="whether it is bright enough",
        brief="light",
        falls_short=_wrong_light,
        to_spare="{} stops of light left",
    ),
    MarginKind(
        name="room",
        title="Ambient",
        judge=room,
        remedies=remedies.for_room,
        says=wording.of_room,
        told=_where_it_is_wanted,
        question="how bright the room is",
        brief="the room",
        falls_short=_wrong_room,
        to_spare="the room is {} stops darker than it need be",
    ),
    MarginKind(
        name="ghost",
        title="Ghost",
        judge=ghost,
        remedies=remedies.for_ghost,
        says=wording.of_ghost,
        told=_where_it_has_a_figure,
        question="whether the room trails",
        brief="the room's trail",
        falls_short=_wrong_ghost,
        to_spare="the room's trail is {} stops from showing",
    ),
    MarginKind(
        name="sync",
        title="Sync",
        judge=sync,
        remedies=remedies.for_sync,
        says=wording.of_sync,
        question="whether every row sees the light",
        brief="sync",
        falls_short=_wrong_rows,
    ),
    MarginKind(
        name="flicker",
        title="Flicker",
        judge=flicker,
        remedies=for_flicker,
        says=of_flicker,
        question="whether the room's flicker shows",
        brief="the room's flicker",
        falls_short=lambda method, scene, over: "the room flickers too much by",
        applies=flickers,
    ),
    MarginKind(
        name="timing",
        title="Timing",
        judge=timing,
        remedies=remedies.for_timing,
        says=wording.of_timing,
        question="whether it lands",
        brief="timing",
        doubted=True,
        falls_short=lambda method, scene, over: "it lands too seldom by",
    ),
    MarginKind(
        name="pace",
        title="Pace",
        judge=pace,
        remedies=remedies.for_pace,
        says=wording.of_pace,
        question="how fast the lights keep up",
        brief="pace",
        falls_short=lambda method, scene, over: "the lights are too slow by",
        to_spare="the lights keep up with {} stops to spare",
    ),
)
MARGINS: dict[str, MarginKind] = {kind.name: kind for kind in _KINDS}
