"""The cheap answers: what can be done about a scene without another method, each with its effect in stops.

They are tried before they are shown: the effect is the difference of the margin before and after.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from rapzel.core.document.gear import Light
from rapzel.core.document.places import changed, identified
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.methods import method_of
from rapzel.core.physics import Physics
from rapzel.core.shared.constants import RIGHT_STOPS
from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.units import format_f_number, format_length
from rapzel.core.verdict.change import Values, named
from rapzel.core.verdict.margin import listed
from rapzel.core.verdict.margins import MARGINS

_LEAST_STOPS = 0.05  # less is no answer
_CLOSER, _SLOWER, _BACK = 2**-0.5, 0.7, 1.25
_FLAGGED_STOPS, _ND_STOPS = 2.0, 2.0
_TURNING = 60.0  # degrees of a swing, of which 90 are where it turns


@dataclass(frozen=True)
class CheapAnswer:
    """A change, what it moves and by how much [stops; up is better]."""

    margin: str
    says: str
    effect_stops: float
    values: Values

    def to_document(self) -> dict[str, Any]:
        return {
            "margin": self.margin,
            "says": self.says,
            "effect_stops": self.effect_stops,
            "set": dict(self.values),
        }


Candidate = tuple[str, str, Values]


def cheap_answers(scene: Scene, imperial: bool = False) -> list[CheapAnswer]:
    """The answers that change something, the strongest of each margin first."""
    document, before = scene.to_document(), Physics(scene)
    answers = []
    for margin, says, values in _candidates(scene, before, imperial):
        try:
            after = Physics(read_scene(changed(document, dict(values))))
        except CoreError:
            continue  # a light cannot stand there, a part cannot move so
        effect = _moved(margin, before, after)
        # What works the wrong way is shown too, with its sign: somebody may think of it.
        if effect is not None and abs(effect) > _LEAST_STOPS:
            answers.append(CheapAnswer(margin, says, effect, values))
    order = list(MARGINS)
    return sorted(
        answers, key=lambda one: (order.index(one.margin), -abs(one.effect_stops))
    )


def _moved(margin: str, before: Physics, after: Physics) -> float | None:
    """By how much a margin moved [stops]; None where it has no figure."""
    judge = MARGINS[margin].judge
    old, new = judge(before).value, judge(after).value
    if old is None or new is None:
        return None
    return new - old


def _candidates(scene: Scene, now: Physics, imperial: bool) -> Iterator[Candidate]:
    yield from _of_the_motion(scene, imperial)
    if method_of(scene).flashes:
        yield from _of_the_lights(scene, now, imperial)
    yield from _of_the_room(scene, now)


def _of_the_motion(scene: Scene, imperial: bool) -> Iterator[Candidate]:
    """Where it is slow, or slower, or smaller in the picture."""
    motion = scene.motion
    if motion.kind == "leap" and motion.from_apex_s > 0:
        yield "freeze", "catch the apex", (("motion.from_apex_s", 0.0),)
    if motion.kind == "swing" and abs(motion.phase_deg) < _TURNING:
        yield "freeze", "near the end of the swing", (("motion.phase_deg", _TURNING),)
    if motion.kind == "rotation":
        yield "freeze", "turn a third slower", (("motion.rpm", motion.rpm * _SLOWER),)
    if motion.kind == "fall":
        yield (
            "freeze",
            "fall from half the height",
            (("motion.height_m", motion.height_m / 2),),
        )
    speed = getattr(motion, "speed_m_s", None)
    if speed:
        yield "freeze", "move a third slower", (("motion.speed_m_s", speed * _SLOWER),)
    back = round(scene.lens.subject_distance_m * _BACK, 2)
    words = f"camera back to {format_length(back, imperial)}"
    yield "freeze", words, (("lens.subject_distance_m", back),)


def _of_the_lights(scene: Scene, now: Physics, imperial: bool) -> Iterator[Candidate]:
    """Nearer, bare, or one more."""
    on_part = [
        place for place, light in enumerate(scene.lights) if light.on_moving_part
    ]
    if not on_part:
        return
    nearer = [
        (place, round(scene.lights[place].distance_m * _CLOSER, 2)) for place in on_part
    ]
    words = listed(
        list(dict.fromkeys(format_length(away, imperial) for _, away in nearer))
    )
    closer = tuple((f"lights[{place}].distance_m", away) for place, away in nearer)
    yield "light", f"lights at {words}", closer
    lossy = [place for place in on_part if scene.lights[place].loss_stops > 0]
    if lossy:
        bare = tuple((f"lights[{place}].loss_stops", 0.0) for place in lossy)
        yield "light", "bare reflectors", bare
    strongest = max(now.on_part, key=lambda lit: lit.n_squared).light
    another = (("lights", _with_another(scene, strongest)),)
    yield "light", f"one more light like {named(strongest)}", another


def _with_another(scene: Scene, like: Light) -> list[dict[str, Any]]:
    """The lights and one more like one of them, with an identity of its own."""
    document = scene.to_document()
    more = like.model_copy(update={"name": f"{named(like)} again", "id": None})
    lights = [*document["lights"], more.model_dump(mode="json")]
    return list(identified({**document, "lights": lights})["lights"])


def _of_the_room(scene: Scene, now: Physics) -> Iterator[Candidate]:
    """Less of it where it is not wanted; a filter, where there is too much light for the aperture."""
    ev100, exposure = now.room_ev100[0], scene.exposure
    # Only where light is missing: with enough of it the polariser is there for its own sake.
    if exposure.polariser_stops and (now.exposure_offset_stops or 0.0) < -RIGHT_STOPS:
        yield "light", "without the polariser", (("exposure.polariser_stops", 0.0),)
    if ev100 is not None and scene.look.room == "black":
        darker = (
            ("ambient.ev100", ev100 - _FLAGGED_STOPS),
            ("ambient.lux", None),
            ("ambient.meter", None),
        )
        # It mends both, and is told once: by the trail where there is one.
        trails = MARGINS["ghost"].judge(now).value is not None
        margin = "ghost" if trails else "room"
        yield margin, f"flag the room by {_FLAGGED_STOPS:g} stops", darker
    if (now.exposure_offset_stops or 0.0) > RIGHT_STOPS:
        says = (
            f"a {_ND_STOPS:g}-stop ND filter, {format_f_number(exposure.f_number)} kept"
        )
        yield "light", says, (("exposure.nd_stops", exposure.nd_stops + _ND_STOPS),)
