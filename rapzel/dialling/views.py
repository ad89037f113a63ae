"""The dial-in page of a scene, and the trigger unit beside it. No view waits for a unit: it reads how far a shot is."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils.cache import patch_cache_control
from django.views.decorators.http import require_POST, require_safe

from rapzel.core.decoding.apart import DecoderBusy
from rapzel.core.shared.errors import CoreError, UnitError
from rapzel.dialling import pictures, services, shots
from rapzel.dialling.holding import UnitHeld
from rapzel.dialling.models import Shot
from rapzel.dialling.page import DialPage, context_of
from rapzel.dialling.services import Judgement
from rapzel.dialling.state import Dialling, NotNow, open_of
from rapzel.shoots.models import Scene
from rapzel.takes.sent import Sent
from rapzel.ui import http
from rapzel.ui.inputs import QUANTITIES, read
from rapzel.workbench.views.common import (
    answer_of,
    find_scene,
    kept_while_it_stands,
    login_required,
)

_NONE_OPEN = "No knob is being dialled in. Choose one first."


def _state(request: HttpRequest, scene: Scene) -> Dialling:
    """The dial-in under way. Raises NotNow where there is none."""
    state = context_of(request, scene)["state"]
    if state is None:
        raise NotNow(_NONE_OPEN)
    found: Dialling = state
    return found


def _dial(request: HttpRequest, scene: Scene) -> HttpResponse:
    """The dial after a change."""
    return render(request, "dialling/_changed.html", context_of(request, scene))


@login_required
@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """One knob of a scene, dialled in."""
    return render(
        request, "dialling/page.html", context_of(request, find_scene(request, pk))
    )


@login_required
@require_POST
def begin(request: HttpRequest, pk: int) -> HttpResponse:
    """Begins with a knob; the one before is left."""
    scene = find_scene(request, pk)
    try:
        services.begin(
            scene,
            # Cut before it is looked at: no path of a knob comes near that, and nothing longer is
            # echoed.
            request.POST.get("path", "")[:200],
            request.POST.get("judged") == "eye",
        )
    except CoreError as error:
        return http.notice(request, str(error))
    return _dial(request, scene)


@login_required
@require_POST
def outcome(request: HttpRequest, pk: int) -> HttpResponse:
    """Early, late or on: logs the try and says what to set next. A key pressed twice counts once.

    A try that waited in the browser comes with the dial-in that it belongs to, and with what the knob was set to.
    """
    scene = find_scene(request, pk)
    try:
        state = _dialled_of(request, scene)
        judgement = _judgement(request, state)
        # A try sent twice, from a bad line or another tab, is answered with the dial as it stands.
        if services.is_logged(state, judgement.sent.key):
            return _dial(request, scene)
        # The page has fallen behind: its button was pressed for a try that is no longer the last
        # one.
        if request.POST.get("seen", "") not in ("", str(len(state.steps))):
            return _dial(request, scene)
        # A picture of a simulated shot counts only with the plan that it was fired with.
        shot = _judged(request, scene, services.as_tried(state, judgement.tried))
        # Refused before the picture is decoded, which takes longest.
        services.require_judgeable(state, judgement)
        seen = services.seen_of(scene, shot, request.FILES.get("picture"))
        services.record(state, judgement, shot, seen)
    except DecoderBusy as error:
        return http.notice(request, str(error), status=503)
    except CoreError as error:
        return http.notice(request, str(error))
    return _dial(request, scene)


def _dialled_of(request: HttpRequest, scene: Scene) -> Dialling:
    """The dial-in that a try belongs to. Raises NotNow where that is not the one under way."""
    wanted = request.POST.get("dial_in", "")
    now_open = open_of(scene)
    # Logged under the knob of today, a try of yesterday's would teach the wrong one.
    if wanted and (now_open is None or str(now_open.pk) != wanted):
        raise NotNow(
            "This try belongs to a dial-in that was left. Go on with that one, under “Before”, and the try counts."
        )
    return _state(request, scene)


def _judgement(request: HttpRequest, state: Dialling) -> Judgement:
    words = {
        name: request.POST.get(name, "")[:1000] for name in ("outcome", "off", "note")
    }
    tried = http.number_of(request.POST.get("tried", ""))
    # Only a try of another value than is set now has to be put into the plan of its time.
    if state.knob is not None and tried == state.knob.value:
        tried = None
    return Judgement(**words, sent=Sent.read(request.POST), tried=tried)


def _judged(
    request: HttpRequest, scene: Scene, tried: services.Document
) -> Shot | None:
    """The shot that was looked at, where it was fired with the plan that was tried."""
    keys = http.keys_of([request.POST.get("shot", "")])
    if keys:
        shot = scene.shots.filter(pk=keys[0]).first()
    else:
        shot = None
    # A shot that failed, or of a plan since changed, shows nothing that could be judged.
    if shot is not None and shot.tells and shot.document == tried:
        return shot
    return None


@login_required
@require_POST
def value(request: HttpRequest, pk: int) -> HttpResponse:
    """Sets the knob to a value of the person's own."""
    scene = find_scene(request, pk)
    try:
        state = _state(request, scene)
        if state.knob is None:
            raise NotNow(state.says)
        # A knob is a time, a length or a number: read like the input of the scene it turns.
        quantity = QUANTITIES[state.knob.quantity]
        services.set_value(
            state,
            quantity.parse(request.POST.get("value", "")[:60], state.answer.imperial),
        )
    except CoreError as error:
        return http.notice(request, str(error))
    return _dial(request, scene)


