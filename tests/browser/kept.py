"""The demo world built once in a test process and put back for each test: rows are copied aside, then copied back.

Restoring takes a twentieth of building. The copies stand in a schema of their own, which no test's clean-up empties.
"""

from django.core.management.color import no_style
from django.db import connection, transaction

from rapzel.demo.world import build

# Django itself puts these back whenever a test has emptied the database.
_NOT_OURS = {"django_migrations", "django_content_type", "auth_permission"}
_copied: dict[bool, list[str]] = {}


def demo_world(bench: bool) -> None:
    """Fills an empty database with the demo world, with or without its measured bench."""
    if bench not in _copied:
        build(bench=bench)
        _copied[bench] = _copy_aside(_schema(bench))
    else:
        _copy_back(_schema(bench), _copied[bench])


def _schema(bench: bool) -> str:
    return "kept_with_bench" if bench else "kept"


def _copy_aside(schema: str) -> list[str]:
    """Copies every table that holds something; returns their names."""
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE SCHEMA {schema}")
        filled = []
        for table in sorted(set(connection.introspection.table_names(cursor)) - _NOT_OURS):
            cursor.execute(f'SELECT EXISTS (SELECT 1 FROM public."{table}")')
            if cursor.fetchone()[0]:
                cursor.execute(f'CREATE TABLE {schema}."{table}" AS TABLE public."{table}"')
                filled.append(table)
    return filled


def _copy_back(schema: str, tables: list[str]) -> None:
    """Foreign keys are checked at the end of the transaction, so the order of the tables does not matter."""
    models = [
        model for model in connection.introspection.installed_models(tables) if model._meta.managed
    ]
    with transaction.atomic(), connection.cursor() as cursor:
        for table in tables:
            cursor.execute(f'INSERT INTO public."{table}" SELECT * FROM {schema}."{table}"')
        for statement in connection.ops.sequence_reset_sql(no_style(), models):
            cursor.execute(statement)
