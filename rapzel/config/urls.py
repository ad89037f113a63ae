"""Every address of the site."""

from django.apps import apps
from django.urls import include, path

from rapzel.config.health import healthz
from rapzel.ui.worker import service_worker

urlpatterns = [
    path("", include("rapzel.guide.urls")),
    path("sw.js", service_worker, name="worker"),
    path("healthz", healthz, name="healthz"),
    path("account/", include("rapzel.accounts.urls")),
    path("kit/", include("rapzel.kit.urls")),
    path("bench/", include("rapzel.bench.urls")),
    path("", include("rapzel.timing.urls")),
    path("", include("rapzel.dialling.urls")),
    path("", include("rapzel.practice.urls")),
    path("", include("rapzel.takes.urls")),
    path("", include("rapzel.tools.urls")),
    path("", include("rapzel.finding.urls")),
    path("", include("rapzel.workbench.urls")),
]
if apps.is_installed("rapzel.demo"):
    urlpatterns.append(path("demo/", include("rapzel.demo.urls")))

handler400 = "rapzel.ui.errors.bad_request"
handler403 = "rapzel.ui.errors.permission_denied"
handler404 = "rapzel.ui.errors.page_not_found"
handler500 = "rapzel.ui.errors.server_error"
