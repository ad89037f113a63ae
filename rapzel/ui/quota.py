"""How much one account may hold. Far beyond any use, and near enough that no account fills the machine."""

from django.conf import settings

from rapzel.core.shared.errors import CoreError


class QuotaFull(CoreError):
    """There is no room for more; str() is fit to show."""


def require_room(what: str, have: int, more: int = 1) -> None:
    """Raises QuotaFull where `more` of something would go beyond what one account holds (settings.QUOTAS)."""
    most = settings.QUOTAS[what]
    if have + more > most:
        shown = f"{most:,}".replace(",", "\u202f")
        raise QuotaFull(
            f"Up to {shown} {what} fit into one account, and {have} are there. Remove some first."
        )
