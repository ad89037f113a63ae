from django.apps import AppConfig


class TimingConfig(AppConfig):
    name = "rapzel.timing"
    label = "timing"

    def ready(self) -> None:
        from rapzel.timing import page  # noqa: F401, PLC0415  makes the page known to the views of scenes
