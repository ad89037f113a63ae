"""Signing up, how things are shown, and leaving. Logging in and out are Django's own views, throttled by axes."""

from datetime import timedelta

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login, logout
from django.contrib.auth.decorators import login_required
from django.db import IntegrityError, transaction
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import (
    require_http_methods,
    require_POST,
    require_safe,
)

from rapzel.accounts import throttle
from rapzel.accounts.address import client_address
from rapzel.accounts.doors import closed
from rapzel.accounts.forms import (
    ClockForm,
    FarewellForm,
    LettersForm,
    SignUpForm,
    WithPassword,
)
from rapzel.accounts.models import SignUpAttempt, User
from rapzel.ui import archive, zones


def _too_many_sign_ups(address: str | None) -> bool:
    """Counts this try. Tries that fail count as well: they tell which names are taken."""
    an_hour_ago = timezone.now() - timedelta(hours=1)
    # Old tries go with each new one, so that no address is kept longer than it is needed.
    SignUpAttempt.objects.filter(at__lt=an_hour_ago).delete()
    tries = SignUpAttempt.objects.filter(address=address).count()
    # Beyond the limit none is counted, so that a wait of an hour is enough.
    if tries < settings.SIGN_UPS_AN_HOUR:
        SignUpAttempt.objects.create(address=address)
    return tries >= settings.SIGN_UPS_AN_HOUR


@require_http_methods(["GET", "HEAD", "POST"])
def sign_up(request: HttpRequest) -> HttpResponse:
    """A new account, logged in at once; a limited number of tries an hour from one address."""
    # Somebody who is logged in has no use for a second account by mistake.
    if request.user.is_authenticated:
        return redirect(settings.LOGIN_REDIRECT_URL)
    form = SignUpForm(request.POST or None)
    if request.method == "POST":
        if _too_many_sign_ups(client_address(request)):
            return render(request, "accounts/too_many.html", status=429)
        if form.is_valid():
            user = _made(form)
        else:
            user = None
        if user is not None:
            login(request, user, backend="django.contrib.auth.backends.ModelBackend")
            return redirect(settings.LOGIN_REDIRECT_URL)
    return render(
        request,
        "accounts/sign_up.html",
        {"form": form},
        status=422 if form.errors else 200,
    )


def _made(form: SignUpForm) -> User | None:
    """The new account; None where another with this name was made at the same moment."""
    try:
        with transaction.atomic():
            return form.save()
    except IntegrityError:
        form.add_error("username", "A user with that username already exists.")
        return None


@require_safe
def session(request: HttpRequest, pk: int) -> HttpResponse:
    """Whether the browser is logged in as that account: 204, else 401. Asked by a page that found itself logged out."""
    return HttpResponse(status=204 if request.user.pk == pk else 401)


@login_required
@require_POST
def preferences(request: HttpRequest) -> HttpResponse:
    """Stores the theme, the units and the clock that a person likes; 422 for a time zone that there is none of."""
    user = request.user
    assert isinstance(user, User)
    theme = request.POST.get("theme")
    # A browser of an older page may send what there is no more; it is passed over.
    if theme in User.Theme.values:
        user.theme = theme
    if "imperial" in request.POST:
        user.imperial = request.POST["imperial"] == "1"
    zone = request.POST.get("zone", user.zone)
    if zone and not zones.is_known(zone):
        return HttpResponse(f"“{zone[:80]}” is not a time zone.", status=422)
    user.zone = zone
    # Only these: another tab may have changed the rest of the row meanwhile.
    user.save(update_fields=["theme", "imperial", "zone"])
    return HttpResponse(status=204)


@login_required
@require_POST
def clock(request: HttpRequest) -> HttpResponse:
    """Whose clock a person reads."""
    user = request.user
    assert isinstance(user, User)
    form = ClockForm(request.POST, instance=user)
    if form.is_valid():
        form.save()
        # From now on, so that the message itself speaks by the new clock.
        zones.use(user.zone or "UTC")
        messages.info(request, f"Times are shown in {zones.clock_says()}.")
    else:
        messages.error(request, "Not changed: choose a time zone from the list.")
    return redirect("accounts:account")


@login_required
@require_safe
def account(request: HttpRequest) -> HttpResponse:
    """Clock, password, everything to take along, and leaving."""
    context = {
        "letters": settings.LETTERS,
        "clock_form": ClockForm(instance=request.user),
    }
    return render(request, "accounts/account.html", context)


@login_required
@require_safe
def everything(request: HttpRequest) -> FileResponse:
    """All that a person has, as one ZIP file."""
    return FileResponse(
        archive.archive_of(request.user), as_attachment=True, filename="rapzel.zip"
    )


def _is_theirs(request: HttpRequest, form: WithPassword) -> bool:
    """Whether the form is valid; a password that is wrong is counted."""
    if "password" in form.errors and request.POST.get("password"):
        # A session that was left open must not become a place to guess passwords at.
        throttle.note(request, throttle.Kind.PASSWORD)
    return form.is_valid()


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def letters(request: HttpRequest) -> HttpResponse:
    """Where a letter goes when the password is forgotten; there are none where the operator named no server."""
    user = request.user
    assert isinstance(user, User)
    # A page that could keep no promise is not there at all.
    if not settings.LETTERS or not user.has_usable_password():
        raise Http404
    form = LettersForm(request.POST or None, user=user, initial={"email": user.email})
    if request.method == "POST" and throttle.is_closed(request, throttle.Kind.PASSWORD):
        return closed(request)
    if request.method == "POST" and _is_theirs(request, form):
        user.email = form.cleaned_data["email"]
        user.save(update_fields=["email"])
        messages.info(request, "Kept.")
        return redirect("accounts:account")
    if form.errors:
        status = 422
    else:
        status = 200
    return render(request, "accounts/letters.html", {"form": form}, status=status)


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def farewell(request: HttpRequest) -> HttpResponse:
    """Deletes the account with all that belongs to it, for good, once the password is given."""
    user = request.user
    assert isinstance(user, User)
    if not user.has_usable_password():
        messages.error(
            request,
            "This account has no password of its own, so it cannot be deleted here.",
        )
        return redirect("accounts:account")
    form = FarewellForm(request.POST or None, user=user)
    if request.method == "POST" and throttle.is_closed(request, throttle.Kind.PASSWORD):
        return closed(request)
    if request.method == "POST" and _is_theirs(request, form):
        with transaction.atomic():
            # Files first, while there are rows that say where they lie.
            archive.forget(user)
            user.delete()
        logout(request)
        messages.info(request, "The account and all that belonged to it is deleted.")
        return redirect("accounts:login")
    return render(
        request,
        "accounts/farewell.html",
        {"form": form},
        status=422 if form.errors else 200,
    )
