"""People over the API, for administrators: who there is, their roles, and links by which they come in."""

from __future__ import annotations

from typing import Any, cast

from django.db.models import Count, Exists, OuterRef, Q, QuerySet
from django.utils import timezone
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect
from django_otp.plugins.otp_totp.models import TOTPDevice
from drf_spectacular.utils import extend_schema
from rest_framework import mixins, serializers, status, viewsets
from rest_framework.authentication import SessionAuthentication
from rest_framework.decorators import action
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from accounts import links, second_factor
from accounts.models import AccountLink, Role, SecurityEventKind, User
from accounts.permissions import AdministratorsOnly
from accounts.security import note
from accounts.sessions import end_sessions
from config.errors import UnfitError


class PersonRowSerializer(serializers.ModelSerializer[User]):
    """A person as administrators see and change them."""

    second_factor = serializers.BooleanField(read_only=True, help_text="whether the log-in asks for a code")
    browsers = serializers.IntegerField(read_only=True, help_text="that are logged in")
    elsewhere = serializers.BooleanField(read_only=True, help_text="whether the person signs in at the provider")

    class Meta:
        model = User
        fields = (
            *("id", "username", "email", "role", "is_active", "last_login"),
            *("second_factor", "browsers", "elsewhere"),
        )
        read_only_fields = ("username", "last_login")


class InvitationSerializer(serializers.ModelSerializer[AccountLink]):
    """A link that was made and not used yet; `person` is whose password it sets, null for an invitation."""

    person = serializers.CharField(source="person.username", default=None, read_only=True)

    class Meta:
        model = AccountLink
        fields = ("id", "role", "email", "person", "made_at", "ends_at")
        read_only_fields = ("made_at", "ends_at")
        extra_kwargs = {"role": {"required": True}}


class NewLinkSerializer(InvitationSerializer):
    """A link as it is made: the only answer that has its secret."""

    secret = serializers.CharField(read_only=True)

    class Meta:
        model = AccountLink
        fields = (*InvitationSerializer.Meta.fields, "secret")
        read_only_fields = InvitationSerializer.Meta.read_only_fields


class SecretSerializer(serializers.Serializer[dict[str, str]]):
    """The secret of a link."""

    secret = serializers.CharField(max_length=100)


class LinkUseSerializer(SecretSerializer):
    """What somebody with a link chooses."""

    username = serializers.CharField(max_length=150, required=False, default="", allow_blank=True)
    password = serializers.CharField(max_length=200, trim_whitespace=False)


class LinkSerializer(serializers.Serializer[AccountLink]):
    """What a link is for: an account in a role, or the password of a person."""

    role = serializers.ChoiceField(choices=Role.choices)
    person = serializers.CharField(source="person.username", default=None, allow_null=True)
    ends_at = serializers.DateTimeField()


class PersonViewSet(mixins.ListModelMixin, mixins.UpdateModelMixin, viewsets.GenericViewSet[User]):
    """Everybody with an account. People are disabled, not deleted, so that what they made keeps its name."""

    authentication_classes = [SessionAuthentication]
    permission_classes = [AdministratorsOnly]
    serializer_class = PersonRowSerializer
    http_method_names = ["get", "patch", "post", "head", "options"]

    def get_queryset(self) -> QuerySet[User]:
        """With what is known of how they log in."""
        factor = TOTPDevice.objects.filter(user=OuterRef("pk"), confirmed=True)
        open_now = Q(sessions__expire_date__gt=timezone.now())
        return User.objects.order_by("username").annotate(
            second_factor=Exists(factor),
            browsers=Count("sessions", filter=open_now, distinct=True),
            elsewhere=Exists(User.objects.filter(pk=OuterRef("pk"), identities__isnull=False)),
        )

    def perform_update(self, serializer: Any) -> None:
        """Change a person; whoever may not log in any more is logged out."""
        person, values = serializer.instance, serializer.validated_data
        if person == self.request.user and {"role", "is_active"} & set(values):
            raise UnfitError("Your own role is changed by another administrator: somebody has to be able to.", "role")
        serializer.save()
        if not person.is_active:
            end_sessions(person)
        changed = ", ".join(f"{name} {value}" for name, value in values.items())
        note(self.request._request, SecurityEventKind.PERSON, f"{person.username}: {changed}")

    @extend_schema(request=None, responses={201: NewLinkSerializer})
    @action(detail=True, methods=["post"], url_path="password-link")
    def password_link(self, request: Request, pk: str | None = None) -> Response:
        """Make a link by which the person chooses a new password; it works once, for a day."""
        link, secret = links.renew_password(request._request, cast(User, request.user), self.get_object())
        return _made(link, secret)

    @extend_schema(request=None, responses={204: None})
    @action(detail=True, methods=["post"], url_path="end-sessions")
    def end_sessions(self, request: Request, pk: str | None = None) -> Response:
        """Log the person out everywhere."""
        person = self.get_object()
        end_sessions(person)
        note(request._request, SecurityEventKind.ENDED, f"all of {person.username}")
        return Response(status=status.HTTP_204_NO_CONTENT)

    @extend_schema(request=None, responses={204: None})
    @action(detail=True, methods=["post"], url_path="second-factor-off")
    def second_factor_off(self, request: Request, pk: str | None = None) -> Response:
        """Have the person, who lost what shows the codes, log in by password alone."""
        second_factor.turn_off(request._request, self.get_object())
        return Response(status=status.HTTP_204_NO_CONTENT)


class InvitationViewSet(
    mixins.ListModelMixin, mixins.CreateModelMixin, mixins.DestroyModelMixin, viewsets.GenericViewSet[AccountLink]
):
    """Links that wait to be used. What makes one shows its secret once."""

    authentication_classes = [SessionAuthentication]
    permission_classes = [AdministratorsOnly]
    serializer_class = InvitationSerializer

    def get_queryset(self) -> QuerySet[AccountLink]:
        """Those that still work."""
        return AccountLink.objects.select_related("person").filter(ends_at__gt=timezone.now())

    @extend_schema(request=InvitationSerializer, responses={201: NewLinkSerializer})
    def create(self, request: Request, *args: object, **kwargs: object) -> Response:
        """Invite somebody: a link that makes an account, once, within a week."""
        given = self.get_serializer(data=request.data)
        given.is_valid(raise_exception=True)
        return _made(*links.invite(request._request, cast(User, request.user), **given.validated_data))

    def perform_destroy(self, instance: AccountLink) -> None:
        """Take it back."""
        links.take_back(self.request._request, instance)


@method_decorator(csrf_protect, name="dispatch")
class LinkView(APIView):
    """What a link is for, to whoever has its secret."""

    authentication_classes = [SessionAuthentication]
    permission_classes = [AllowAny]

    @extend_schema(operation_id="session_link_look", request=SecretSerializer, responses=LinkSerializer)
    def post(self, request: Request) -> Response:
        """Look at it; it stays unused."""
        given = SecretSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        return Response(LinkSerializer(links.found(given.validated_data["secret"])).data)


@method_decorator(csrf_protect, name="dispatch")
class LinkUseView(APIView):
    """Using a link."""

    authentication_classes = [SessionAuthentication]
    permission_classes = [AllowAny]

    @extend_schema(operation_id="session_link_use", request=LinkUseSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        """Make the account, or set the password; then log in with it."""
        given = LinkUseSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        links.use(request._request, **given.validated_data)
        return Response(status=status.HTTP_204_NO_CONTENT)


def _made(link: AccountLink, secret: str) -> Response:
    return Response(InvitationSerializer(link).data | {"secret": secret}, status=status.HTTP_201_CREATED)
