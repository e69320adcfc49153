from django.apps import AppConfig


class RastersConfig(AppConfig):
    name = "web.rasters"
