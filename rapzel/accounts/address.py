"""Whose request it is, also behind reverse proxies: what limits and locks go by."""

import ipaddress

from django.conf import settings
from django.http import HttpRequest


def client_address(request: HttpRequest) -> str | None:
    """The address that the outermost of one's own proxies saw.

    With TRUSTED_PROXIES = n, the n-th entry of X-Forwarded-For from the right was written by a proxy of one's own;
    what stands to the left of it was sent by anybody, and is not believed. None where the header does not reach so far.
    """
    direct = request.META.get("REMOTE_ADDR")
    if not settings.TRUSTED_PROXIES:
        return _address(direct)
    seen = [
        each.strip()
        for each in request.META.get("HTTP_X_FORWARDED_FOR", "").split(",")
        if each.strip()
    ]
    if len(seen) < settings.TRUSTED_PROXIES:
        return _address(direct)  # it did not come through the proxies
    return _address(seen[-settings.TRUSTED_PROXIES])


def _address(text: str | None) -> str | None:
    try:
        return str(ipaddress.ip_address((text or "").partition("%")[0]))
    except ValueError:
        return None
