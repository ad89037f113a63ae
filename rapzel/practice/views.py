"""The drill, what it came to, and the finger over the days."""

from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from rapzel.core.shared.errors import CoreError
from rapzel.practice import personal_data, services
from rapzel.practice.drawings import draw_trend
from rapzel.practice.models import Drill
from rapzel.ui import http

A_PAGE = 30
# A try that is off by an hour was no try.
_LONGEST_S = 3600


def _shown(request: HttpRequest) -> dict[str, Any]:
    drills = list(Drill.objects.visible_to(request.user)[:A_PAGE])
    ways = {
        way: [drill for drill in drills if drill.way == way]
        # Two different fingers: one that foresees is early as often as late, one that reacts is
        # always late.
        for way in ("anticipates", "reacts")
    }
    return {
        "drills": drills,
        "trends": [(way, draw_trend(own)) for way, own in ways.items() if own],
        "kinds": Drill.What.choices,
    }


@login_required
@require_safe
def page(request: HttpRequest) -> HttpResponse:
    """The drill and what it has said so far."""
    return render(request, "practice/page.html", _shown(request))


@login_required
@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """Stores a drill's tries and answers with what they come to."""
    try:
        document = http.parse_json(request.POST.get("tries", ""))
        if not isinstance(document, list) or not all(
            _is_number(error) for error in document
        ):
            raise CoreError(
                "The tries of a drill are a list of seconds, each less than an hour."
            )
        tries = [float(error) for error in document]
        drill = services.keep(
            request.user,
            request.POST.get("what", ""),
            request.POST.get("sound") == "1",
            tries,
            # The browser's key of the drill: one sent twice is stored once.
            request.POST.get("key", "")[:40],
        )
    except (CoreError, ValueError) as error:
        return http.notice(request, str(error))
    return render(
        request, "practice/_drills.html", {**_shown(request), "latest": drill}
    )


def _is_number(value: Any) -> bool:
    """Whether it is a number of a size that a try can have; a whole number may have any number of digits."""
    return (
        isinstance(value, int | float)
        # (to Python a truth is a whole number)
        and not isinstance(value, bool)
        and abs(value) < _LONGEST_S
    )


@login_required
@require_safe
def export_csv(request: HttpRequest) -> HttpResponse:
    """Every try of every drill."""
    return http.table(
        personal_data.to_csv(Drill.objects.visible_to(request.user)), "practice"
    )


@login_required
@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts a drill away; the next page offers to take it back."""
    drill = get_object_or_404(Drill.objects.visible_to(request.user), pk=pk)
    drill.put_away()
    http.say_undo(
        request, "The drill was removed.", reverse("practice:take_back", args=[pk])
    )
    return redirect("practice:page")


@login_required
@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a removed drill back."""
    get_object_or_404(Drill.objects.put_away_by(request.user), pk=pk).take_back()
    return redirect("practice:page")
