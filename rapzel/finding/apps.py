from django.apps import AppConfig


class FindingConfig(AppConfig):
    name = "rapzel.finding"
    label = "finding"
