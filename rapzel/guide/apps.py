from django.apps import AppConfig


class GuideConfig(AppConfig):
    name = "rapzel.guide"
    label = "guide"
