"""The OpenAPI schema, with what every operation may answer when something is wrong."""

from __future__ import annotations

from typing import Any

from drf_spectacular.openapi import AutoSchema

from accounts import schema  # noqa: F401 - says how tokens are sent
from config.errors import MEDIA_TYPE, ProblemSerializer


class ProblemAutoSchema(AutoSchema):
    """Every refusal has one form, whatever its status."""

    def _get_response_bodies(self, direction: Any = "response") -> Any:
        bodies = super()._get_response_bodies(direction)
        refused = self._get_response_for_code(ProblemSerializer, "default", [MEDIA_TYPE], direction)  # type: ignore[no-untyped-call]
        return {**bodies, "default": refused}
