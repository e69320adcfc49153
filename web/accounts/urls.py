from django.urls import path

from web.accounts.views import SessionView

urlpatterns = [path("session", SessionView.as_view(), name="session")]
