from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "rapzel.bench"
    label = "bench"

    def ready(self) -> None:
        from rapzel.bench import belongings  # noqa: PLC0415  models cannot be imported before this
        from rapzel.ui import housekeeping, leaving  # noqa: PLC0415

        leaving.register(belongings.tell, belongings.forget)
        housekeeping.register(belongings.tidy)
