from django.urls import path

from web.mail.views import download_message, run_mail, send_mail

urlpatterns = [
    path("runs/<uuid:id>/mail", run_mail, name="run-mail"),
    path("runs/<uuid:id>/mail/send", send_mail, name="run-mail-send"),
    path("runs/<uuid:id>/mail/<int:number>.eml", download_message, name="run-mail-message"),
]
