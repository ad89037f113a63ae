"""The verbs of a dial-in: begin, say how a try came out, take that back, leave."""

from dataclasses import dataclass

from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils import timezone

from rapzel.core.document import places
from rapzel.core.document.places import Document
from rapzel.core.rehearsal.render import RenderTooLong
from rapzel.core.verdict.knobs import knobs_of
from rapzel.dialling.models import DialIn, DialStep, Shot
from rapzel.dialling.moved import Moved
from rapzel.dialling.pictures import Picture, picture_of
from rapzel.dialling.state import SECOND, Dialling, NotNow, as_begun
from rapzel.shoots import services as scenes
from rapzel.shoots.history import rewrite
from rapzel.shoots.models import Scene
from rapzel.takes import pictures as kept_pictures
from rapzel.takes.models import Outcome, Take
from rapzel.takes.offsets import late_s
from rapzel.takes.sent import Sent
from rapzel.takes.services import JUST_NOW, log_take
from rapzel.ui.quota import QuotaFull
from rapzel.workbench.answer import answered

_LOGGED = {"early": Outcome.EARLY, "late": Outcome.LATE, "on": Outcome.KEEP}


@transaction.atomic
def begin(scene: Scene, path: str, by_eye: bool) -> DialIn:
    """Begins to dial a knob in; the one before is left. Raises NotNow for what is no knob of the scene."""
    every = knobs_of(answered(scene.document).physics, by_eye)
    knob = next((each for each in every if each.path == path), None)
    if knob is None:
        # What can be dialled in is said, so that a guessed address teaches something.
        names = ", ".join(each.name for each in every)
        raise NotNow(f"That is no knob of this scene. There are: {names}.")
    _one_at_a_time(scene)
    # A knob that was empty begins where the plan would set it.
    if places.get(scene.document, path) is None:
        scenes.change_scene(scene, {path: knob.knob.settable(knob.value)}, knob.name)
    leave(scene)
    return DialIn.objects.create(
        scene=scene, path=path, name=knob.name, by_eye=by_eye, document=scene.document
    )


def _one_at_a_time(scene: Scene) -> None:
    """Holds the scene until the transaction ends: two that begin at once come one after the other."""
    Scene.objects.select_for_update(of=("self",)).get(pk=scene.pk)


def leave(scene: Scene) -> None:
    """Ends the dial-in under way; its takes stay."""
    scene.dial_ins.filter(ended_at__isnull=True).update(ended_at=timezone.now())


@transaction.atomic
def resume(scene: Scene, pk: int) -> None:
    """Takes up a dial-in that was left, with all of its tries. Raises NotNow for one that is not of this scene."""
    found = scene.dial_ins.filter(pk=pk).first()
    if found is None:
        raise NotNow("That dial-in is not of this scene.")
    _one_at_a_time(scene)
    leave(scene)
    scene.dial_ins.filter(pk=pk).update(ended_at=None)


@transaction.atomic
def set_back(state: Dialling) -> None:
    """Puts everything but the knob back as it was when the dial-in began."""
    rewrite(
        state.scene,
        # Worked out under the lock from what is stored then, which another tab may have changed.
        lambda document: as_begun(state.dial_in, document),
        "setting back what else was moved",
    )


@transaction.atomic
def set_value(state: Dialling, value: float) -> None:
    """Sets the knob to another value than the one that was proposed."""
    scenes.change_scene(state.scene, {state.dial_in.path: value}, state.dial_in.name)


@dataclass(frozen=True)
class Judgement:
    """How a try came out, as a person says it: how far off, and what is noted beside it.

    sent: what the browser says of the try, which may have waited there; tried: what the knob was set to then, where
    that is not what it is set to now.
    """

    outcome: str
    off: str = ""
    note: str = ""
    sent: Sent = JUST_NOW
    tried: float | None = None


@dataclass(frozen=True)
class Seen:
    """The picture of a try, where there is one, and why it was left out, where it was."""

    picture: Picture | None = None
    left_out: str = ""


NOTHING_SEEN = Seen()


def is_logged(state: Dialling, key: str) -> bool:
    """Whether a try is in the log already: its answer was lost, and it was sent again."""
    return bool(key) and Take.objects.filter(scene=state.scene, key=key).exists()


def require_judgeable(state: Dialling, judgement: Judgement) -> None:
    """Raises NotNow for what cannot be logged as things stand; asked before a picture is read, too."""
    if judgement.outcome not in _LOGGED:
        # A miss or a dark frame says nothing of timing, and has its place in the log.
        raise NotNow(f"An outcome is one of {', '.join(_LOGGED)}.")
    if state.knob is None:
        raise NotNow(state.says)
    if state.moved:
        raise NotNow(
            f"Two knobs at once teach nothing: {_named(state.moved)} was moved as well. Set it back first."
        )


