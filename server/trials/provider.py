"""A small simulated sign-in provider (OpenID Connect, authorization code with PKCE), on a loopback port.

It asks nobody for a password: whoever comes is the person that it was given. Tests have it deceive.
"""

from __future__ import annotations

import base64
import hashlib
import json
import secrets
import threading
import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qsl, urlencode, urlsplit

from joserfc import jwt
from joserfc.jwk import RSAKey

LASTS_S = 300


@dataclass
class Provider:
    """Who comes, and what is false in what it says of them."""

    client_id: str = "coombe"
    client_secret: str = "simulated"
    person: Mapping[str, Any] = field(
        default_factory=lambda: {"sub": "1", "email": "ada@example.org", "email_verified": True}
    )
    false_claims: Mapping[str, Any] = field(default_factory=dict)
    forged: bool = False  # signed with a key that it does not publish
    denies: bool = False
    port: int = 0
    _key: RSAKey = field(default_factory=lambda: RSAKey.generate_key(2048, {"kid": "one"}))
    _other: RSAKey = field(default_factory=lambda: RSAKey.generate_key(2048, {"kid": "one"}))
    _codes: dict[str, dict[str, str]] = field(default_factory=dict)

    @property
    def issuer(self) -> str:
        """Its name and address."""
        return f"http://127.0.0.1:{self.port}"

    def metadata(self) -> dict[str, Any]:
        """What it publishes of itself."""
        return {
            "issuer": self.issuer,
            "authorization_endpoint": f"{self.issuer}/authorize",
            "token_endpoint": f"{self.issuer}/token",
            "jwks_uri": f"{self.issuer}/keys",
            "response_types_supported": ["code"],
            "subject_types_supported": ["public"],
            "id_token_signing_alg_values_supported": ["RS256"],
        }

    def keys(self) -> dict[str, Any]:
        """The public half of its key."""
        return {"keys": [self._key.as_dict(private=False) | {"use": "sig", "alg": "RS256"}]}

    def authorize(self, asked: Mapping[str, str]) -> str:
        """Where the browser goes next: back, with a code."""
        if self.denies:
            return f"{asked['redirect_uri']}?{urlencode({'error': 'access_denied', 'state': asked['state']})}"
        code = secrets.token_urlsafe(16)
        self._codes[code] = dict(asked)
        return f"{asked['redirect_uri']}?{urlencode({'code': code, 'state': asked['state']})}"

    def token(self, asked: Mapping[str, str], authorization: str) -> tuple[int, dict[str, Any]]:
        """What a code is worth, once, to the client that proves that it began."""
        begun = self._codes.pop(asked.get("code", ""), None)
        named = base64.b64decode(authorization.removeprefix("Basic ") or "").decode()
        if named != f"{self.client_id}:{self.client_secret}":
            return 401, {"error": "invalid_client"}
        proof = hashlib.sha256(asked.get("code_verifier", "").encode()).digest()
        if not begun or base64.urlsafe_b64encode(proof).rstrip(b"=").decode() != begun["code_challenge"]:
            return 400, {"error": "invalid_grant"}
        now = int(time.time())
        claims = {"iss": self.issuer, "aud": self.client_id, "iat": now, "exp": now + LASTS_S, "nonce": begun["nonce"]}
        claims |= dict(self.person) | dict(self.false_claims)
        signed = jwt.encode({"alg": "RS256", "kid": "one"}, claims, self._other if self.forged else self._key)
        return 200, {"access_token": "none", "token_type": "Bearer", "id_token": signed}


@contextmanager
def running(provider: Provider) -> Iterator[Provider]:
    """Have it answer for as long as the block lasts, at the port that it then names."""
    server = ThreadingHTTPServer(("127.0.0.1", provider.port), _handler(provider))
    provider.port = server.server_address[1]
    answering = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True)
    answering.start()
    try:
        yield provider
    finally:
        server.shutdown()
        server.server_close()
        answering.join()


def _handler(provider: Provider) -> type[BaseHTTPRequestHandler]:
    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            where = urlsplit(self.path)
            if where.path == "/authorize":
                self.send_response(302)
                self.send_header("Location", provider.authorize(dict(parse_qsl(where.query))))
                self.end_headers()
                return
            known = {"/.well-known/openid-configuration": provider.metadata, "/keys": provider.keys}
            made = known.get(where.path)
            self._send(200, made()) if made else self._send(404, {})

        def do_POST(self) -> None:
            sent = self.rfile.read(int(self.headers.get("Content-Length", "0"))).decode()
            self._send(*provider.token(dict(parse_qsl(sent)), self.headers.get("Authorization", "")))

        def _send(self, status: int, answer: Mapping[str, Any]) -> None:
            data = json.dumps(answer).encode()
            self.send_response(status)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(data)))
            self.end_headers()
            self.wfile.write(data)

        def log_message(self, *args: Any) -> None:
            """Nothing: tests read their own output."""

    return Handler
