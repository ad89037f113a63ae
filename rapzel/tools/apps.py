from django.apps import AppConfig


class ToolsConfig(AppConfig):
    name = "rapzel.tools"
    label = "tools"
