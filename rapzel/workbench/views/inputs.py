"""Changing a scene. Every change is saved at once and answered at once; what is refused changes nothing."""

import re
from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST
from django_htmx.http import reswap, trigger_client_event

from rapzel.core.document.places import get, located
from rapzel.core.motion.presets import USUAL_SPEEDS
from rapzel.core.shared.errors import CoreError, DocumentError, UnitError
from rapzel.core.shared.refusals import spoken
from rapzel.core.trigger.links import KINDS as LINK_KINDS
from rapzel.kit.models import Camera, Lens, Modifier, Strobe, Trigger
from rapzel.shoots import history, light_services, services
from rapzel.shoots.models import Scene
from rapzel.ui import http
from rapzel.ui.inputs.person import likes_feet
from rapzel.workbench import rooms
from rapzel.workbench.fields import Field
from rapzel.workbench.groups import field_at
from rapzel.workbench.views.common import (
    find_scene,
    is_out_of_date,
    login_required,
    out_of_date,
    respond,
)


def _field(request: HttpRequest, scene: Scene) -> Field | None:
    """The input that is meant; None where the scene has no such input, or none any more."""
    path, member = request.POST.get("path", ""), request.POST.get("member", "")
    try:
        # A path that leads nowhere is refused by the core, and is no input.
        return field_at(scene.document, path, member, likes_feet())
    except CoreError:
        return None


def _no_field(request: HttpRequest, scene: Scene) -> HttpResponse:
    if is_out_of_date(request, scene):
        return out_of_date(
            request, scene, "That input is no longer in this scene; nothing was set."
        )
    raise Http404(f"No input writes to “{request.POST.get('path', '')[:80]}”.")


def _refused(
    request: HttpRequest, scene: Scene, field: Field, error: CoreError
) -> HttpResponse:
    """The reason beside the input that caused it; the page keeps what was typed, the scene stays as it was."""
    said = str(error)
    if isinstance(error, DocumentError):
        # A path names a light by identity, a problem by its number: both are brought to one form.
        at = located(scene.document, field.path)
        own = [each.reason for each in error.problems if each.path == at]
        others = [str(each) for each in error.problems if each.path != at]
        # The reason of this input first: it is the one that the person can see.
        said = "; ".join([*own, *others])
    response = render(
        request,
        "workbench/_refused.html",
        {"field": field, "says": spoken(said)},
        status=422,
    )
    return trigger_client_event(
        # Nothing of the page is swapped, so that what was typed stays under the cursor.
        reswap(response, "none"),
        "rapzel:refused",
        {"key": field.key},
    )


@login_required
@require_POST
def set_value(request: HttpRequest, pk: int) -> HttpResponse:
    """Sets one input from what was typed."""
    scene = find_scene(request, pk)
    field = _field(request, scene)
    if field is None:
        return _no_field(request, scene)
    try:
        value = field.read(request.POST.get("value", ""), scene.document, likes_feet())
        found = services.change_scene(scene, {field.path: value}, field.label)
    except CoreError as error:
        return _refused(request, scene, field, error)
    return respond(request, scene, structural=field.structural, found=found)


@login_required
@require_POST
def step_value(request: HttpRequest, pk: int) -> HttpResponse:
    """Steps one input up or down, from what is typed in it."""
    scene = find_scene(request, pk)
    field = _field(request, scene)
    if field is None:
        return _no_field(request, scene)
    if request.POST.get("direction") == "up":
        direction = 1
    else:
        direction = -1
    # (used where nothing that can be read is typed)
    value = get(scene.document, field.path)
    try:
        typed = request.POST.get("typed", "")
        if typed.strip():
            value = field.read(typed, scene.document, likes_feet())
    except UnitError:
        pass  # steps from the stored value: what is typed is not a value yet
    if not field.quantity or value is None:
        return respond(request, scene)
    try:
        found = services.change_scene(
            scene, {field.path: field.stepped(value, direction)}, field.label
        )
    except CoreError as error:
        return _refused(request, scene, field, error)
    # Forced: the input that is stepped has the focus, and must show its new value all the same.
    return respond(request, scene, forced=field.key, found=found)


# --- verbs that change the shape of a scene -----------------------------------------------------------------------


def _own(request: HttpRequest, model: Any) -> Any:
    return get_object_or_404(
        model.objects.visible_to(request.user), pk=_number(request, "pk")
    )


def _number(request: HttpRequest, name: str) -> int:
    try:
        return int(request.POST.get(name, ""))
    except ValueError:
        raise Http404 from None


def _item(request: HttpRequest) -> str:
    """The identity of the light or link that is meant."""
    return request.POST.get("item", "")[:40]


def _apply(request: HttpRequest, scene: Scene) -> int:
    values = http.parse_json(request.POST.get("values", ""))
    if not isinstance(values, dict) or not all(
        # A proposal is posted by the page, so that it may set what inputs set and no more.
        _may_be_set(scene, path)
        for path in values
    ):
        raise Http404
    return services.change_scene(scene, values, "a proposal")


