"""The light ladder: from full power at 1 m down to the margin left at the subject, in stops."""

from rapzel.core.document.gear import own_hss_stops
from rapzel.core.light.guide import nearness_stops, relative_light_stops
from rapzel.core.light.ladder import Rung, ladder, steps_of
from rapzel.core.physics import Physics
from rapzel.core.physics.lights import guide_number_of
from rapzel.core.shared import units
from rapzel.core.shared.constants import RIGHT_STOPS
from rapzel.ui.drawing import Drawing, Svg, linear_scale

_LEFT, _RIGHT, _TOP, _LANE = 146.0, 366.0, 30.0, 28.0


_SEEN_STOPS = 0.05  # less needs no rung


def rungs_of(physics: Physics) -> list[Rung]:
    """The main light's ladder, the other lights on top, ending at the scene's flash offset."""
    if not physics.on_part or physics.flash_offset_stops is None:
        return []
    main = max(physics.on_part, key=lambda lit: lit.n_squared)
    light, exposure = main.light, physics.scene.exposure
    number, _ = guide_number_of(light)
    power = relative_light_stops(light.table, light.power)
    steps = steps_of(
        number, light.distance_m, exposure.iso, exposure.f_number, (light.power, power)
    )
    if physics.method.train:
        own, _ = own_hss_stops(light.strobe)
    else:
        own = 0.0
    near = nearness_stops(light.source_size_m, light.distance_m)
    cut = physics.curves.best_loss_stops + physics.jitter_loss_stops
    taken = {
        "Modifier and gels": ("as set", -light.loss_stops),
        "Large and near": ("integrated over the source", -near),
        "ND filter": ("as set", -exposure.nd_stops),
        **(
            {"Polariser": ("as set", -lost)}
            if (lost := exposure.polariser_stops)
            else {}
        ),
        "Extension": ("−2 log2(1 + m)", -physics.frame.bellows_stops),
        "Shutter": ("HSS or clipped light", -own - cut),
    }
    # A source that is small against its distance keeps to the inverse square, which needs no rung.
    if near < _SEEN_STOPS:
        del taken["Large and near"]
    # In the order in which light loses on its way to the sensor.
    order = ("Full power, bare, 1 m", "Power", "Distance", *taken, "ISO", "Aperture")
    rungs = ladder([(name, *(steps | taken)[name]) for name in order])
    others = physics.flash_offset_stops - rungs[-1].total_stops
    if len(physics.on_part) > 1:
        rungs.append(
            Rung(
                "Other lights",
                f"{len(physics.on_part) - 1} more",
                others,
                physics.flash_offset_stops,
            )
        )
    return rungs


def draw_ladder(physics: Physics) -> Drawing:
    """The ladder view with its table; the last rung is the light margin of the flash."""
    rungs = rungs_of(physics)
    svg = Svg(
        430, _TOP + _LANE * max(len(rungs) + 1, 6) + 20, "Light ladder, in stops."
    )
    if not rungs:
        svg.text("quiet", 215, 100, "No flash reaches the subject", "middle")
        return Drawing(svg, "No flash reaches the subject.", ("Rung",), [])
    totals = [0.0, *(rung.total_stops for rung in rungs)]
    x = linear_scale(min(totals) - 0.5, max(totals) + 0.5, _LEFT, _RIGHT)
    bottom = _TOP + _LANE * (len(rungs) + 1)
    svg.line("limit", x(0), _TOP - 14, x(0), bottom)
    svg.text("limit-text", x(0), _TOP - 18, "correct exposure", "middle")
    y = _TOP
    before = 0.0
    for rung in rungs:
        # A rung goes up or down; a bar has its left end first.
        low, high = sorted((x(before), x(rung.total_stops)))
        svg.text("text", _LEFT - 10, y + 12, rung.name, "end")
        svg.rect(
            "flash" if rung.stops >= 0 else "flash-area",
            low,
            y,
            max(high - low, 1.5),
            15,
        )
        svg.line("flash-range", x(rung.total_stops), y, x(rung.total_stops), y + _LANE)
        svg.text("quiet", _RIGHT + 58, y + 12, units.format_stops(rung.stops), "end")
        before = rung.total_stops
        y += _LANE
    final = rungs[-1].total_stops
    low, high = sorted((x(0), x(final)))
    svg.text("text", _LEFT - 10, y + 12, "Margin", "end", font_weight="700")
    right = abs(final) <= RIGHT_STOPS
    band = x(-RIGHT_STOPS), x(RIGHT_STOPS)
    svg.rect("limit-area", band[0], y - 4, band[1] - band[0], 23)
    svg.rect("flash" if right else "refused", low, y, max(high - low, 2), 15)
    svg.text(
        "text" if right else "refused-text",
        _RIGHT + 58,
        y + 12,
        units.format_stops(final),
        "end",
    )
    rows: list[tuple[str, ...]] = [
        (
            rung.name,
            rung.detail,
            units.format_stops(rung.stops),
            units.format_stops(rung.total_stops),
        )
        for rung in rungs
    ]
    summary = f"The flash ends {units.format_stops(final)} stops from correct exposure."
    return Drawing(svg, summary, ("Rung", "Detail", "Stops", "Running total"), rows)
