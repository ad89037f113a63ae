from django.apps import AppConfig


class KitConfig(AppConfig):
    name = "rapzel.kit"
    label = "kit"
