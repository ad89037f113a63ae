"""The inputs of lights: strobes with their roles and ratios, and continuous lights."""

from rapzel.core.document.places import Document, get
from rapzel.core.physics.ratios import against_key_stops
from rapzel.core.shared import units
from rapzel.core.shared.errors import DocumentError
from rapzel.shoots.documents import judged
from rapzel.shoots.light_services import LAMPS
from rapzel.workbench.fields import Choices, Field, Group, Reader, Section

ROLES: Choices = (
    ("", "none"),
    ("key", "key"),
    ("fill", "fill"),
    ("rim", "rim"),
    ("background", "background"),
    ("sun", "sun"),
)
LAMP_CHOICES = tuple((kind, name) for kind, (name, _) in LAMPS.items())


def _ratios(read: Reader, at: str, stops: float | None) -> list[Field]:
    """How a light stands against the key, set by its power or by its distance; nothing for the key."""
    if stops is None:
        return []
    text = units.format_stops(stops)
    # One ratio, two ways to get there: with equal powers it is the distance that makes it.
    hint = "stops against the key"
    return [
        Field(
            f"{at}.against_key_by_{by}",
            f"Against key, by {by}",
            "stops",
            text=text,
            hint=hint,
        )
        for by in ("power", "distance")
    ]


def _light(read: Reader, light: Document, ratio: float | None) -> Section:
    at, strobe = f"lights[#{light['id']}]", light["strobe"]
    fields = [
        read.quantity(f"{at}.power", "Power", "power", hint="1/32, −5 stops"),
        read.quantity(f"{at}.distance_m", "Distance", "length"),
        read.quantity(
            f"{at}.loss_stops", "Loss, stops", "stops", hint="modifier, grid, gel"
        ),
    ]
    more = [
        read.words(f"{at}.name", "Name"),
        read.choice(f"{at}.role", "Role", ROLES),
        read.quantity(f"{at}.count", "How many alike", "count"),
        *(
            [read.check(f"{at}.in_turn", "One for each frame")]
            if light.get("count", 1) > 1
            else []
        ),
        *_ratios(read, at, ratio),
    ]
    modes = [mode["name"] for mode in strobe.get("modes", [])]
    if modes:
        # A strobe with modes may have a table beside them, which is then a choice too.
        own = (("", "as listed"),) if strobe.get("durations") else ()
        more.append(
            read.choice(f"{at}.mode", "Mode", (*own, *((name, name) for name in modes)))
        )
    # A zoom means something only where the light at others is known.
    if strobe.get("guide_numbers"):
        more.append(read.quantity(f"{at}.zoom_mm", "Zoom, mm", "number", optional=True))
    # A light on the background alone freezes nothing and may be as slow as it likes.
    more.append(read.check(f"{at}.on_moving_part", "Lights the moving part"))
    more.append(read.quantity(f"{at}.delay_s", "Fires later by", "duration"))
    title = _called(light)
    return Section(fields, title, _note(light), "light", light["id"], more)


def _called(light: Document) -> str:
    name, count = light.get("name") or "Light", light.get("count", 1)
    if count == 1:
        return name
    return f"{name} × {count}"


def _note(light: Document) -> str:
    strobe, role = str(light["strobe"]["name"]), light.get("role")
    if role:
        return f"{strobe}, {role}"
    return strobe


def _lamp(read: Reader, lamp: Document) -> Section:
    at = f"lamps[#{lamp['id']}]"
    fields = [
        read.words(f"{at}.name", "Name"),
        read.quantity(
            f"{at}.lux_1m", "Lux at 1 m", "number", hint="of one, by a meter"
        ),
        read.quantity(f"{at}.distance_m", "Distance", "length"),
        read.quantity(f"{at}.loss_stops", "Loss, stops", "stops"),
        read.quantity(f"{at}.count", "How many alike", "count"),
        read.quantity(
            f"{at}.lit_s", "Lit for", "duration", True, "empty: all the time"
        ),
    ]
    if lamp.get("lit_s") is None:
        note = "continuous"
    else:
        note = "painted"
    return Section(fields, _called(lamp), note, "lamp", lamp["id"])


def _against_key(document: Document) -> list[float | None]:
    """Each light against the key; nothing of a scene that is refused as it is, and is being mended."""
    try:
        return against_key_stops(judged(document))
    except DocumentError:
        return [None] * len(document["lights"])


def lights_group(read: Reader) -> Group:
    """All lights of a scene."""
    lights, lamps = read.document["lights"], get(read.document, "lamps", [])
    shown = [
        f"{_called(light)} {units.format_power(light['power'])}" for light in lights
    ]
    shown += [_called(lamp) for lamp in lamps]
    # A line in a narrow column: three names, and how many more.
    if len(shown) > 3:
        more = f" and {len(shown) - 3} more"
    else:
        more = ""
    ratios = _against_key(read.document)
    sections = [
        _light(read, light, at) for light, at in zip(lights, ratios, strict=True)
    ]
    sections += [_lamp(read, lamp) for lamp in lamps]
    state = f"{', '.join(shown[:3])}{more}" or "none yet"
    return Group("lights", "Lights", state, sections, ("strobe",))
