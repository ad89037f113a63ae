"""Scenes copy their gear; here is told when the kit has come to know a strobe better than a scene does."""

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from rapzel.core.document import places
from rapzel.core.document.gear import Light, Strobe, lowest_power, read_strobe
from rapzel.core.document.present import present
from rapzel.core.pulse import pulse_at
from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.units import format_length, format_power, format_time
from rapzel.kit.models import Strobe as KitStrobe

Document = Mapping[str, Any]
_NOT_OF_THE_PLAN = {"price"}  # figures that no scene is answered by


@dataclass(frozen=True, slots=True)
class Newer:
    """A light whose strobe the kit knows with other figures, and what differs for this light."""

    item: str
    light: str
    pk: int
    says: str


def known_strobes(
    owner: Any, documents: Iterable[Document]
) -> dict[str, list[tuple[int, Strobe]]]:
    """The owner's strobes that bear the names of strobes in these scenes, as the core reads them."""
    lights = (places.get(document, "lights", []) for document in documents)
    strobes = (
        light.get("strobe")
        for some in lights
        for light in some
        if isinstance(light, dict)
    )
    names = {strobe.get("name", "") for strobe in strobes if isinstance(strobe, dict)}
    found: dict[str, list[tuple[int, Strobe]]] = {}
    for row in (
        KitStrobe.objects.visible_to(owner)
        .filter(name__in=names - {""})
        .prefetch_related("settings")
    ):
        try:
            found.setdefault(row.name, []).append(
                (row.pk, _read(json.dumps(row.to_core())))
            )
        except CoreError:
            continue  # of a strobe without a usable table there is nothing newer to say
    return found


def newer_figures(
    document: Document, known: Mapping[str, list[tuple[int, Strobe]]]
) -> list[Newer]:
    """The lights whose strobe stands in the kit with other figures."""
    found = []
    for written in present(document)["lights"]:
        alike = known.get(written["strobe"].get("name", ""), [])
        if not alike:
            continue
        own = _figures(_read(json.dumps(written["strobe"])))
        # Two of one name: as long as one of them is what the scene has, nothing is newer.
        if any(_figures(strobe) == own for _, strobe in alike):
            continue
        light = Light.model_validate(written)
        # The one that was added last.
        pk, strobe = alike[-1]
        found.append(
            Newer(written["id"], light.name or "Light", pk, _difference(light, strobe))
        )
    return found


@lru_cache(maxsize=200)
def _read(text: str) -> Strobe:
    """The strobe of a JSON text; the same few come again with every page."""
    return read_strobe(json.loads(text))


@lru_cache(maxsize=200)
def _figures(strobe: Strobe) -> dict[str, Any]:
    return strobe.model_dump(exclude=_NOT_OF_THE_PLAN)


def _difference(light: Light, strobe: Strobe) -> str:
    """What changes for this light, in words; the duration first, since it is what the plan stands on."""
    if light.power < lowest_power(strobe) * 0.999:
        return f"{format_power(light.power)} is below its range, which ends at {format_power(lowest_power(strobe))}"
    if light.mode is not None and light.mode not in [
        mode.name for mode in strobe.modes
    ]:
        return f"it has no mode “{light.mode}” any more"
    # What the plan stands on first: then how bright, then the rest by name.
    before, after = _t01(light), _t01(light.model_copy(update={"strobe": strobe}))
    if before != after:
        return f"t.1 {after} instead of {before}"
    if strobe.guide_number_m != light.strobe.guide_number_m:
        return f"GN {format_length(strobe.guide_number_m)} instead of {format_length(light.strobe.guide_number_m)}"
    old, new = _figures(light.strobe), _figures(strobe)
    words = {
        "durations": "its table at other powers",
        "modes": "its tables at other powers",
        "circuit": "its circuit",
        "full_recycle_s": "recycle time",
        "recycle_floor_s": "recycle time",
        "hss": "high-speed sync",
        "hss_loss_stops": "HSS loss",
        "min_power": "lowest power",
        "battery_pops": "pops of a charge",
        "energy_ws": "energy",
        "guide_numbers": "guide numbers by zoom",
        "guide_provenance": "how its light is known",
    }
    changed = dict.fromkeys(
        words.get(key, key) for key in new if old.get(key) != new[key]
    )
    return ", ".join(changed)


def _t01(light: Light) -> str:
    return format_time(pulse_at(light.strobe.circuit, light.table, light.power).t01_s)
