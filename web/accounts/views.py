"""Sign-in, sign-out, and the account of the request."""

from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.middleware.csrf import get_token
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from web.accounts.demo import stay_signed_out
from web.accounts.guessing import is_spraying
from web.problems import Problem

__all__ = ["SessionView"]


class SessionSerializer(serializers.Serializer[Any]):
    """username is null for a visitor."""

    username = serializers.CharField(allow_null=True)
    is_demo = serializers.BooleanField()
    kept_days = serializers.IntegerField()
    upload_limit_bytes = serializers.IntegerField()


class CredentialsSerializer(serializers.Serializer[Any]):
    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


# A page elsewhere that signs a visitor in to another account would see what they bring.
@method_decorator(csrf_protect, name="dispatch")
class SessionView(APIView):
    """The visitor's session: look, sign in, sign out."""

    permission_classes = (AllowAny,)

    @extend_schema(responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        return self._session(request)

    @extend_schema(request=CredentialsSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        credentials = CredentialsSerializer(data=request.data)
        credentials.is_valid(raise_exception=True)
        if is_spraying(request._request, credentials.validated_data["username"]):
            raise Problem(
                "too_many_tries",
                "Too many names were tried from here in vain. Wait a quarter of an hour.",
                status=429,
            )
        user = authenticate(request._request, **credentials.validated_data)
        if user is None:
            raise Problem(
                "wrong_credentials",
                "This name and password do not belong together. Check both and try again.",
                status=403,
            )
        login(request._request, user)
        return self._session(request)

    @extend_schema(responses=SessionSerializer)
    def delete(self, request: Request) -> Response:
        logout(request._request)
        if settings.IS_DEMO:
            stay_signed_out(request._request)
        return self._session(request)

    def _session(self, request: Request) -> Response:
        get_token(request._request)
        user = request._request.user
        return Response(
            SessionSerializer(
                {
                    "username": user.get_username() if user.is_authenticated else None,
                    "is_demo": settings.IS_DEMO,
                    "kept_days": settings.KEPT_DAYS,
                    "upload_limit_bytes": settings.UPLOAD_LIMIT_BYTES,
                }
            ).data
        )
