"""One's own access tokens over the API."""

from __future__ import annotations

from typing import cast

from django.db.models import QuerySet
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers, viewsets
from rest_framework.authentication import SessionAuthentication
from rest_framework.permissions import IsAuthenticated
from rest_framework.request import Request
from rest_framework.response import Response

from accounts import tokens
from accounts.models import AccessToken, Role, User


class TokenSerializer(serializers.ModelSerializer[AccessToken]):
    """A token without its secret, of which `ending` are the last letters."""

    class Meta:
        model = AccessToken
        fields = ("id", "name", "role", "use", "ending", "created_at", "used_at")
        read_only_fields = ("ending", "created_at", "used_at")
        extra_kwargs = {"role": {"default": Role.READER}}

    def validate_role(self, role: str) -> str:
        """Never more than one's own."""
        own = cast(User, self.context["request"].user).role
        if tokens.least(role, own) != role:
            raise serializers.ValidationError(f"Your own role is {own}; a token can't have more.")
        return role


class NewTokenSerializer(TokenSerializer):
    """A token as it is made: the only answer that has its secret."""

    token = serializers.CharField(read_only=True)

    class Meta:
        model = AccessToken
        fields = (*TokenSerializer.Meta.fields, "token")
        read_only_fields = TokenSerializer.Meta.read_only_fields


class TokenViewSet(
    mixins.CreateModelMixin, mixins.ListModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[AccessToken]
):
    """Tokens of whoever is logged in. A token itself makes and revokes none."""

    authentication_classes = [SessionAuthentication]
    permission_classes = [IsAuthenticated]
    serializer_class = TokenSerializer
    queryset = AccessToken.objects.all()

    def get_queryset(self) -> QuerySet[AccessToken]:
        """Only one's own."""
        person = self.request.user.pk if self.request.user.is_authenticated else None
        return AccessToken.objects.filter(owner=person)

    @extend_schema(request=TokenSerializer, responses={201: NewTokenSerializer})
    def create(self, request: Request, *args: object, **kwargs: object) -> Response:
        """Make a token; its secret is in this answer and never again."""
        given = self.get_serializer(data=request.data)
        given.is_valid(raise_exception=True)
        person = cast(User, request.user)
        made, secret = tokens.make_token(request._request, person, **given.validated_data)
        return Response(NewTokenSerializer(made, context={"request": request}).data | {"token": secret}, status=201)

    def perform_destroy(self, instance: AccessToken) -> None:
        """Revoke it at once."""
        tokens.revoke(self.request._request, instance)
