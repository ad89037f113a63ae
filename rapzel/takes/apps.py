from django.apps import AppConfig


class TakesConfig(AppConfig):
    name = "rapzel.takes"
    label = "takes"
