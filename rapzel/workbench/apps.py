from django.apps import AppConfig


class WorkbenchConfig(AppConfig):
    name = "rapzel.workbench"
    label = "workbench"
