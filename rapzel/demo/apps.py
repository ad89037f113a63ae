from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "rapzel.demo"
    label = "demo"
