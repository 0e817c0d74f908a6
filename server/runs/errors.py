"""What runs and logs refuse, beside what a form refuses."""

from rest_framework import status
from rest_framework.exceptions import APIException


class Conflict(APIException):
    """Somebody else changed the same thing meanwhile."""

    status_code = status.HTTP_409_CONFLICT
    default_code = "conflict"


class TooLarge(APIException):
    """An upload over the limit."""

    status_code = status.HTTP_413_REQUEST_ENTITY_TOO_LARGE
    default_code = "too_large"
