"""Logging in and out, who is logged in, and one's own password."""

from __future__ import annotations

from typing import Any, cast

from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.signals import user_login_failed
from django.core.exceptions import ValidationError as PasswordError
from django.http import HttpRequest
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

from accounts import second_factor, sign_in
from accounts.models import SecurityEventKind, User
from accounts.own_api import OwnPasswordSerializer
from accounts.security import note
from accounts.sessions import end_sessions
from accounts.throttling import remember_device
from config.errors import Failure


class PersonSerializer(serializers.ModelSerializer[User]):
    """A person as the web application needs to know them."""

    class Meta:
        model = User
        fields = ("username", "role", "may_write", "may_delete")
        read_only_fields = fields


class SessionSerializer(serializers.Serializer[dict[str, object]]):
    """Who is logged in; nobody where `person` is null."""

    person = PersonSerializer(allow_null=True)
    provider = serializers.CharField(help_text="where people may sign in instead; empty for none")
    refused = serializers.CharField(help_text="why signing in there failed, said once; else empty")


class CredentialsSerializer(serializers.Serializer[dict[str, str]]):
    """A name and a password, and a code where the person has a second factor."""

    username = serializers.CharField(max_length=150)
    password = serializers.CharField(max_length=200, trim_whitespace=False)
    code = serializers.CharField(max_length=20, required=False, default="", allow_blank=True)


class PasswordSerializer(OwnPasswordSerializer):
    """One's password, and the one to take its place."""

    new = serializers.CharField(max_length=200, trim_whitespace=False)

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
        plain, code = request._request, given.validated_data.pop("code")
        user = authenticate(plain, **given.validated_data)
        if held_s := getattr(plain, "held_back_s", 0):
            raise Throttled(held_s, "Too many wrong passwords.")
        if user is None:
            raise AuthenticationFailed("Name or password is wrong.")
        _check_second_factor(plain, user, code)
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
        end_sessions(person, but=request.session.session_key)
        note(request._request, SecurityEventKind.PASSWORD, username=person.username)
        return Response(status=status.HTTP_204_NO_CONTENT)


def _check_second_factor(request: HttpRequest, user: User, code: str) -> None:
    """Raises Failure where a code is wanted, AuthenticationFailed where it is wrong; that counts as a failed log-in."""
    if not second_factor.is_on(user):
        return
    if not code:
        raise Failure(403, "Enter the code that your authenticator app shows, or a recovery code.", "second_factor")
    if not second_factor.fits(user, code):
        user_login_failed.send(__name__, credentials={"username": user.username}, request=request)
        raise AuthenticationFailed(second_factor.WRONG)


def _answer(request: Request) -> Response:
    person = request.user if isinstance(request.user, User) else None
    refused = request.session.pop(sign_in.REFUSED, "") if sign_in.REFUSED in request.session else ""
    now = {"person": person, "provider": sign_in.provider_name(), "refused": refused}
    return Response(SessionSerializer(now).data)
