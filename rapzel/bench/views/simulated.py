"""The simulated bench: choose, pop, and a recording arrives as from any scope."""

from urllib.parse import urlencode

from django.conf import settings
from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from rapzel.bench import instrument, services
from rapzel.bench.stand_in import plugged_in
from rapzel.core.shared.errors import UnitError
from rapzel.core.shared.units import format_power
from rapzel.core.trace import Layout
from rapzel.kit.models import Strobe
from rapzel.ui.inputs import read


@login_required
@require_POST
def pop(request: HttpRequest) -> HttpResponse:
    """Fires the simulated strobe and queues what the simulated scope recorded."""
    if not settings.BENCH_SIMULATOR:
        raise Http404
    strobe, fault = request.POST.get("strobe", ""), request.POST.get("fault", "none")
    try:
        power = read("power", request.POST.get("power", ""))
        pops = min(max(int(request.POST.get("pops") or 1), 1), 20)
        text = instrument.pop(settings.BENCH_SIMULATOR, strobe, power, fault, pops)
    except (UnitError, instrument.InstrumentError, ValueError) as error:
        messages.error(request, f"No pop: {error}")
        typed = {
            name: request.POST.get(name, "")
            for name in ("strobe", "power", "pops", "fault")
        }
        # what was typed stays in the form
        return redirect(f"{reverse('bench:list')}?{urlencode(typed)}")
    name = f"{strobe} at {format_power(power)}" + (
        f", {fault}" if fault != "none" else ""
    )
    trace = services.bring_in(
        request.user, SimpleUploadedFile("pop.csv", text.encode())
    )
    trace.name = name[:120]
    kit_name, mode = plugged_in().strobes.get(strobe, ("", ""))
    own = (
        Strobe.objects.visible_to(request.user).filter(name=kit_name or strobe).first()
    )
    trace.save(update_fields=["name"])
    target = {"strobe": own, "power": power if own else None, "mode": mode}
    services.confirm(trace, Layout(**trace.layout), None, target)
    return redirect("bench:trace", pk=trace.pk)
