from django.apps import AppConfig


class KitConfig(AppConfig):
    name = "rapzel.kit"
    label = "kit"

    def ready(self) -> None:
        from rapzel.kit import belongings  # noqa: PLC0415  models cannot be imported before this
        from rapzel.ui import housekeeping, leaving  # noqa: PLC0415

        leaving.register(belongings.tell)
        housekeeping.register(belongings.tidy)
