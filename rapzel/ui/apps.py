from django.apps import AppConfig


class UiConfig(AppConfig):
    name = "rapzel.ui"
    label = "ui"
