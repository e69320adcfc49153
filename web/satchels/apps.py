from django.apps import AppConfig


class SatchelsConfig(AppConfig):
    name = "web.satchels"

    def ready(self) -> None:
        from web.satchels.upkeep import checks  # noqa: F401 # registers itself
