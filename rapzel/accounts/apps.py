from typing import Any

from django.apps import AppConfig
from django.contrib.auth.signals import user_logged_in
from django.http import HttpRequest

from rapzel.ui import zones


def keep_browsers_zone(request: HttpRequest | None, user: Any, **_: Any) -> None:
    """Who comes in without a time zone gets that of the browser, which the door's form says."""
    if request is not None:
        zone = request.POST.get("zone", "")
    else:
        zone = ""
    if zone and not user.zone and zones.is_known(zone):
        user.zone = zone
        user.save(update_fields=["zone"])


class AccountsConfig(AppConfig):
    name = "rapzel.accounts"
    label = "accounts"

    def ready(self) -> None:
        """Listens at the door."""
        user_logged_in.connect(keep_browsers_zone, dispatch_uid="keep_browsers_zone")
