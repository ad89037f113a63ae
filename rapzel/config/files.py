"""Which static files are shipped."""

from django.contrib.staticfiles.apps import StaticFilesConfig


class ShippedFiles(StaticFilesConfig):
    """Django's own, without the scripts that a package brings for others: they name files that it does not bring."""

    ignore_patterns = [*StaticFilesConfig.ignore_patterns, "django_htmx"]
