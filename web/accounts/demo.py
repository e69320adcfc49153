"""The demo's one account."""

from collections.abc import Callable

from django.contrib.auth import get_user_model, login
from django.http import HttpRequest, HttpResponse

__all__ = ["DEMO_ACCOUNT", "sign_visitor_in"]

DEMO_ACCOUNT = "harrow-fen"
_SIGNED_OUT = "signed-out"


def sign_visitor_in(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware for the demo only: whoever comes is the demo account, until they sign out."""

    def middleware(request: HttpRequest) -> HttpResponse:
        if not request.user.is_authenticated and not request.session.get(_SIGNED_OUT):
            user = get_user_model().objects.filter(username=DEMO_ACCOUNT).first()
            if user is not None:
                login(request, user, backend="django.contrib.auth.backends.ModelBackend")
        return get_response(request)

    return middleware


def stay_signed_out(request: HttpRequest) -> None:
    """The visitor chose to sign out: the demo does not sign them in again."""
    request.session[_SIGNED_OUT] = True
