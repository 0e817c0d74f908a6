"""What the server answers when something is wrong: one problem format (RFC 9457), never a traceback or a page."""

from __future__ import annotations

import logging
import uuid
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from http import HTTPStatus
from typing import Any

from django.core.exceptions import (
    BadRequest,
    ObjectDoesNotExist,
    PermissionDenied,
    RequestDataTooBig,
    SuspiciousOperation,
    TooManyFilesSent,
)
from django.core.exceptions import ValidationError as DjangoValidationError
from django.db import DataError, IntegrityError
from django.db.models import ProtectedError, RestrictedError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.multipartparser import MultiPartParserError
from django.http.request import UnreadablePostError
from rest_framework import exceptions, serializers, status
from rest_framework.response import Response
from rest_framework.views import set_rollback

from config.connections import AWAY
from config.logs import request_number

MEDIA_TYPE = "application/problem+json"
CONFLICTING = (1205, 1213)  # MariaDB: waited too long for a lock; deadlock
UNNAMED = (
    "Ensure ",
    "This field",
    "Not a valid",
    "A valid",
    "Enter a",
    "Invalid",
    "Expected",
    "Incorrect",
    "Date",
    "Must ",
)
logger = logging.getLogger(__name__)


class Conflict(exceptions.APIException):
    """Somebody else changed the same thing meanwhile; `current` is how it stands now."""

    status_code = status.HTTP_409_CONFLICT
    default_code = "conflict"

    def __init__(self, sentence: str, current: Mapping[str, Any] | None = None) -> None:
        super().__init__(sentence)
        self.current = current


class InUse(exceptions.APIException):
    """Something that can't be deleted because other things use it."""

    status_code = status.HTTP_409_CONFLICT
    default_code = "in_use"


class TooLarge(exceptions.APIException):
    """An upload over the limit."""

    status_code = status.HTTP_413_REQUEST_ENTITY_TOO_LARGE
    default_code = "too_large"


class Failure(exceptions.APIException):
    """A refusal with a status of its own."""

    def __init__(self, status_code: int, sentence: str, code: str) -> None:
        self.status_code = status_code
        super().__init__(sentence, code)


class TellableError(Exception):
    """An error of a service whose text is a sentence for people, with the status that an answer gives it."""

    status_code: int = status.HTTP_500_INTERNAL_SERVER_ERROR
    code = "failed"


class UnfitError(ValueError):
    """A service can't do what it was given; its text is a sentence, and `field` is what is at fault."""

    field = "detail"  # the whole

    def __init__(self, sentence: str, field: str = "") -> None:
        super().__init__(sentence)
        self.field = field or self.field


@contextmanager
def at_field(name: str) -> Iterator[None]:
    """Tell at a field of the request what the core refuses."""
    try:
        yield
    except UnfitError:
        raise  # it knows its field
    except ValueError as error:
        raise UnfitError(str(error), name) from None


class ProblemSerializer(serializers.Serializer[Any]):
    """A refused request, after RFC 9457."""

    type = serializers.CharField(help_text="about:blank: the status says what kind of problem it is")
    title = serializers.CharField(help_text="the status in words")
    status = serializers.IntegerField()
    detail = serializers.CharField(help_text="what went wrong and what to do, in a sentence")
    code = serializers.CharField(help_text="a word for programs")
    errors = serializers.DictField(  # type: ignore[assignment]  # a name that DRF uses too
        child=serializers.ListField(child=serializers.CharField()),
        required=False,
        help_text="sentences by field; a field inside another is written groups.0.name",
    )
    headings = serializers.ListField(
        child=serializers.CharField(), required=False, help_text="of a table whose columns are unknown"
    )
    current = serializers.DictField(
        child=serializers.JSONField(), required=False, help_text="of a conflict: what somebody else saved"
    )


def problem(
    status_code: int, detail: str, code: str, errors: Mapping[str, Sequence[str]] | None = None, **more: Any
) -> dict[str, Any]:
    """The body of a refusal."""
    body: dict[str, Any] = {"type": "about:blank", "title": HTTPStatus(status_code).phrase, "status": status_code}
    body |= {"detail": detail, "code": code}
    if errors:
        body["errors"] = errors
    return body | more


def handled(error: Exception, context: Mapping[str, Any]) -> Response:
    """Answer every exception of an API view with a problem; log what nobody foresaw, under a number in the answer."""
    set_rollback()
    known = _known(error)
    body = refusal(known or error)
    answer = Response(body, status=body["status"], content_type=MEDIA_TYPE)
    if isinstance(error, AWAY):
        answer.database_error = error  # type: ignore[attr-defined]  # for `config.again`
    for header, name in (("WWW-Authenticate", "auth_header"), ("Retry-After", "wait")):
        value = getattr(known, name, None)
        if value:
            answer[header] = str(int(value)) if name == "wait" else value
    return answer


def refusal(error: Exception) -> dict[str, Any]:
    """The problem that an exception amounts to, outside of a request; what nobody foresaw is logged."""
    return _body(_known(error) or _unforeseen(error))


def _unforeseen(error: Exception) -> exceptions.APIException:
    number = request_number() or uuid.uuid4().hex
    logger.error("unforeseen error %s", number, exc_info=error)
    return Failure(
        500, f"Something failed in the server, not in what you sent. The server log lists it as {number}.", "failed"
    )


def _known(error: Exception) -> exceptions.APIException | None:
    """The refusal that an exception amounts to; None where nobody foresaw it."""
    if isinstance(error, exceptions.APIException):
        return error
    return next((refuse(error) for kinds, refuse in _REFUSALS if isinstance(error, kinds)), None)