@login_required
@require_POST
def undo(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes the last outcome back."""
    scene = find_scene(request, pk)
    try:
        if services.undo_last(_state(request, scene)) is None:
            raise NotNow("Nothing was tried yet.")
    except CoreError as error:
        return http.notice(request, str(error))
    return _dial(request, scene)


@login_required
@require_POST
def set_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts back what else was moved; or begins anew with it as it is now."""
    scene = find_scene(request, pk)
    try:
        state = _state(request, scene)
        # What was moved was meant: the tries before it say nothing any more, so it begins anew.
        if request.POST.get("keep"):
            services.begin(scene, state.dial_in.path, state.dial_in.by_eye)
        else:
            services.set_back(state)
    except CoreError as error:
        return http.notice(request, str(error))
    return _dial(request, scene)


@login_required
@require_POST
def leave(request: HttpRequest, pk: int) -> HttpResponse:
    """Leaves the knob; what was logged stays."""
    scene = find_scene(request, pk)
    services.leave(scene)
    return _dial(request, scene)


@login_required
@require_POST
def resume(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes up a knob that was left."""
    scene = find_scene(request, pk)
    try:
        services.resume(
            # What is not a number is no dial-in's key: 0 is nobody's, and says “not found” in
            # words.
            scene,
            next(iter(http.keys_of([request.POST.get("dial_in", "")])), 0),
        )
    except CoreError as error:
        return http.notice(request, str(error))
    return _dial(request, scene)


@login_required
@require_POST
def frame(request: HttpRequest, pk: int) -> HttpResponse:
    """Logs how high the jet's tip stands in the frame."""
    scene = find_scene(request, pk)
    try:
        services.log_frame(scene, read("length", request.POST.get("height", "")[:60]))
    except CoreError as error:
        return http.notice(request, str(error))
    return _dial(request, scene)


@login_required
@require_POST
def fire(request: HttpRequest, pk: int) -> HttpResponse:
    """Pushes the scene's timing to the unit, arms it and fires; how far it is comes by asking for the unit's part."""
    scene = find_scene(request, pk)
    shown = _with_unit(request, scene)
    try:
        # A shot with two things changed could not be told apart in its picture.
        if shown.state is not None and shown.state.moved:
            raise NotNow(
                "Something else was moved as well: set it back first, or begin anew."
            )
        channel = _channel(request.POST.get("channel", "1"))
    except CoreError as error:
        return http.notice(request, str(error))
    return _begun(
        request, scene, shown.sent(channel), fault=request.POST.get("fault", "none")
    )


def _begun(
    request: HttpRequest, scene: Scene, sent: shots.Sent, **how: Any
) -> HttpResponse:
    """The unit's part with a conversation begun; where somebody else has the unit, with who and since when."""
    held = ""
    try:
        # The conversation with the unit runs beside the request; the page asks how far it is.
        shots.begin(scene, sent, **how)
    except UnitHeld as error:
        held = str(error)
    return render(
        request, "dialling/_unit.html", {**context_of(request, scene), "held": held}
    )


def _channel(text: str) -> int:
    if not (
        text.isascii() and text.isdigit() and len(text) < 3 and 1 <= int(text) <= 16
    ):
        raise UnitError(text[:20], "a channel", "1 to 16")
    return int(text)


def _with_unit(request: HttpRequest, scene: Scene) -> DialPage:
    shown: DialPage = context_of(request, scene)["shown"]
    if not shown.has_unit:
        raise Http404
    return shown


@login_required
@require_POST
def log(request: HttpRequest, pk: int) -> HttpResponse:
    """Logs the last shot as a take, where no knob is being dialled in."""
    scene = find_scene(request, pk)
    shown = _with_unit(request, scene)
    try:
        # A shot of an older plan would be logged as if it had been taken with today's.
        if shown.judged is None:
            raise NotNow(
                "No shot of the plan as it is now is left to be logged. Fire first."
            )
        seen = services.seen_of(scene, shown.judged)
        services.log_shot(
            scene, shown.judged, request.POST.get("outcome", "")[:20], seen
        )
    except CoreError as error:
        return http.notice(request, str(error))
    return render(request, "dialling/_unit.html", context_of(request, scene))


@login_required
@require_POST
def wake(request: HttpRequest, pk: int) -> HttpResponse:
    """Wakes the unit up."""
    scene = find_scene(request, pk)
    shown = _with_unit(request, scene)
    return _begun(request, scene, shown.sent(shown.channel), wakes=True)


@login_required
@require_safe
def unit(request: HttpRequest, pk: int) -> HttpResponse:
    """How far the shot is."""
    return render(
        request, "dialling/_unit.html", context_of(request, find_scene(request, pk))
    )


@login_required
@require_safe
def wanted(request: HttpRequest, pk: int) -> HttpResponse:
    """What the picture should look like."""
    answer = answer_of(request, find_scene(request, pk))
    image, content_type = pictures.wanted_of(answer)
    response = HttpResponse(image, content_type=content_type)
    return kept_while_it_stands(request, response, answer.fingerprint)


@login_required
@require_safe
def picture(request: HttpRequest, pk: int) -> HttpResponse:
    """What a camera would have taken of a simulated shot."""
    shot = get_object_or_404(Shot.objects.visible_to(request.user), pk=pk)
    found = pictures.picture_of(shot)
    if found is None:
        raise Http404
    response = HttpResponse(found[0], content_type=found[1])
    # A shot never changes, so its picture does not either; private, for it is one person's.
    patch_cache_control(response, private=True, max_age=3600, immutable=True)
    return response
