"""One's own account over the API: the browsers that are logged in, and the second factor."""

from __future__ import annotations

from typing import Any, cast

from drf_spectacular.utils import extend_schema, extend_schema_field
from rest_framework import serializers, status
from rest_framework.authentication import SessionAuthentication
from rest_framework.exceptions import NotFound
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from accounts import second_factor
from accounts.models import BrowserSession, SecurityEventKind, User
from accounts.security import note
from accounts.sessions import mark_of, open_of


class OwnView(APIView):
    """What concerns whoever is logged in with a browser; an access token opens none of it."""

    authentication_classes = [SessionAuthentication]
    permission_classes = [IsAuthenticated]


class BrowserSerializer(serializers.ModelSerializer[BrowserSession]):
    """A browser that one is logged in with."""

    id = serializers.SerializerMethodField(help_text="what names it; it opens nothing")
    here = serializers.SerializerMethodField(help_text="whether it is the one that asks")

    class Meta:
        model = BrowserSession
        fields = ("id", "browser", "address", "begun_at", "seen_at", "here")
        read_only_fields = fields

    @extend_schema_field(str)
    def get_id(self, row: BrowserSession) -> str:
        """A hash of its key."""
        return mark_of(row)

    @extend_schema_field(bool)
    def get_here(self, row: BrowserSession) -> bool:
        """By the key of the request's own session."""
        return bool(row.session_key == self.context["key"])


class BrowsersView(OwnView):
    """The browsers that one is logged in with."""

    @extend_schema(operation_id="own_browsers", responses=BrowserSerializer(many=True))
    def get(self, request: Request) -> Response:
        """The one seen last first."""
        context = {"key": request.session.session_key}
        return Response(BrowserSerializer(open_of(cast(User, request.user)), many=True, context=context).data)


class BrowserView(OwnView):
    """One of them."""

    @extend_schema(operation_id="own_browser_end", responses={204: None})
    def delete(self, request: Request, mark: str) -> Response:
        """Log it out."""
        rows = open_of(cast(User, request.user))
        row = next((row for row in rows if mark_of(row) == mark), None)
        if row is None:
            raise NotFound("This browser is not logged in any more.")
        row.delete()
        note(request._request, SecurityEventKind.ENDED, row.browser)
        return Response(status=status.HTTP_204_NO_CONTENT)


class SecondFactorSerializer(serializers.Serializer[dict[str, Any]]):
    """How one's log-in stands."""

    on = serializers.BooleanField()
    recovery_codes_left = serializers.IntegerField()


class BegunSerializer(serializers.Serializer[second_factor.Begun]):
    """What an authenticator app takes in."""

    address = serializers.CharField()
    picture = serializers.CharField(help_text="a QR code of the address, as a data address of an SVG picture")
    secret = serializers.CharField(help_text="to type where the picture can't be read")


class CodeSerializer(serializers.Serializer[dict[str, str]]):
    """A code that the app shows."""

    code = serializers.CharField(max_length=20)


class RecoverySerializer(serializers.Serializer[dict[str, Any]]):
    """Codes that each replace the app once; no other answer has them."""

    recovery_codes = serializers.ListField(child=serializers.CharField())


class OwnPasswordSerializer(serializers.Serializer[dict[str, str]]):
    """One's password: a page left open is not enough."""

    current = serializers.CharField(max_length=200, trim_whitespace=False)

    def validate_current(self, value: str) -> str:
        """It must be right."""
        if not self.context["request"].user.check_password(value):
            raise serializers.ValidationError("This is not your password.")
        return value


class SecondFactorView(OwnView):
    """One's second factor."""

    @extend_schema(operation_id="own_second_factor", responses=SecondFactorSerializer)
    def get(self, request: Request) -> Response:
        """Whether it is on."""
        person = cast(User, request.user)
        left = second_factor.recovery_codes_left(person)
        return Response({"on": second_factor.is_on(person), "recovery_codes_left": left})

    @extend_schema(operation_id="own_second_factor_begin", request=None, responses={201: BegunSerializer})
    def post(self, request: Request) -> Response:
        """Make a secret for an authenticator app; the log-in asks for codes once one has confirmed it."""
        begun = second_factor.begin(cast(User, request.user))
        return Response(BegunSerializer(begun).data, status=status.HTTP_201_CREATED)


class SecondFactorConfirmView(OwnView):
    """Turning it on."""

    @extend_schema(operation_id="own_second_factor_confirm", request=CodeSerializer, responses=RecoverySerializer)
    def post(self, request: Request) -> Response:
        """With a code of the app."""
        given = CodeSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        codes = second_factor.confirm(request._request, cast(User, request.user), given.validated_data["code"])
        return Response({"recovery_codes": codes})


class SecondFactorOffView(OwnView):
    """Turning it off."""

    @extend_schema(operation_id="own_second_factor_off", request=OwnPasswordSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """With one's password."""
        OwnPasswordSerializer(data=request.data, context={"request": request}).is_valid(raise_exception=True)
        second_factor.turn_off(request._request, cast(User, request.user))
        return Response(status=status.HTTP_204_NO_CONTENT)
