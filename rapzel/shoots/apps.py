from django.apps import AppConfig


class ShootsConfig(AppConfig):
    name = "rapzel.shoots"
    label = "shoots"

    def ready(self) -> None:
        from rapzel.shoots import personal_data  # noqa: PLC0415  models cannot be imported before this
        from rapzel.ui import archive, housekeeping  # noqa: PLC0415

        archive.register(personal_data.tell)
        housekeeping.register(personal_data.tidy)
