"""What is asked of a take's plan again and again, as columns that the database works out of the document by itself.

A log may hold thousands of takes, each with its plan of some ten thousand letters: lists, tables and learning select
these instead. Whatever stores a take, they are right.
"""

from __future__ import annotations

from typing import Any

from django.db import models
from django.db.models import F, Func

CHAIN = ("trigger", "moment", "motion", "drops")  # parts of a plan that decide when the light comes


def _of_document(sql: str, output: models.Field[Any, Any]) -> Func:
    """An expression of SQL in which `{}` stands for the document."""
    return Func(F("document"), template=sql.replace("{}", "%(expressions)s"), output_field=output)


def chain_of_document() -> Func:
    """A short text that is the same where trigger, moment, motion and drops are: of takes and of scenes."""
    parts = (f"COALESCE(({{}}->'{part}')::text, 'null')" for part in CHAIN)
    return _of_document(f"md5({' || '.join(parts)})", models.CharField(max_length=32))


def plan_of_document() -> Func:
    """A short text that is another one for every other plan."""
    return _of_document("md5(({})::text)", models.CharField(max_length=32))


def figure_of_document(part: str, name: str) -> Func:
    """A number of the plan."""
    return _of_document(f"(({{}}->'{part}'->>'{name}')::float8)", models.FloatField())


def text_of_document(part: str, name: str) -> Func:
    """A text of the plan."""
    return _of_document(f"({{}}->'{part}'->>'{name}')", models.CharField(max_length=40))


def of_lights(name: str) -> Func:
    """One figure or text of each light, in their order."""
    return _of_document(f"jsonb_path_query_array({{}}, '$.lights[*].{name}')", models.JSONField())
