"""Logging in and out, who is logged in, and one's own password."""

from __future__ import annotations

from typing import Any, cast

from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError as PasswordError
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.authentication import SessionAuthentication
from rest_framework.exceptions import AuthenticationFailed, Throttled
from rest_framework.permissions import AllowAny, IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from accounts.models import SecurityEventKind, User
from accounts.security import note
from accounts.throttling import remember_device


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


class PasswordSerializer(serializers.Serializer[dict[str, str]]):
    """One's password, and the one to take its place."""

    current = serializers.CharField(max_length=200, trim_whitespace=False)
    new = serializers.CharField(max_length=200, trim_whitespace=False)

    def validate_current(self, value: str) -> str:
        """It must be right: a page left open is not enough."""
        if not self.context["request"].user.check_password(value):
            raise serializers.ValidationError("This is not your password.")
        return value

    def validate_new(self, value: str) -> str:
        """Long enough and not a common one."""
        try:
            validate_password(value, self.context["request"].user)
        except PasswordError as error:
            raise serializers.ValidationError(error.messages) from None
        return value


@method_decorator(ensure_csrf_cookie, name="get")
@method_decorator(csrf_protect, name="post")
class SessionView(APIView):
    """The browser's session."""

    authentication_classes = [SessionAuthentication]
    permission_classes = [AllowAny]

    @extend_schema(operation_id="session_read", responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        """Who is logged in; also hands out the CSRF cookie."""
        return _answer(request)

    @extend_schema(operation_id="session_create", request=CredentialsSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        """Log in. Each further wrong password makes the next attempt wait longer."""
        given = CredentialsSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        credentials = given.validated_data
        plain = request._request
        user = authenticate(plain, **credentials)
        if held_s := getattr(plain, "held_back_s", 0):
            raise Throttled(held_s, "Too many wrong passwords.")
        if user is None:
            raise AuthenticationFailed("Name or password is wrong.")
        login(plain, user)
        request.user = user
        answer = _answer(request)
        remember_device(answer, user.get_username(), plain.is_secure())
        return answer

    @extend_schema(operation_id="session_delete", responses={204: None})
    def delete(self, request: Request) -> Response:
        """Log out."""
        logout(request._request)
        return Response(status=status.HTTP_204_NO_CONTENT)


class PasswordView(APIView):
    """One's own password."""

    authentication_classes = [SessionAuthentication]
    permission_classes = [IsAuthenticated]

    @extend_schema(operation_id="password_change", request=PasswordSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """Change it; other browsers of the same person are logged out."""
        given = PasswordSerializer(data=request.data, context={"request": request})
        given.is_valid(raise_exception=True)
        person, values = cast(User, request.user), cast(dict[str, Any], given.validated_data)
        person.set_password(values["new"])
        person.save(update_fields=["password"])
        update_session_auth_hash(request._request, person)
        note(request._request, SecurityEventKind.PASSWORD, username=person.username)
        return Response(status=status.HTTP_204_NO_CONTENT)


def _answer(request: Request) -> Response:
    person = request.user if isinstance(request.user, User) else None
    return Response(SessionSerializer({"person": person}).data)
