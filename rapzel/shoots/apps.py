from django.apps import AppConfig


class ShootsConfig(AppConfig):
    name = "rapzel.shoots"
    label = "shoots"

    def ready(self) -> None:
        from rapzel.shoots import belongings  # noqa: PLC0415  models cannot be imported before this
        from rapzel.ui import housekeeping, leaving  # noqa: PLC0415

        leaving.register(belongings.tell)
        housekeeping.register(belongings.tidy)
