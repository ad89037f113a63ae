"""Doors that close for a quarter of an hour: to an address, whatever names it tries, and to an account's own session.

One name from one address is closed by axes after five wrong passwords; here is what goes by the address alone, and what
asks for the password again although somebody is logged in. An address is that of `address.client_address`.
"""

from datetime import timedelta

from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone

from rapzel.accounts.address import client_address
from rapzel.accounts.models import DoorTry, User

CLOSED = timedelta(minutes=15)
Kind = DoorTry.Kind


def note(request: HttpRequest, kind: Kind) -> None:
    """Counts a try; what is older than the doors remember is thrown away."""
    DoorTry.objects.filter(at__lt=timezone.now() - CLOSED).delete()
    if isinstance(request.user, User):
        account = request.user
    else:
        account = None
    DoorTry.objects.create(kind=kind, address=client_address(request), account=account)


def is_closed(request: HttpRequest, kind: Kind) -> bool:
    """Whether there were too many tries from this address, or within this account."""
    lately = DoorTry.objects.filter(kind=kind, at__gte=timezone.now() - CLOSED)
    from_here = lately.filter(address=client_address(request)).count()
    if from_here >= settings.DOOR_TRIES[kind]["address"]:
        return True
    if not isinstance(request.user, User):
        return False
    return (
        lately.filter(account=request.user).count()
        >= settings.DOOR_TRIES[kind]["account"]
    )
