"""The bar of a scene, and where its pages lead."""

from typing import Any

from django import template

from rapzel.ui.templatetags.ways import view_of
from rapzel.workbench.way import comes_next, step_of, way_of

register = template.Library()


@register.inclusion_tag("workbench/_scene_bar.html", takes_context=True)
def scene_bar(context: template.Context) -> dict[str, Any]:
    """The scene's name, its neighbours, and its pages in the order of the job."""
    way = way_of(context["scene"], view_of(context))
    return {"way": way, "scene": context["scene"]}


@register.simple_tag(takes_context=True)
def scene_line(context: template.Context) -> str:
    """What this page of a scene answers."""
    step = step_of(view_of(context))
    return step.answers if step else ""


@register.inclusion_tag("ui/_next.html", takes_context=True)
def scene_next(context: template.Context) -> dict[str, Any]:
    """What usually comes after this page of a scene."""
    found = context.get("comes_next") or comes_next(context["scene"], view_of(context))
    return {"next": found}
