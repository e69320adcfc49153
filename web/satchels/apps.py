from django.apps import AppConfig


class SatchelsConfig(AppConfig):
    name = "web.satchels"
