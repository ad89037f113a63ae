"""How often the event itself fires a scene's microphone, and only once (science §11)."""

from rapzel.core.document.scene import Scene
from rapzel.core.trigger import hearing
from rapzel.core.trigger.hearing import SURE, Heard
from rapzel.core.trigger.links import Device, Sound


def lockout_s(scene: Scene) -> float | None:
    """How long the chain is deaf after it has fired [s]; None where no unit says so."""
    known = [
        link.lockout_s
        for link in scene.trigger.links
        if isinstance(link, Device) and link.lockout_s is not None
    ]
    if known:
        return max(known)
    return None


def heard_of(scene: Scene) -> Heard:
    """Shares of tries that the event fires, and that an echo fires again."""
    sound = next(
        (link for link in scene.trigger.links if isinstance(link, Sound)), None
    )
    if sound is None:
        return SURE
    under, by_the_event = hearing.neighbour_under_db(sound), 1.0
    if under is not None:
        by_the_event = hearing.by_the_event(under)
    again, deaf = _fires_again(scene, sound), lockout_s(scene)
    if not again or (deaf is not None and deaf >= (hearing.echo_s(sound) or 0.0)):
        return Heard(by_the_event)
    return Heard(by_the_event, hearing.doubled(sound), deaf is None)


def _fires_again(scene: Scene, sound: Sound) -> bool:
    """Whether an echo finds the shutter still open, and a flash that the unit fires itself."""
    echo = hearing.echo_s(sound)
    if echo is None or scene.trigger.fires != "flash":
        return False
    # A shutter that the trigger opens is closed again, or busy, when the echo comes.
    return echo < scene.exposure.shutter_s
