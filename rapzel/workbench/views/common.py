"""Finding what a person may see, and rendering an answer."""

from typing import Any

from django.contrib.auth.decorators import login_required
from django.db.models import Value
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils.cache import patch_cache_control
from django_htmx.http import trigger_client_event

from rapzel.core.motion.presets import USUAL_SPEEDS
from rapzel.core.trigger.links import KINDS as LINK_KINDS
from rapzel.kit.models import Camera, Lens, Modifier, Strobe, Trigger
from rapzel.shoots import history
from rapzel.shoots.models import Scene, Snapshot
from rapzel.ui import zones
from rapzel.ui.inputs.person import likes_feet
from rapzel.workbench import fragments, renewal, rooms
from rapzel.workbench.answer import Answer, answered
from rapzel.workbench.drawings import TIMES, TITLES, VIEWS
from rapzel.workbench.groups import all_fields
from rapzel.workbench.lights import LAMP_CHOICES
from rapzel.workbench.pages import ScenePage, page_of, register
from rapzel.workbench.way import comes_next, marks_of

__all__ = ["answer_of", "find_scene", "login_required", "page_context", "respond"]


def find_scene(request: HttpRequest, pk: int) -> Scene:
    """The person's own scene with its shoot, whose clock is used from here; 404 for anybody else's."""
    own = Scene.objects.visible_to(request.user).select_related("shoot")
    scene = get_object_or_404(own, pk=pk)
    # Times of a shoot are read on its own clock, wherever the person sits.
    zones.use(scene.shoot.zone)
    return scene


def find_snapshot(request: HttpRequest, pk: int, snapshot: int) -> Snapshot:
    """A pinned snapshot of the person's own scene; 404 for anybody else's, and for one that was removed."""
    living = Snapshot.objects.filter(deleted_at__isnull=True).select_related(
        "scene__shoot"
    )
    return get_object_or_404(living, scene=find_scene(request, pk), pk=snapshot)


def answer_of(request: HttpRequest, scene: Scene) -> Answer:
    """The scene answered in the person's units, its ribbon as wide as the screen (which the page's script tells)."""
    # Without the cookie, at the very first visit, the wide one; the script then asks anew.
    narrow = request.COOKIES.get("narrow") == "1"
    return answered(scene.document, likes_feet(), narrow)


def chosen_view(request: HttpRequest) -> str:
    """Which view stands under the rehearsal: as asked, else as it was."""
    asked = (
        request.GET.get("view")
        or request.POST.get("view")
        or request.COOKIES.get("view", "")
    )
    # A cookie may name a view of an older release.
    if asked in VIEWS:
        return asked
    return TIMES


def kit_choices(request: HttpRequest) -> dict[str, Any]:
    """What the pickers offer: names only; the rest is read when one is chosen."""
    kinds = {
        "strobe": Strobe,
        "camera": Camera,
        "lens": Lens,
        "trigger": Trigger,
        "modifier": Modifier,
    }
    # Five kinds in one query, where five would cost more than the scene's own rows.
    named = [
        model.objects.visible_to(request.user)
        .order_by()
        .annotate(of=Value(key))
        .values_list("of", "pk", "name")
        for key, model in kinds.items()
    ]
    own: dict[str, list[tuple[Any, str]]] = {key: [] for key in kinds}
    for key, pk, name in named[0].union(*named[1:], all=True).order_by("name", "pk"):
        own[key].append((pk, name))
    # A link can be begun without owning one in the kit.
    plain = [(kind, f"new: {link.title}") for kind, link in LINK_KINDS.items()]
    own["trigger"] = [*own["trigger"], *plain]
    return {
        **own,
        "lamp": LAMP_CHOICES,
        "room": rooms.PRESETS,
        "speed": [(place, each.says) for place, each in enumerate(USUAL_SPEEDS)],
    }


def inputs_context(
    request: HttpRequest, scene: Scene, answer: Answer, only: tuple[str, ...] = ()
) -> dict[str, Any]:
    """The inputs, written out with what the kit offers and what it has come to know; `only` some of the groups."""
    # Only strobes of this scene are looked up: the rest of the kit has nothing to tell it.
    known = renewal.known_strobes(request.user, [scene.document])
    newer = renewal.newer_figures(scene.document, known)
    context = {"kit": kit_choices(request), "newer": newer, "only": only}
    return {"inputs": fragments.inputs_of(scene, answer, context)}


