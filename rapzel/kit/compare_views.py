"""Comparing strobes, and turning what meters and leaflets say into guide numbers."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST, require_safe

from rapzel.core.shared import units
from rapzel.core.shared.errors import CoreError, DocumentError, UnitError
from rapzel.core.strobes import leaflets
from rapzel.core.strobes.compare import (
    Source,
    matched,
    offers,
    point_at,
    rankings,
    sources_of,
    with_equal_light,
)
from rapzel.kit import services
from rapzel.kit.comparison import MOST, comparison_csv, draw_comparison, offer_rows
from rapzel.kit.models import Strobe
from rapzel.ui import http, inputs

# About where a hand stops being a smear; a beginning that shows differences.
USUAL_T01 = "1/6000"


def _sources(request: HttpRequest) -> list[tuple[str, Source]]:
    """Every strobe and mode of the person's kit under a key of its own; strobes without a table are left out."""
    found = []
    for strobe in Strobe.objects.visible_to(request.user).prefetch_related("settings"):
        core = services.in_core(strobe)
        # A strobe that is still being typed in has nothing to compare by.
        if core is None:
            continue
        # A mode can be as different as another strobe, so that it has a curve of its own.
        found += [(f"{strobe.pk}:{source.mode}", source) for source in sources_of(core)]
    return found


def _chosen(request: HttpRequest) -> tuple[list[tuple[str, Source]], list[str]]:
    every = _sources(request)
    asked = request.GET.getlist("s")
    keys = [key for key, _ in every if key in asked]
    # Nothing was chosen yet; taking the last mark away is a choice, and htmx tells it.
    if not keys and not http.is_htmx(request):
        keys = [key for key, _ in every]
    # More curves than these could not be told apart; which are left out is said.
    return every, keys[:MOST]


def _wanted(request: HttpRequest) -> tuple[float | None, str, str]:
    """(t.1 [s], what was typed, what is wrong with it)."""
    text = request.GET.get("t", USUAL_T01).strip()
    try:
        value = inputs.read("duration", text)
    except UnitError as error:
        return None, text, str(error)
    if value > 0:
        return (value, text, "")
    return (None, text, "A t.1 is above 0. Accepted: 1/6000, 125 µs.")


def _pair(
    request: HttpRequest, by_key: dict[str, Source], t01_s: float | None
) -> dict[str, Any]:
    """Two sources at equal t.1, and the power of the second that equals the first's light."""
    one, other = (
        by_key.get(request.GET.get("a", "")),
        by_key.get(request.GET.get("b", "")),
    )
    # A strobe against itself answers nothing.
    if one is None or other is None or one is other:
        return {}
    says = []
    if t01_s:
        # Equal t.1 first: that is the question; equal light comes after it.
        left, right = matched(one, other, t01_s)
        for point, source in ((left, one), (right, other)):
            if point:
                shown = f"{units.format_power(point.power)}, GN {units.format_number(point.guide_number_m)}"
            else:
                shown = ""
            says.append(f"{source.name} at that t.1: {shown or 'never so short'}.")
    try:
        power = inputs.read("power", request.GET.get("p", "1/8"))
    except UnitError as error:
        return {"pair": [*says, str(error)]}
    # At the power that was asked for the two give as much light as each other.
    here = point_at(one, power)
    equal = with_equal_light(here, other)
    if equal is None:
        says.append(
            f"{other.name} has no setting with the light of {one.name} at {units.format_power(power)}."
        )
    else:
        says.append(
            f"{one.name} at {units.format_power(power)} gives as much light as {other.name} at "
            f"{units.format_power(equal.power)}: t.1 {units.format_time(here.t01_s)} against "
            f"{units.format_time(equal.t01_s)}."
        )
    return {"pair": says}


def _order(sources: list[Source]) -> str:
    """The order by t.5 and the one by t.1, in words where they disagree."""
    by_t05, by_t01 = rankings(sources)
    if [id(each) for each in by_t05] == [id(each) for each in by_t01]:
        return ""
    first = ", ".join(each.name for each in by_t05)
    second = ", ".join(each.name for each in by_t01)
    return f"By shortest t.5: {first}. By shortest t.1, which is what the picture sees: {second}."


@login_required
@require_safe
def compare(request: HttpRequest) -> HttpResponse:
    """Strobes on one plot, and what each gives at a wanted t.1."""
    every, keys = _chosen(request)
    by_key = dict(every)
    sources = [by_key[key] for key in keys]
    t01_s, typed, wrong = _wanted(request)
    context: dict[str, Any] = {
        "every": every,
        "keys": keys,
        "typed": typed,
        "wrong": wrong,
        "get": request.GET,
    }
    asked = set(request.GET.getlist("s"))
    # What a person marked and does not see would be missed in silence.
    context["left_out"] = [
        source.name
        for key, source in every
        if key not in keys and (not asked or key in asked)
    ]
    if sources:
        context |= {
            "drawing": draw_comparison(sources, t01_s),
            "order": _order(sources),
        }
        context |= {
            "offers": offer_rows(offers(sources, t01_s)) if t01_s else [],
            **_pair(request, by_key, t01_s),
        }
    if http.is_htmx(request):
        template = "kit/_compared.html"
    else:
        template = "kit/compare.html"
    return render(request, template, context)


