"""Signing up and choosing how things are shown. Logging in and out are Django's own views, throttled by axes."""

from datetime import timedelta

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from rapzel.accounts.forms import SignUpForm
from rapzel.accounts.models import SignUpAttempt, User


def _too_many_sign_ups(address: str | None) -> bool:
    an_hour_ago = timezone.now() - timedelta(hours=1)
    SignUpAttempt.objects.filter(at__lt=an_hour_ago).delete()
    return SignUpAttempt.objects.filter(address=address).count() >= settings.SIGN_UPS_AN_HOUR


@require_http_methods(["GET", "POST"])
def sign_up(request: HttpRequest) -> HttpResponse:
    """A new account, logged in at once; a limited number an hour from one address."""
    if request.user.is_authenticated:
        return redirect(settings.LOGIN_REDIRECT_URL)
    form = SignUpForm(request.POST or None)
    if request.method == "POST":
        address = request.META.get("REMOTE_ADDR")
        if _too_many_sign_ups(address):
            return render(request, "accounts/too_many.html", status=429)
        if form.is_valid():
            SignUpAttempt.objects.create(address=address)
            login(request, form.save(), backend="django.contrib.auth.backends.ModelBackend")
            return redirect(settings.LOGIN_REDIRECT_URL)
    return render(request, "accounts/sign_up.html", {"form": form}, status=422 if form.errors else 200)


@login_required
@require_POST
def preferences(request: HttpRequest) -> HttpResponse:
    """Stores the theme or the units; a value that is not offered changes nothing."""
    user = request.user
    assert isinstance(user, User)
    theme = request.POST.get("theme")
    if theme in User.Theme.values:
        user.theme = theme
    if "imperial" in request.POST:
        user.imperial = request.POST["imperial"] == "1"
    user.save(update_fields=["theme", "imperial"])
    return HttpResponse(status=204)
