"""What is asked of a take's plan again and again, as columns that the database works out of the document by itself.

A log may hold thousands of takes, each with its plan of some ten thousand letters: lists, tables and learning select
these instead. Whatever stores a take, they are right.
"""

from __future__ import annotations

from typing import Any

from django.db import models
from django.db.models import F, Func, Value

from rapzel.core.document.evidence import BEHIND_SECOND_CURTAIN, PARTS, Question
from rapzel.core.document.places import Document


def _of_document(sql: str, output: models.Field[Any, Any]) -> Func:
    """An expression of SQL in which `{}` stands for the document."""
    return Func(
        F("document"),
        template=sql.replace("{}", "%(expressions)s"),
        output_field=output,
    )


def _told_apart_by(question: Question, document: str) -> str:
    """SQL of a short text that is the same where the parts are that a try must share to be evidence."""
    parts = [_part(path, document) for path in PARTS[question]]
    second = f"{document}#>>ARRAY['exposure', 'flash_at'] = 'second'"
    for path in BEHIND_SECOND_CURTAIN:
        parts.append(f"CASE WHEN {second} THEN {_part(path, document)} ELSE '' END")
    return f"md5({' || chr(10) || '.join(parts)})"


def _part(path: str, document: str) -> str:
    """SQL of the text of one part of a plan."""
    keys = ", ".join(f"'{key}'" for key in path.split("."))
    # What is missing and what is null are alike to a reader of the plan, in a part as well: older plans lack keys.
    part = f"jsonb_strip_nulls({document}#>ARRAY[{keys}])"
    return f"COALESCE(({part})::text, 'null')"


def evidence_of_document(question: Question) -> Func:
    """What a take is evidence of, in one short text (`core.document.evidence`)."""
    return _of_document(_told_apart_by(question, "{}"), models.CharField(max_length=32))


def evidence_of_plan(question: Question, plan: Document) -> Func:
    """The same of a plan that is no take's; the database writes figures as it does in the column."""
    told = _told_apart_by(question, "plan")
    # Nothing of it comes from outside but the plan, which is passed as a parameter.
    template = f"(SELECT {told} FROM (SELECT %(expressions)s::jsonb AS plan) AS given)"  # noqa: S608
    given = Value(dict(plan), output_field=models.JSONField())
    return Func(given, template=template, output_field=models.CharField(max_length=32))


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
    return _of_document(
        f"jsonb_path_query_array({{}}, '$.lights[*].{name}')", models.JSONField()
    )