@login_required
@require_safe
def compare_csv(request: HttpRequest) -> HttpResponse:
    """The comparison as CSV."""
    every, keys = _chosen(request)
    sources = [source for key, source in every if key in keys]
    return http.table(comparison_csv(sources, _wanted(request)[0]), "strobes compared")


# --- figures from meters and leaflets --------------------------------------------------------------------------------

Reader = Callable[[dict[str, str]], leaflets.Light]


def _read(data: dict[str, str], name: str, quantity: str, default: float) -> float:
    # An empty input means the usual value, which stands in it as a grey hint.
    if data.get(name, "").strip():
        return inputs.read(quantity, data[name])
    return default


def _figure(data: dict[str, str], quantity: str) -> float:
    """The leaflet's or meter's figure. The refusal names the field: a guide number is asked as a length."""
    try:
        return inputs.read(quantity, data.get("value", ""))
    except CoreError as error:
        raise CoreError(f"Its figure: {error}") from None


def _distance(data: dict[str, str]) -> float:
    if not data.get("distance", "").strip():
        raise CoreError("Type the distance too at which it was read: 2 m, 7 ft.")
    try:
        return inputs.read("length", data["distance"])
    except CoreError as error:
        raise CoreError(f"The distance: {error}") from None


def _iso(data: dict[str, str]) -> float:
    return _read(data, "iso", "iso", 100.0)


CONVERTERS: dict[str, tuple[str, Reader]] = {
    "gn": (
        "Guide number",
        lambda d: leaflets.from_guide_number(_figure(d, "length"), _iso(d)),
    ),
    "f": (
        "f-number at a distance, full power",
        lambda d: leaflets.from_f_number(
            _figure(d, "f_number"),
            _distance(d),
            _iso(d),
        ),
    ),
    "lux": (
        "lux seconds at a distance",
        lambda d: leaflets.from_lux_seconds(
            _figure(d, "number"),
            _distance(d),
        ),
    ),
    "bcps": (
        "Beam candle-power seconds",
        lambda d: leaflets.from_bcps(_figure(d, "number")),
    ),
    "ws": (
        "Watt-seconds",
        lambda d: leaflets.from_watt_seconds(_figure(d, "number")),
    ),
}


def converted(data: dict[str, str]) -> dict[str, Any]:
    """The guide number that was asked for, in words, or what is wrong with the question."""
    # Nothing was asked yet: no error either.
    if data.get("kind") not in CONVERTERS or not data.get("value", "").strip():
        return {}
    try:
        # Each reads the inputs of its own kind; the others may be empty or old.
        light = CONVERTERS[data["kind"]][1](data)
    except CoreError as error:
        return {"wrong": str(error)}
    # A figure from a leaflet has a range; without it a guide number looks measured.
    low, high = light.range_m
    says = (
        f"GN {units.format_number(light.guide_number_m)} m at ISO 100, {light.provenance}: between "
        f"{units.format_number(low)} and {units.format_number(high)} m, ± {units.format_number(light.spread_stops)} "
        f"stops. {light.formula}; {light.source}."
    )
    return {
        "says": says,
        "guide_number": light.guide_number_m,
        "provenance": light.provenance,
    }


def hss_calibrated(data: dict[str, str]) -> dict[str, Any]:
    """The strobe's own HSS loss from one pair of frames, or what is wrong with the question."""
    # Nothing was asked yet: no error either.
    if not data.get("weaker", "").strip():
        return {}
    try:
        travel = _read(data, "travel", "duration", 0.003)
        shutter = inputs.read("duration", data.get("shutter", ""))
        loss = leaflets.own_hss_loss_stops(
            inputs.read("stops", data["weaker"]), travel, shutter
        )
    except CoreError as error:
        return {"wrong": str(error)}
    return {
        "says": f"Its own HSS loss is {units.format_number(loss, 2)} stops, beside the slit's.",
        "loss": loss,
    }


@login_required
@require_safe
def work_out(request: HttpRequest, pk: int) -> HttpResponse:
    """The converters of a strobe's page, answered as one types."""
    strobe = get_object_or_404(Strobe.objects.visible_to(request.user), pk=pk)
    data = {key: str(value) for key, value in request.GET.items()}
    context = {"strobe": strobe, "light": converted(data), "hss": hss_calibrated(data)}
    return render(request, "kit/_worked_out.html", context)


@login_required
@require_POST
def take_over(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a worked-out guide number or HSS loss into the strobe."""
    strobe = get_object_or_404(Strobe.objects.visible_to(request.user), pk=pk)
    data = {key: str(value) for key, value in request.POST.items()}
    light, hss = converted(data), hss_calibrated(data)
    figures = {
        "guide_number_m": light.get("guide_number"),
        "hss_loss_stops": hss.get("loss"),
    }
    values: dict[str, Any] = {
        # A millimetre of a guide number: more digits would only look exact.
        key: round(value, 3)
        for key, value in figures.items()
        if value is not None
    }
    if "guide_number_m" in values:
        # worked out from watt-seconds it is an estimate
        values["guide_provenance"] = light["provenance"]
    try:
        # Kept as a change that can be undone, like a row of the table.
        services.take_figures(strobe, values)
    except DocumentError as error:
        http.say_problems(request, "Nothing was taken over.", error)
        return redirect("kit:edit", slug="strobes", pk=pk)
    said = [
        each[key] for each in (light, hss) for key in ("says", "wrong") if key in each
    ]
    messages.info(request, " ".join(said) or "Nothing to take over.")
    return redirect("kit:edit", slug="strobes", pk=pk)
