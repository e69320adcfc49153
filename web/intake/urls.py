from django.urls import path
from rest_framework.routers import SimpleRouter

from web.intake.views import IntakeViewSet, PageViewSet, list_scanners

router = SimpleRouter(trailing_slash=False)
router.register("intakes", IntakeViewSet, "intake")
router.register("intake-pages", PageViewSet, "intake-page")
urlpatterns = [path("scanners", list_scanners, name="scanners"), *router.urls]
