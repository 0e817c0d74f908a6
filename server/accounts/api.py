"""Logging in and out, and who is logged in."""

from __future__ import annotations

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest, JsonResponse
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.exceptions import AuthenticationFailed
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from accounts.models import User


class PersonSerializer(serializers.ModelSerializer[User]):
    """A person as the web application needs to know them."""

    class Meta:
        model = User
        fields = ("username", "role", "may_write", "may_delete")
        read_only_fields = fields


class SessionSerializer(serializers.Serializer[dict[str, object]]):
    """Who is logged in; nobody where `person` is null."""

    person = PersonSerializer(allow_null=True)


class CredentialsSerializer(serializers.Serializer[dict[str, str]]):
    """A name and a password."""

    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


@method_decorator(ensure_csrf_cookie, name="get")
@method_decorator(csrf_protect, name="post")
class SessionView(APIView):
    """The browser's session."""

    permission_classes = [AllowAny]

    @extend_schema(operation_id="session_read", responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        """Who is logged in; also hands out the CSRF cookie."""
        return _answer(request)

    @extend_schema(operation_id="session_create", request=CredentialsSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Log in. Too many wrong passwords lock the name for a quarter of an hour."""
        given = CredentialsSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        credentials = given.validated_data
        plain = request._request
        user = authenticate(plain, **credentials)
        if user is None:
            raise AuthenticationFailed("Name or password is wrong.")
        login(plain, user)
        request.user = user
        return _answer(request)

    @extend_schema(operation_id="session_delete", responses={204: None})
    def delete(self, request: Request) -> Response:
        """Log out."""
        logout(request._request)
        return Response(status=status.HTTP_204_NO_CONTENT)


def locked_out(request: HttpRequest, *args: object) -> JsonResponse:
    """What a name is told that was guessed at too often."""
    said = {"detail": "Too many wrong passwords. Wait a quarter of an hour, then try again.", "code": "locked"}
    return JsonResponse(said, status=status.HTTP_429_TOO_MANY_REQUESTS)


def _answer(request: Request) -> Response:
    person = request.user if isinstance(request.user, User) else None
    return Response(SessionSerializer({"person": person}).data)
