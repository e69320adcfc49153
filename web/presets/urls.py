from django.urls import path

from web.presets.views import ChoicesView

urlpatterns = [path("choices", ChoicesView.as_view(), name="choices")]
