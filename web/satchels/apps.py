from django.apps import AppConfig

from web.satchels.page_renderer import PageRenderers
from web.satchels.sheet_cache import SheetCache


class SatchelsConfig(AppConfig):
    """Owns what a process keeps between requests."""

    name = "web.satchels"

    def ready(self) -> None:
        from web.satchels import checks  # noqa: F401 # registers itself

        self.sheet_cache = SheetCache()
        self.page_renderers = PageRenderers()
