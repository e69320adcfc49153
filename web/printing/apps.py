from django.apps import AppConfig


class PrintingConfig(AppConfig):
    name = "web.printing"
