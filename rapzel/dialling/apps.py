from django.apps import AppConfig


class DiallingConfig(AppConfig):
    name = "rapzel.dialling"
    label = "dialling"

    def ready(self) -> None:
        from rapzel.dialling import belongings  # noqa: PLC0415  models cannot be imported before this
        from rapzel.ui import housekeeping, leaving  # noqa: PLC0415

        leaving.register(belongings.tell)
        housekeeping.register(belongings.tidy)
