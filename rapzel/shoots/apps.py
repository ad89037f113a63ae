from django.apps import AppConfig


class ShootsConfig(AppConfig):
    name = "rapzel.shoots"
    label = "shoots"
