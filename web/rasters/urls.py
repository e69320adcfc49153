from django.urls import path
from rest_framework.routers import SimpleRouter

from web.rasters.views import RasterViewSet, document_rasters

router = SimpleRouter(trailing_slash=False)
router.register("rasters", RasterViewSet, "raster")
urlpatterns = [
    path("documents/<uuid:id>/rasters", document_rasters, name="document-rasters"),
    *router.urls,
]
