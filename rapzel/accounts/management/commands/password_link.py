"""manage.py password_link NAME : a link by which a person sets a forgotten password anew, once."""

from typing import Any

from django.contrib.auth.tokens import default_token_generator
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.urls import reverse
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode

from rapzel.accounts.models import User


class Command(BaseCommand):
    help = "Prints a link that sets a forgotten password anew: it opens once, and for three days."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument(
            "--site", default="", help="https://… of the site, to print the whole"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        user = User.objects.filter(username=options["name"], is_active=True).first()
        if user is None:
            raise CommandError(f"There is no account “{options['name']}”.")
        if not user.has_usable_password():
            raise CommandError(
                "This account is opened by one click and has no password."
            )
        key = urlsafe_base64_encode(force_bytes(user.pk))
        token = default_token_generator.make_token(user)
        path = reverse("accounts:set_anew", args=[key, token])
        self.stdout.write(f"{options['site'].rstrip('/')}{path}")
