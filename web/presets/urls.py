from django.urls import path
from rest_framework.routers import SimpleRouter

from web.presets.guide import GuideView
from web.presets.limit_views import LimitViewSet
from web.presets.views import ChoicesView, PresetViewSet

router = SimpleRouter(trailing_slash=False)
router.register("presets", PresetViewSet, "preset")
router.register("limits", LimitViewSet, "limit")
urlpatterns = [
    path("choices", ChoicesView.as_view(), name="choices"),
    path("guide", GuideView.as_view(), name="guide"),
    *router.urls,
]
