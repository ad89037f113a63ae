from django.apps import AppConfig


class TakesConfig(AppConfig):
    name = "rapzel.takes"
    label = "takes"

    def ready(self) -> None:
        from rapzel.takes import belongings  # noqa: PLC0415  models cannot be imported before this
        from rapzel.ui import housekeeping, leaving  # noqa: PLC0415

        leaving.register(belongings.tell)
        housekeeping.register(belongings.tidy)