def page_context(request: HttpRequest, scene: Scene, answer: Answer) -> dict[str, Any]:
    """What the answer's templates need."""
    view = chosen_view(request)
    shown = {"view": view, "views": TITLES.items(), "drawing": answer.view(view)}
    return {
        "scene": scene,
        "answer": answer,
        "comes_next": comes_next(scene, "workbench:scene", answer),
        "answer_part": fragments.answer_of(scene, answer, keep=request.method == "GET"),
        **shown,
    }


register(ScenePage("workbench", "workbench/_changed.html", page_context))


def seen_revision(request: HttpRequest) -> int | None:
    """The revision of the scene that the page was made from; None where it does not say."""
    text = request.POST.get("revision") or request.GET.get("revision") or ""
    # int() would also read digits of other scripts, and numbers that no row has.
    if text.isascii() and text.isdigit() and len(text) < 10:
        return int(text)
    return None


def is_out_of_date(request: HttpRequest, scene: Scene) -> bool:
    """Whether the page shows an older scene than the one that is stored."""
    # A page that does not say is trusted: files and tests post without one.
    return seen_revision(request) not in (None, scene.revision)


def respond(
    request: HttpRequest,
    scene: Scene,
    *,
    structural: bool = False,
    forced: str = "",
    found: int | None = None,
) -> HttpResponse:
    """The answer after a change: its fragment, the states of the groups, and what the inputs should show.

    With `structural`, the inputs are made anew as well; `forced` is the path of an input that must show its value
    even while it is being edited; `found` is the revision that was changed: where the page was made from an older
    one, it is told what happened meanwhile, and its inputs are made anew.
    """
    seen = seen_revision(request)
    says = ""
    # The change was taken in, on a newer scene than the page showed: it has to be told.
    if found is not None and seen is not None and seen < found:
        words = history.changed_between(scene, seen, found) or "this scene"
        says = f"Changed in another tab meanwhile: {words}. This page shows it now, with your change."
    return _fragment(
        request, scene, structural=structural or bool(says), forced=forced, says=says
    )


def out_of_date(request: HttpRequest, scene: Scene, why: str) -> HttpResponse:
    """Nothing was changed, because the page showed an older scene: the notice why, and everything shown anew."""
    words = (
        history.changed_between(scene, seen_revision(request) or 0, scene.revision)
        or "this scene"
    )
    says = f"{why} Changed in another tab meanwhile: {words}. This page shows it now."
    response = _fragment(request, scene, structural=True, says=says)
    # A conflict and no error of the person's: the page shows what is true now.
    response.status_code = 409
    return response


def _fragment(
    request: HttpRequest,
    scene: Scene,
    *,
    structural: bool,
    forced: str = "",
    says: str = "",
) -> HttpResponse:
    answer, page = answer_of(request, scene), page_of(request)
    context = {
        **page.context(request, scene, answer),
        "marks": marks_of(answer),
        "structural": structural,
        "says": says,
    }
    if structural:
        context |= inputs_context(request, scene, answer, page.groups)
    response = render(request, page.changed, context)
    # What each input shows now; the page writes it into those that are not being typed in.
    shown = {field.key: field.text for field in all_fields(answer.groups)}
    event = {"fields": shown, "forced": forced, "rehearsal": answer.fingerprint}
    # Told before the swap: a change that waits in the queue is sent as soon as this answer is in.
    trigger_client_event(response, "rapzel:revision", {"revision": scene.revision})
    return trigger_client_event(response, "rapzel:changed", event, after="settle")


def kept_while_it_stands(
    request: HttpRequest, response: HttpResponse, fingerprint: str
) -> HttpResponse:
    """A figure may be kept by the browser under an address that carries its document's fingerprint, else never."""
    # The address changes with the document, so that what is kept under it is always right.
    if request.GET.get("v") == fingerprint:
        patch_cache_control(response, private=True, max_age=3600, immutable=True)
    else:
        patch_cache_control(response, private=True, no_store=True)
    return response
