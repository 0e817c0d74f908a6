"""How the OpenAPI schema names access tokens."""

from __future__ import annotations

from drf_spectacular.extensions import OpenApiAuthenticationExtension
from drf_spectacular.openapi import AutoSchema


class TokenScheme(OpenApiAuthenticationExtension):  # type: ignore[no-untyped-call]
    """`Authorization: Bearer coombe_…`."""

    target_class = "accounts.tokens.TokenAuthentication"
    name = "accessToken"

    def get_security_definition(self, auto_schema: AutoSchema) -> dict[str, str]:
        """As OpenAPI has it."""
        return {"type": "http", "scheme": "bearer"}
