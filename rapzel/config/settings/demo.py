"""On one's own machine: loopback only, demo data, one click to log in. Started by script/server."""

import os

from rapzel.config.settings.base import *  # noqa: F403
from rapzel.config.settings.base import INSTALLED_APPS

# script/server makes a key of the machine's own; the fallback serves commands that sign nothing.
SECRET_KEY = os.environ.get(
    "DJANGO_SECRET_KEY", "for commands that sign nothing, never for a public site"
)
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
INSTALLED_APPS = [*INSTALLED_APPS, "rapzel.demo"]
TRIGGER_UNIT = os.environ.get("RAPZEL_UNIT") or os.environ.get(
    "RAPZEL_SIMULATED_UNIT", ""
)
TRIGGER_UNIT_PLAYS = not os.environ.get("RAPZEL_UNIT")
TRIGGER_UNIT_EACH = os.environ.get("RAPZEL_UNIT_ONE") != "1"
LETTERS = True  # they are printed where script/server runs
EMAIL_BACKEND = "django.core.mail.backends.console.EmailBackend"
BENCH_SIMULATOR = os.environ.get("RAPZEL_BENCH", "")
STORAGES = {
    "default": {"BACKEND": "rapzel.ui.storage.WholeFiles"},
    "staticfiles": {"BACKEND": "rapzel.ui.storage.HashedFiles"},
}
