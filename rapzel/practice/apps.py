from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "rapzel.practice"
    label = "practice"

    def ready(self) -> None:
        from rapzel.practice import belongings  # noqa: PLC0415  models cannot be imported before this
        from rapzel.ui import housekeeping, leaving  # noqa: PLC0415

        leaving.register(belongings.tell)
        housekeeping.register(belongings.tidy)
