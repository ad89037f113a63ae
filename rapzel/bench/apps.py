from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "rapzel.bench"
    label = "bench"

    def ready(self) -> None:
        from rapzel.bench import personal_data  # noqa: PLC0415  models cannot be imported before this
        from rapzel.ui import archive, housekeeping  # noqa: PLC0415

        archive.register(personal_data.tell, personal_data.forget)
        housekeeping.register(personal_data.tidy)
