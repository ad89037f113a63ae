"""Changing a scene. Every change is saved at once and answered at once; what is refused changes nothing."""

import json
from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_POST

from rapzel.core.errors import CoreError, DocumentError, UnitError
from rapzel.core.paths import get
from rapzel.core.presets import USUAL_SPEEDS
from rapzel.kit.models import Camera, Lens, Modifier, Strobe, Trigger
from rapzel.shoots import services
from rapzel.shoots.fields import Field, field_at
from rapzel.shoots.models import Scene
from rapzel.shoots.views.common import find_scene, login_required, respond


def _imperial(request: HttpRequest) -> bool:
    return bool(getattr(request.user, "imperial", False))


def _field(request: HttpRequest, scene: Scene) -> Field:
    path, member = request.POST.get("path", ""), request.POST.get("member", "")
    try:
        field = field_at(scene.document, path, member, _imperial(request))
    except CoreError:
        field = None
    if field is None:
        raise Http404(f"No input writes to “{path[:80]}”.")
    return field


def _refused(request: HttpRequest, field: Field, error: CoreError) -> HttpResponse:
    """The reason beside the input that caused it; the page keeps what was typed, the scene stays as it was."""
    said = str(error)
    if isinstance(error, DocumentError):
        own = [each.reason for each in error.problems if each.path == field.path]
        others = [str(each) for each in error.problems if each.path != field.path]
        said = "; ".join([*own, *others])
    said = f"{said[:1].upper()}{said[1:]}"
    response = render(request, "shoots/_refused.html", {"field": field, "says": said}, status=422)
    response["HX-Reswap"] = "none"
    response["HX-Trigger"] = json.dumps({"rapzel:refused": {"key": field.key}})
    return response


@login_required
@require_POST
def set_value(request: HttpRequest, pk: int) -> HttpResponse:
    """Sets one input from what was typed."""
    scene = find_scene(request, pk)
    field = _field(request, scene)
    try:
        value = field.read(request.POST.get("value", ""), scene.document, _imperial(request))
        services.change_scene(scene, {field.path: value}, field.label)
    except CoreError as error:
        return _refused(request, field, error)
    return respond(request, scene, field.structural)


@login_required
@require_POST
def step_value(request: HttpRequest, pk: int) -> HttpResponse:
    """Steps one input up or down, from what is typed in it."""
    scene = find_scene(request, pk)
    field = _field(request, scene)
    direction = 1 if request.POST.get("direction") == "up" else -1
    value = get(scene.document, field.path)
    try:
        typed = request.POST.get("typed", "")
        if typed.strip():
            value = field.read(typed, scene.document, _imperial(request))
    except UnitError:
        pass  # steps from the stored value: what is typed is not a value yet
    if not field.quantity or value is None:
        return respond(request, scene)
    try:
        services.change_scene(scene, {field.path: field.stepped(value, direction)}, field.label)
    except CoreError as error:
        return _refused(request, field, error)
    return respond(request, scene, forced=field.key)


# --- verbs that change the shape of a scene -----------------------------------------------------------------------


def _own(request: HttpRequest, model: Any) -> Any:
    return get_object_or_404(model.objects.visible_to(request.user), pk=_number(request, "pk"))


def _number(request: HttpRequest, name: str) -> int:
    try:
        return int(request.POST.get(name, ""))
    except ValueError:
        raise Http404 from None


def _apply(request: HttpRequest, scene: Scene) -> None:
    try:
        values = json.loads(request.POST.get("values", ""))
    except ValueError:
        raise Http404 from None
    allowed = isinstance(values, dict) and all(field_at(scene.document, path) for path in values)
    if not allowed:
        raise Http404
    services.change_scene(scene, values, "a proposal")


def _use_lens(request: HttpRequest, scene: Scene) -> None:
    lens = _own(request, Lens)
    services.change_scene(scene, {"lens.name": lens.name, "lens.focal_length_mm": lens.focal_length_mm}, "another lens")


def _use_speed(request: HttpRequest, scene: Scene) -> None:
    place = _number(request, "pk")
    if not 0 <= place < len(USUAL_SPEEDS):
        raise Http404
    services.use_speed(scene, USUAL_SPEEDS[place].usual_m_s)


def _use_modifier(request: HttpRequest, scene: Scene) -> None:
    modifier, at = _own(request, Modifier), f"lights[{_number(request, 'place')}]"
    values = {f"{at}.loss_stops": modifier.loss_stops, f"{at}.source_size_m": modifier.source_size_m}
    services.change_scene(scene, values, "another modifier")


VERBS: dict[str, Callable[[HttpRequest, Scene], Any]] = {
    "apply": _apply,
    "undo": lambda request, scene: services.undo(scene),
    "add-light": lambda request, scene: services.add_light(scene, _own(request, Strobe).to_core()),
    "remove-light": lambda request, scene: services.remove_light(scene, _number(request, "place")),
    "use-strobe": lambda request, scene: services.use_strobe(
        scene, _number(request, "place"), _own(request, Strobe).to_core()
    ),
    "use-camera": lambda request, scene: services.use_camera(scene, _own(request, Camera).to_core()),
    "use-lens": _use_lens,
    "use-speed": _use_speed,
    "use-modifier": _use_modifier,
    "add-link": lambda request, scene: services.add_link(scene, _own(request, Trigger).to_core()),
    "remove-link": lambda request, scene: services.remove_link(scene, _number(request, "place")),
}


@login_required
@require_POST
def act(request: HttpRequest, pk: int, verb: str) -> HttpResponse:
    """Does one of the verbs; a refusal is shown as a notice and changes nothing."""
    if verb not in VERBS:
        raise Http404
    scene = find_scene(request, pk)
    try:
        VERBS[verb](request, scene)
    except CoreError as error:
        response = render(request, "shoots/_notice.html", {"says": str(error)}, status=422)
        response["HX-Retarget"], response["HX-Reswap"] = "#notices", "beforeend"
        return response
    return respond(request, scene, structural=True)
