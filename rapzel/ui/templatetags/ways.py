"""The house in the bar at the top; the first line of a page, and its last."""

from typing import Any

from django import template

from rapzel.ui.ways import HOUSE, PAGES, Next, Place, next_of

register = template.Library()


def view_of(context: template.Context) -> str:
    """The name of the address that the page stands at; empty for one that stands at none, as an error does."""
    match = getattr(context.get("request"), "resolver_match", None)
    return match.view_name if match else ""


@register.simple_tag(takes_context=True)
def house(context: template.Context) -> list[tuple[Place, bool]]:
    """The places of the house, and in which of them one is."""
    app = view_of(context).partition(":")[0]
    # The calculators of a scene stand in its own bar.
    beside_a_scene = app == "tools" and "scene" in context and context["scene"]
    if beside_a_scene:
        app = "workbench"
    return [(place, app in place.apps) for place in HOUSE]


@register.simple_tag(takes_context=True)
def first_line(context: template.Context) -> str:
    """What this page answers."""
    return PAGES[view_of(context)].answers


@register.inclusion_tag("ui/_next.html", takes_context=True)
def next_link(context: template.Context) -> dict[str, Any]:
    """What usually comes after this page; a view may say it itself as `comes_next`."""
    found: Next | None = context.get("comes_next") or next_of(view_of(context))
    return {"next": found}