# What proposals set beside the inputs: another strobe of the scene in the place of a slow one.
_A_STROBE = re.compile(r"lights\[#[\w-]{1,40}\]\.(strobe|mode)")


def _may_be_set(scene: Scene, path: str) -> bool:
    return bool(_A_STROBE.fullmatch(path)) or field_at(scene.document, path) is not None


def _use_lens(request: HttpRequest, scene: Scene) -> int:
    lens = _own(request, Lens)
    # A lens brings its length; how far the subject is away is the scene's.
    values = {"lens.name": lens.name, "lens.focal_length_mm": lens.focal_length_mm}
    return services.change_scene(scene, values, "another lens")


def _use_speed(request: HttpRequest, scene: Scene) -> int:
    # Usual speeds are a fixed list: they are chosen by their place in it.
    place = _number(request, "pk")
    if not 0 <= place < len(USUAL_SPEEDS):
        raise Http404
    return services.use_speed(scene, USUAL_SPEEDS[place])


def _use_room(request: HttpRequest, scene: Scene) -> int:
    name = dict(rooms.PRESETS).get(request.POST.get("pk", ""))
    if name is None:
        raise Http404
    return services.use_room(scene, name)


def _use_modifier(request: HttpRequest, scene: Scene) -> int:
    modifier, at = _own(request, Modifier), f"lights[#{_item(request)}]"
    values = {
        f"{at}.loss_stops": modifier.loss_stops,
        # Its size is no loss: it warns where a light is too near for its guide number.
        f"{at}.source_size_m": modifier.source_size_m,
    }
    return services.change_scene(scene, values, "another modifier")


def _add_link(request: HttpRequest, scene: Scene) -> int:
    """A trigger of the kit, or a new link of a kind."""
    kind = request.POST.get("pk", "")
    if kind in LINK_KINDS:
        return services.add_link(scene, {"kind": kind, **LINK_KINDS[kind].beginning})
    return services.add_link(scene, _own(request, Trigger).to_core())


def _use_strobe(request: HttpRequest, scene: Scene) -> int:
    return light_services.use_strobe(
        scene, _item(request), _own(request, Strobe).to_core()
    )


VERBS: dict[str, Callable[[HttpRequest, Scene], int]] = {
    "apply": _apply,
    "add-light": lambda request, scene: light_services.add_light(
        scene, _own(request, Strobe).to_core()
    ),
    "copy-light": lambda request, scene: light_services.copy_light(
        scene, _item(request)
    ),
    "remove-light": lambda request, scene: light_services.remove_light(
        scene, _item(request)
    ),
    "equal-powers": lambda request, scene: light_services.equalise_powers(scene),
    "add-lamp": lambda request, scene: light_services.add_lamp(
        scene, request.POST.get("pk", "")
    ),
    "remove-lamp": lambda request, scene: light_services.remove_lamp(
        scene, _item(request)
    ),
    "use-strobe": _use_strobe,
    "use-camera": lambda request, scene: services.use_camera(
        scene, _own(request, Camera).to_core()
    ),
    "use-lens": _use_lens,
    "use-speed": _use_speed,
    "use-room": _use_room,
    "use-modifier": _use_modifier,
    "add-link": _add_link,
    "remove-link": lambda request, scene: services.remove_link(scene, _item(request)),
}
STEPS = {"undo": history.undo, "redo": history.redo}
# What these do is told by what the page shows, so they are not done on an older scene than the one that is stored.
_ONLY_ON_WHAT_IS_SHOWN = {
    "apply": "The proposal was for another scene than this one.",
    "undo": "Nothing was undone: press Undo again to take back the last change, whoever made it.",
    "redo": "Nothing was done again: press Redo again.",
}


@login_required
@require_POST
def act(request: HttpRequest, pk: int, verb: str) -> HttpResponse:
    """Does one of the verbs; a refusal is shown as a notice and changes nothing."""
    if verb not in VERBS and verb not in STEPS:
        raise Http404
    scene = find_scene(request, pk)
    # What a person meant by “undo” is the change that the page shows last.
    if verb in _ONLY_ON_WHAT_IS_SHOWN and is_out_of_date(request, scene):
        return out_of_date(request, scene, _ONLY_ON_WHAT_IS_SHOWN[verb])
    if verb in STEPS:
        STEPS[verb](scene)
        # Asked from a page that has no answer of which a part could be renewed.
        if "page" in request.POST:
            return redirect("workbench:scene", pk=pk)
        return respond(request, scene, structural=True)
    try:
        found = VERBS[verb](request, scene)
    except CoreError as error:
        if is_out_of_date(request, scene):
            return out_of_date(request, scene, f"Nothing was changed: {error}.")
        return http.notice(request, str(error))
    return respond(request, scene, structural=True, found=found)
