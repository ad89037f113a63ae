"""Settings that every way of running Rapzel shares."""

import os
from pathlib import Path

import dj_database_url
from csp.constants import NONE, SELF

# Each process does its sums on one core; said before numpy is loaded. Threads wait for each other by spinning,
# which beside other work on the same cores costs more than they bring.
for _threads in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(_threads, "1")

ROOT = Path(__file__).resolve().parents[3]

INSTALLED_APPS = [
    "rapzel.accounts",
    "rapzel.ui",
    "rapzel.kit",
    "rapzel.bench",
    "rapzel.shoots",
    "rapzel.workbench",
    "rapzel.takes",
    "rapzel.tools",
    "rapzel.finding",
    "rapzel.timing",
    "rapzel.dialling",
    "rapzel.practice",
    "rapzel.guide",
    "procrastinate.contrib.django",
    "axes",
    "csp",
    "django_htmx",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "rapzel.config.files.ShippedFiles",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    # Answers are packed. What an answer packs must not tell how a secret in it begins (BREACH): Django adds a name of
    # random length to each, and writes the token of a form in another way each time.
    "django.middleware.gzip.GZipMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "rapzel.ui.zones.in_their_zone",
    "rapzel.ui.inputs.person.in_their_units",
    "rapzel.ui.middleware.not_kept",
    "rapzel.ui.middleware.door_in_place",
    "rapzel.ui.middleware.storable_only",
    "rapzel.ui.middleware.RefusalMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "rapzel.config.urls"
WSGI_APPLICATION = "rapzel.config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "rapzel.config.context.site",
            ],
            "builtins": [
                "rapzel.ui.templatetags.figures",
                "rapzel.ui.templatetags.ways",
                "rapzel.workbench.templatetags.scene_ways",
            ],
        },
    }
]

# DATABASE_URL is what script/server and script/test set; commands without rows work without it.
DATABASES = {
    "default": dj_database_url.config(
        default="postgres:///rapzel", conn_max_age=60, conn_health_checks=True
    )
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AUTH_PASSWORD_VALIDATORS = [
    {
        "NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"
    },
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]
CSRF_FAILURE_VIEW = "rapzel.ui.errors.csrf_failure"
LOGIN_URL = "accounts:login"
LOGIN_REDIRECT_URL = "workbench:shoots"
LOGOUT_REDIRECT_URL = "accounts:login"

# Five wrong passwords close one name from one address for a quarter of an hour.
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = 0.25
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "accounts/locked.html"
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
AXES_CLIENT_IP_CALLABLE = "rapzel.accounts.address.client_address"
SIGN_UPS_AN_HOUR = 10  # tries from one address
# What closes for a quarter of an hour beside that: by the address alone, whose people may be many, and by the account.
DOOR_TRIES = {
    "password": {"address": 40, "account": 5},
    "letter": {"address": 5, "account": 5},
}
# whether a server for letters is named, so that a forgotten password is set anew by one
LETTERS = False
# one's own, between the public and this process
TRUSTED_PROXIES = int(os.environ.get("RAPZEL_PROXIES", "0"))

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"  # of what is stored, and of who has not said a zone (rapzel.ui.zones)
USE_I18N = False
USE_TZ = True

# Recordings and frames as they came; never served from here, only to their owner by a view.
MEDIA_ROOT = Path(os.environ.get("RAPZEL_FILES", ROOT / "var" / "files"))
# host:port of a trigger unit, and whether it is the stand-in, which plays the set as well.
TRIGGER_UNIT = os.environ.get("RAPZEL_UNIT", "")
TRIGGER_UNIT_PLAYS = False
# the stand-in plays a unit of its own for each scene, not one for all
TRIGGER_UNIT_EACH = True
BENCH_SIMULATOR = ""  # host:port of a simulated bench; none on a public site

PICTURES = os.environ.get("RAPZEL_PICTURES", str(ROOT / "var" / "pictures"))
# Held by the process that reads a picture just now: the processes of one machine read one at a time.
DECODER_LOCK = Path(PICTURES) / "decoder.lock"
# Rehearsals that were computed, by the fingerprint of their scene; shared by the processes of one machine, and
# emptied by its own rules: nothing is lost with it.
CACHES = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"},
    "fragments": {
        "BACKEND": "rapzel.ui.parts.PartsOnDisk",
        "LOCATION": f"{PICTURES}/parts",
        "TIMEOUT": 24 * 3600,
        "OPTIONS": {"MAX_ENTRIES": 20_000},
    },
    "pictures": {
        "BACKEND": "rapzel.ui.parts.KeptOnDisk",
        "LOCATION": PICTURES,
        "TIMEOUT": 7 * 24 * 3600,
        "OPTIONS": {"MAX_ENTRIES": 600},
    },
}

# How long a page waits for heavy work in the lane of its process (rapzel.ui.lanes); None: until it is done.
LANE_WAIT_S: float | None = 0.2
# a search that takes longer in the lane begins anew in the background
SEARCH_AT_ONCE_S = 1.0

# What one account may hold; rapzel.ui.quota says it to people.
QUOTAS = {
    "things in the kit": 3000,
    "shoots": 2000,
    "scenes in a shoot": 500,
    "snapshots of a scene": 200,
    "takes of a scene": 20_000,
    "pictures of takes": 5000,
    "recordings": 5000,
    "megabytes of recordings": 20_000,
    "runs of grey cards": 1000,
    "drills": 5000,
}
DATA_UPLOAD_MAX_NUMBER_FILES = 250  # the bench says itself that it takes up to 200
DATA_UPLOAD_MAX_NUMBER_FIELDS = 2000

STATIC_URL = "static/"
STATIC_ROOT = ROOT / "var" / "static"

DATA_UPLOAD_MAX_MEMORY_SIZE = 5 * 2**20
FILE_UPLOAD_MAX_MEMORY_SIZE = 5 * 2**20

# Bootstrap's select arrow and check marks are data: images; everything else comes from here.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF, "data:"],
        "connect-src": [SELF],
        "worker-src": [SELF],
        "manifest-src": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
        "base-uri": [NONE],
    }
}
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
