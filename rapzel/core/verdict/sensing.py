"""What to mind of the sensors of a chain, although no margin depends on it (science §11)."""

from collections.abc import Iterator

from rapzel.core.document.scene import Scene
from rapzel.core.physics import Physics
from rapzel.core.physics.hearing import heard_of, lockout_s
from rapzel.core.physics.passing import Passing, beam_of
from rapzel.core.physics.wanted import beam_against_moment_m
from rapzel.core.shared.units import (
    format_length,
    format_number,
    format_percent,
    format_time,
)
from rapzel.core.trigger.hearing import HALF_DB, echo_s, neighbour_under_db
from rapzel.core.trigger.links import Sound


def about_sensors(physics: Physics) -> list[str]:
    """The warnings about microphones, beams and a body that sleeps."""
    scene = physics.scene
    said = [
        words
        for link in scene.trigger.links
        if isinstance(link, Sound)
        for words in _about_sound(scene, link)
    ]
    return [*said, *_about_beams(physics), *_about_sleep(scene)]


def _about_sound(scene: Scene, sound: Sound) -> Iterator[str]:
    under = neighbour_under_db(sound)
    if under is not None and under < HALF_DB:
        if under > 0.5:
            how = f"only {format_number(under, 2)} dB under"
        elif under < -0.5:
            how = f"{format_number(-under, 2)} dB louder than"
        else:
            how = "as loud as"
        lost = format_percent(1 - heard_of(scene).by_the_event)
        yield (
            f"At the microphone the next loud thing is {how} the event: it will fire the trigger, and if it is heard "
            f"as often, {lost} of the tries are lost to it. Move the microphone nearer to the event, or raise the "
            "threshold with a recording."
        )
    echo, deaf = echo_s(sound), lockout_s(scene)
    # A unit that is deaf until the echo is over fires once.
    if echo is not None and (deaf is None or deaf < echo):
        if deaf is None:
            known = "is not known"
        else:
            known = f"is {format_time(deaf)}"
        yield (
            f"An echo may come up to {format_time(echo)} after the event, and the unit's lock-out {known}: "
            "it may fire twice in one opening."
        )


def _about_beams(physics: Physics) -> Iterator[str]:
    scene, beam = physics.scene, beam_of(physics.scene)
    if beam is None:
        return
    apart = beam_against_moment_m(scene)
    if apart:
        upstream, at = (
            format_length(beam.distance_m),
            format_time(scene.moment.at_s or 0.0),
        )
        yield (
            f"The beam stands {upstream} before the focus point, and the moment says {at} after it is cut: by then the "
            f"subject is {format_length(apart)} from the place. Leave the instant empty, and it follows from the beam, "
            "or move the beam."
        )
    if Passing(scene, physics.trajectory).line is None:
        yield "The beam lies along the way of the subject and never crosses it: turn it."
    if beam.second_m is not None and scene.motion.bent:
        yield "Two beams measure a steady speed; of this motion they cannot, so the second one is left out."
    shares = physics.timing.shares
    if shares is not None and shares.noticed is not None and shares.noticed < 0.995:
        yield f"{format_percent(1 - shares.noticed)} of the passes miss the beam and fire nothing."
    if beam.variety == "heat" and not beam.zone_m:
        yield "How wide the heat sensor's zone is is not known: measure it, walking through with a stick."
    if beam.variety == "reflective" and beam.length_m is None:
        yield "A reflective beam needs its set range: anything nearer fires it."


def _about_sleep(scene: Scene) -> Iterator[str]:
    camera = scene.camera
    if camera.asleep and scene.trigger.fires == "camera":
        if camera.wake_s is None:
            adds = "by an unknown time"
        else:
            adds = f"by {format_time(camera.wake_s)}"
        yield f"The body is asleep when the trigger comes and answers later {adds}: keep it awake."
