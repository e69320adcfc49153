from django.apps import AppConfig


class IntakeConfig(AppConfig):
    name = "web.intake"
