"""One's own cut-out as the subject of a scene."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from rapzel.shoots import services
from rapzel.shoots.documents import judged
from rapzel.workbench.cutouts import CutOutForm, beginning_of
from rapzel.workbench.views.common import find_scene, login_required


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes the picture and what of it moves; what is refused keeps everything that was entered but the file."""
    scene = find_scene(request, pk)
    document = judged(scene.document).to_document()
    now = document["rehearsal"]["cutout"]
    sent = (request.POST, request.FILES) if request.method == "POST" else (None, None)
    form = CutOutForm(*sent, now=now, initial=beginning_of(document))
    if form.is_valid():
        services.use_cutout(scene, form.cutout, form.cleaned_data["height"])
        messages.info(
            request, "The scene rehearses with your cut-out. Undo takes it back."
        )
        return redirect("workbench:scene", pk=pk)
    status = 422 if form.is_bound else 200
    return render(
        request,
        "workbench/cutout.html",
        {"scene": scene, "form": form, "now": now},
        status=status,
    )


@login_required
@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Rehearses with the drawn figure again."""
    services.remove_cutout(find_scene(request, pk))
    messages.info(request, "The cut-out is out of the scene. Undo brings it back.")
    return redirect("workbench:scene", pk=pk)
