"""manage.py unit_users : who may use the trigger unit, which fires something real."""

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand, CommandError, CommandParser

from rapzel.dialling.models import UnitUser


class Command(BaseCommand):
    help = (
        "Gives the trigger unit to accounts, takes it from them, and lists who has it."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--give", metavar="NAME", nargs="+", default=[])
        parser.add_argument("--take", metavar="NAME", nargs="+", default=[])

    def handle(self, *args: Any, **options: Any) -> None:
        giving = [_account(name) for name in options["give"]]
        taking = [_account(name) for name in options["take"]]
        for each in giving:
            UnitUser.objects.get_or_create(user=each)
        UnitUser.objects.filter(user__in=taking).delete()
        names = [
            row.user.get_username() for row in UnitUser.objects.select_related("user")
        ]
        self.stdout.write("\n".join(sorted(names)) or "Nobody has the trigger unit.")


def _account(name: str) -> Any:
    accounts = get_user_model()._default_manager
    found = accounts.filter(**{accounts.model.USERNAME_FIELD: name}).first()
    if found is None:
        raise CommandError(f"There is no account “{name}”; nothing was changed.")
    return found
