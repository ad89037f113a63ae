"""Logging in, another password, and a forgotten one: Django's own views behind doors that close after several tries."""

from typing import Any

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import views
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import reverse_lazy
from django.views.generic import FormView

from rapzel.accounts import throttle
from rapzel.accounts.forms import LoginForm


class Throttled(FormView):
    """A form that asks for a password: closed after several wrong ones, which are counted."""

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        # Asked before the password is looked at: a closed door says nothing of what was tried.
        if throttle.is_closed(request, throttle.Kind.PASSWORD):
            return closed(request)
        return super().post(request, *args, **kwargs)

    def form_invalid(self, form: Any) -> HttpResponse:
        """Counts what failed for its password, not for a new one that is too short."""
        # (a wrong pair of name and password concerns neither field alone)
        if form.non_field_errors() or "old_password" in form.errors:
            throttle.note(self.request, throttle.Kind.PASSWORD)
        return super().form_invalid(form)


def closed(request: HttpRequest) -> HttpResponse:
    """The page of a door that is closed for a while."""
    return render(request, "accounts/locked.html", status=429)


class LogIn(Throttled, views.LoginView):
    template_name = "accounts/login.html"
    authentication_form = LoginForm
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        return super().get_context_data(**kwargs, letters=settings.LETTERS)


class NewPassword(Throttled, views.PasswordChangeView):
    template_name = "accounts/password.html"
    success_url = reverse_lazy("accounts:account")


class Forgotten(views.PasswordResetView):
    """A letter with a link, where the operator named a server for letters; else there is no such page."""

    template_name = "accounts/forgotten.html"
    email_template_name = "accounts/letter.txt"
    subject_template_name = "accounts/letter_subject.txt"
    success_url = reverse_lazy("accounts:login")

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> Any:
        # A page whose letter would never come is not there.
        if not settings.LETTERS:
            raise Http404
        if request.method == "POST":
            if throttle.is_closed(request, throttle.Kind.LETTER):
                return render(request, "accounts/too_many.html", status=429)
            # Every letter counts, not only the failed ones: nobody shall be flooded with them.
            throttle.note(request, throttle.Kind.LETTER)
        return super().dispatch(request, *args, **kwargs)

    def form_valid(self, form: Any) -> HttpResponse:
        """The same words whether an account has that address or not."""
        messages.info(
            self.request,
            "If an account has this address, a letter with a link is on its way. The link opens once, for three days.",
        )
        return super().form_valid(form)


class SetAnew(views.PasswordResetConfirmView):
    """The page of the link: a new password, and the link is used up."""

    template_name = "accounts/set_anew.html"
    success_url = reverse_lazy("accounts:login")

    def form_valid(self, form: Any) -> HttpResponse:
        messages.info(self.request, "The password is changed. Log in with it.")
        return super().form_valid(form)
