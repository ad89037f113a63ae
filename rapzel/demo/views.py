"""One click into the demo account. This app is not installed in production."""

from django.contrib.auth import get_user_model, login
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from rapzel.demo.world import DEMO_USER


@require_POST
def enter(request: HttpRequest) -> HttpResponse:
    """Logs in as the demo account, which has no password of its own."""
    user = get_object_or_404(get_user_model(), username=DEMO_USER)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("workbench:shoots")