@transaction.atomic
def record(
    state: Dialling,
    judgement: Judgement,
    shot: Shot | None = None,
    seen: Seen = NOTHING_SEEN,
) -> DialStep:
    """Logs how the try came out, with what was seen of it, and sets the knob to what comes next.

    Raises NotNow while another knob is moved as well, or for an outcome that is none; UnitError for an unreadable
    offset. Nothing is logged then.
    """
    require_judgeable(state, judgement)
    assert state.knob is not None
    outcome, off = judgement.outcome, judgement.off
    # From here on nobody else can log a try of this scene.
    _require_latest(state)
    # Sent twice at once, the other may have been logged between the question and the lock.
    already = state.dial_in.steps.filter(take__key=judgement.sent.key).first()
    if judgement.sent.key and already is not None:
        return already
    offset = late_s(off, _LOGGED[outcome], state.scene.document)
    second = state.dial_in.path == SECOND
    if second:
        said = [f"Second drop {outcome}."]
    else:
        said = []
    said += [shot.says] if shot else []
    take = log_take(
        state.scene,
        _LOGGED[outcome],
        note=" ".join([*said, judgement.note, seen.left_out]).strip(),
        # Off by a length or time of the second drop, which the take's own field would misread as
        # the light's.
        off="" if second else off,
        sent=judgement.sent,
        document=as_tried(state, judgement.tried),
    )
    if seen.picture is not None:
        kept_pictures.keep(take, *seen.picture)
    if judgement.tried is None:
        value = state.knob.value
    else:
        value = judgement.tried
    step = DialStep.objects.create(
        dial_in=state.dial_in, take=take, value=value, outcome=outcome, offset_s=offset
    )
    # Anew, so that the try that was just logged counts for what comes next.
    now = Dialling(state.dial_in, state.scene, state.answer)
    if now.found is not None and now.found.next_value is not None:
        scenes.change_scene(
            state.scene, {state.dial_in.path: now.found.next_value}, state.dial_in.name
        )
    return step


def as_tried(state: Dialling, tried: float | None) -> Document:
    """The plan with the knob as it was when the try was made. Raises DocumentError for a value that it cannot have."""
    if tried is None:
        return state.scene.document
    document = places.changed(state.scene.document, {state.dial_in.path: tried})
    # Judged, so that a waiting try with an impossible value is refused and not stored.
    answered(document)
    return document


@transaction.atomic
def log_shot(scene: Scene, shot: Shot, outcome: str, seen: Seen) -> Take:
    """Logs a shot outside of a dial-in, once, with what was seen. Raises NotNow for an outcome that is none."""
    if outcome not in Outcome.values:
        raise NotNow(f"An outcome is one of {', '.join(Outcome.values)}.")
    note = f"{shot.says} {seen.left_out}".strip()
    take = log_take(scene, outcome, note=note, sent=Sent(shot.token))
    # A shot logged twice is one take; its picture is there already.
    if seen.picture is not None and not hasattr(take, "picture"):
        kept_pictures.keep(take, *seen.picture)
    return take


def _require_latest(state: Dialling) -> None:
    """Holds the scene until the try is logged. Raises NotNow where another tab has logged one meanwhile."""
    known = len(state.steps)
    _one_at_a_time(state.scene)
    # Two tabs that judge the same try would turn the knob twice.
    if state.dial_in.steps.filter(take__deleted_at__isnull=True).count() != known:
        raise NotNow("Another tab has logged a try meanwhile. Load the page again.")


def seen_of(
    scene: Scene, shot: Shot | None, upload: UploadedFile | None = None
) -> Seen:
    """The person's own frame, else what was computed of the shot; before anything is logged, as it takes its time.

    Raises PictureError for an unreadable frame, QuotaFull where no more of a person's own fit. A computed picture for
    which there is no room or time is left out: what was seen counts without it.
    """
    owner = scene.shoot.owner
    if upload:
        kept_pictures.require_room_for(owner)
        return Seen(kept_pictures.read(upload))
    if shot is None:
        return NOTHING_SEEN
    try:
        kept_pictures.require_room_for(owner)
        return Seen(picture_of(shot))
    except (QuotaFull, RenderTooLong) as error:
        return Seen(None, f"No picture is kept of this try. {error}")


def _named(moved: list[Moved]) -> str:
    return ", ".join(f"{label} ({old} → {new})" for label, old, new in moved[:4])


@transaction.atomic
def undo_last(state: Dialling) -> Take | None:
    """Takes the last outcome back: its take is removed, and the knob is where it was. None where there is none."""
    if not state.steps:
        return None
    step = state.steps[-1]
    # Put away and not deleted, as every take is: it can be taken back from the log.
    step.take.put_away()
    scenes.change_scene(
        state.scene, {state.dial_in.path: step.value}, state.dial_in.name
    )
    return step.take


def log_frame(scene: Scene, height_m: float) -> None:
    """One more frame: how high the jet stands with the flash's delay as it is. Raises NotNow, DocumentError."""
    drops = scene.document.get("drops")
    if drops is None:
        raise NotNow(
            "This scene has no drops; open the tool “Drops that meet” from it first."
        )
    delay = places.get(scene.document, "trigger.set_delay_s")
    frames = [*drops["observations"], {"flash_delay_s": delay, "height_m": height_m}]
    scenes.change_scene(scene, {"drops.observations": frames}, "a frame of the jet")
