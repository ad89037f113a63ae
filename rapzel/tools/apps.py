from django.apps import AppConfig


class ToolsConfig(AppConfig):
    name = "rapzel.tools"
    label = "tools"

    def ready(self) -> None:
        from rapzel.tools import questions  # noqa: PLC0415  models cannot be imported before this
        from rapzel.ui import housekeeping  # noqa: PLC0415

        housekeeping.register(questions.tidy)
