from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "rapzel.bench"
    label = "bench"
