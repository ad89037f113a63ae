from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "rapzel.accounts"
    label = "accounts"