def _database(error: Exception) -> exceptions.APIException:
    if error.args and error.args[0] in CONFLICTING:
        return Failure(503, "Somebody else was saving at the same moment. Nothing was saved; try again.", "busy")
    message = "The database does not answer. Nothing was stored; try again when it is back."
    return Failure(503, message, "database_away")


def _protected(error: Exception) -> exceptions.APIException:
    assert isinstance(error, ProtectedError | RestrictedError)
    rows = error.protected_objects if isinstance(error, ProtectedError) else error.restricted_objects
    counts: dict[Any, int] = {}
    for row in rows:
        counts[row._meta] = counts.get(row._meta, 0) + 1
    listed = ", ".join(
        f"{count} {meta.verbose_name if count == 1 else meta.verbose_name_plural}" for meta, count in counts.items()
    )
    return InUse(f"This can't be deleted because other things use it: {listed}. Delete or move those first.")


def _tellable(error: Exception) -> exceptions.APIException:
    assert isinstance(error, TellableError)
    return Failure(error.status_code, str(error), error.code)


def _unfit(error: Exception) -> exceptions.APIException:
    assert isinstance(error, UnfitError)
    return exceptions.ValidationError({error.field: [str(error)]})


def _too_much(error: Exception) -> exceptions.APIException:
    return TooLarge("The request is larger than the server takes. Send less at once.")


def _damaged(error: Exception) -> exceptions.APIException:
    return exceptions.ParseError("The request was cut off or can't be read. Send it again.")


def _invalid(error: Exception) -> exceptions.APIException:
    assert isinstance(error, DjangoValidationError)
    return exceptions.ValidationError(serializers.as_serializer_error(error))


_REFUSALS: Sequence[tuple[tuple[type[Exception], ...], Callable[[Exception], exceptions.APIException]]] = (
    ((Http404, ObjectDoesNotExist), lambda error: exceptions.NotFound("There is nothing at this address.")),
    ((PermissionDenied,), lambda error: exceptions.PermissionDenied()),
    ((DjangoValidationError,), _invalid),
    (AWAY, _database),
    ((ProtectedError, RestrictedError), _protected),
    (
        (IntegrityError,),
        lambda error: Conflict("Someone else saved the same thing at the same time. Reload and try again."),
    ),
    ((DataError,), lambda error: exceptions.ParseError("A value does not fit into its field. Correct it, then retry.")),
    ((TellableError,), _tellable),
    ((UnfitError,), _unfit),
    ((RequestDataTooBig, TooManyFilesSent), _too_much),
    ((SuspiciousOperation, BadRequest, MultiPartParserError, UnreadablePostError, RecursionError), _damaged),
)


def _body(error: exceptions.APIException) -> dict[str, Any]:
    codes = error.get_codes()
    code = codes if isinstance(codes, str) else "invalid"
    current = getattr(error, "current", None)
    more = {"current": current} if current else {}
    if not isinstance(error, exceptions.ValidationError):
        return problem(error.status_code, _sentence(error), code, **more)
    detail: Any = error.detail
    if isinstance(detail, dict) and "headings" in detail:
        detail = dict(detail)
        more["headings"] = [str(each) for each in detail.pop("headings")]
    errors = dict(_flat(detail, ""))
    message = " ".join(_at(name, sentence) for name, sentences in errors.items() for sentence in sentences)
    return problem(error.status_code, message, code, errors, **more)


def _at(name: str, sentence: str) -> str:
    """A sentence that names its field; those of the libraries do not."""
    return f"{name}: {sentence}" if sentence.startswith(UNNAMED) else sentence


def _sentence(error: exceptions.APIException) -> str:
    detail: Any = error.detail
    if isinstance(detail, dict):
        detail = detail.get("detail", "")
    return str(detail[0] if isinstance(detail, list) else detail)


def _flat(detail: Any, path: str) -> list[tuple[str, list[str]]]:
    """Sentences by the dotted path of their field; what concerns the whole stands under `detail`."""
    if isinstance(detail, dict):
        pairs = [(f"{path}.{name}" if path else str(name), inner) for name, inner in detail.items()]
    elif isinstance(detail, list) and any(isinstance(inner, dict | list) for inner in detail):
        pairs = [(f"{path}.{place}" if path else str(place), inner) for place, inner in enumerate(detail) if inner]
    else:
        sentences = detail if isinstance(detail, list) else [detail]
        return [(path.removesuffix(".non_field_errors") or "detail", [str(sentence) for sentence in sentences])]
    return [row for name, inner in pairs for row in _flat(inner, "detail" if name == "non_field_errors" else name)]


def answered(request: HttpRequest, body: Mapping[str, Any]) -> HttpResponse:
    """A problem outside of the API's views."""
    return JsonResponse(body, status=body["status"], content_type=MEDIA_TYPE)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """For Django: a request that it refuses itself."""
    return answered(request, problem(400, "The request can't be read.", "bad_request"))


def forbidden(request: HttpRequest, exception: Exception | None = None, reason: str = "") -> HttpResponse:
    """For Django: no leave, or no CSRF token."""
    message = "The page is out of date. Reload it, then try again." if reason else "You may not do that."
    return answered(request, problem(403, message, "csrf" if reason else "permission_denied"))


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """For Django: nothing there."""
    return answered(request, problem(404, "There is nothing at this address.", "not_found"))


def failed(request: HttpRequest) -> HttpResponse:
    """For Django: an exception outside of the API's views, which Django has logged."""
    return answered(request, problem(500, "Something failed in the server, not in what you sent.", "failed"))
