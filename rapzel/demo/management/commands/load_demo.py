"""manage.py load_demo : the demo world, once; what people have changed in it since is kept."""

from typing import Any

from django.core.management.base import BaseCommand

from rapzel.demo.world import build


class Command(BaseCommand):
    help = "Loads the demo account with its kit, shoot, scenes and takes, unless it is there already."

    def handle(self, *args: Any, **options: Any) -> None:
        built = build(bench=True)
        if built:
            self.stdout.write("demo data loaded")
