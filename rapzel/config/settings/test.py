"""For the tests: as the demo, with quick passwords and static files straight from their sources."""

import atexit
import shutil
import tempfile
from pathlib import Path

from rapzel.config.settings.demo import *  # noqa: F403

SECRET_KEY = "only for tests"  # noqa: S105
ALLOWED_HOSTS = ["*"]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
MEDIA_ROOT = Path(tempfile.mkdtemp(prefix="rapzel-files-"))
atexit.register(shutil.rmtree, MEDIA_ROOT, ignore_errors=True)
# Of this process: tests side by side do not make each other wait.
DECODER_LOCK = MEDIA_ROOT / "decoder.lock"
CACHES = {
    name: {"BACKEND": "django.core.cache.backends.locmem.LocMemCache", "LOCATION": name}
    for name in ("default", "fragments", "pictures")
}
STORAGES = {
    "default": {"BACKEND": "rapzel.ui.storage.WholeFiles"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
WHITENOISE_AUTOREFRESH = True
# Not from what an earlier start of the site may have collected, and without any.
WHITENOISE_USE_FINDERS = True
# Heavy work is done where it is asked for, no worker takes over; a test of the lane or the worker gives it a time.
LANE_WAIT_S = None
SEARCH_AT_ONCE_S = 600.0
