"""URLs: the API, its schema, and the page for everything else."""

from django.urls import include, path, re_path
from drf_spectacular.views import SpectacularAPIView

from web.health import show_health
from web.page import show_page
from web.printing.ipp_view import print_to
from web.satchels.copies.hand_over import show_link, take_over

urlpatterns = [
    path("health", show_health, name="health"),
    path("api/schema", SpectacularAPIView.as_view(), name="schema"),
    path("api/", include("web.accounts.urls")),
    path("api/", include("web.presets.urls")),
    path("api/", include("web.satchels.urls")),
    path("api/", include("web.intake.urls")),
    path("api/", include("web.rasters.urls")),
    path("api/", include("web.mail.urls")),
    path("api/", include("web.printing.urls")),
    path("ipp/print/<str:token>", print_to, name="print-to"),
    path("ipp/print/<str:token>/<int:job>", print_to, name="print-to-job"),
    path("hand-over/<str:token>", show_link, name="hand-over"),
    path("hand-over/<str:token>/file", take_over, name="hand-over-file"),
    re_path(r"^(?!api/|static/|ipp/).*$", show_page, name="page"),
]
