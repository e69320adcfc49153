"""The one page that the front end lives in."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.csrf import ensure_csrf_cookie
from django.views.decorators.http import require_safe

__all__ = ["show_page"]


@require_safe
@ensure_csrf_cookie
def show_page(request: HttpRequest) -> HttpResponse:
    """The built page, with the nonce that its own style elements need."""
    response = render(request, "index.html")
    response["Cache-Control"] = "no-store"
    return response
