"""A small OpenID Connect provider for tests: it lets in whoever a test says, and checks what a client has to do."""

import base64
import hashlib
import json
import secrets
import threading
import time
from collections.abc import Generator
from contextlib import contextmanager
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, urlencode, urlsplit

from joserfc import jwt
from joserfc.jwk import KeySet, RSAKey

CLIENT, SECRET = "pale-harbor", "a secret of two, told to nobody"


@dataclass
class TestProvider:
    """What it says next. claims: of whoever signs in; wrong: what is put in place of what is right."""

    __test__ = False

    address: str = ""
    claims: dict[str, Any] = field(default_factory=lambda: {"sub": "17", "name": "Ib Sand"})
    wrong: dict[str, Any] = field(default_factory=dict[str, Any])
    refuses: str | None = None
    signs: RSAKey = field(default_factory=lambda: RSAKey.generate_key(2048, {"kid": "one"}))
    shows: RSAKey | None = None
    algorithm: str = "RS256"
    codes: dict[str, dict[str, str]] = field(default_factory=dict[str, dict[str, str]])
    asked_for_keys: int = 0

    def document(self) -> dict[str, Any]:
        """What it tells of itself."""
        return {
            "issuer": self.wrong.get("issuer", self.address),
            "authorization_endpoint": f"{self.address}/authorize",
            "token_endpoint": f"{self.address}/token",
            "jwks_uri": f"{self.address}/keys",
        }

    def authorized(self, asked: dict[str, str]) -> str:
        """Where the browser goes back to: everybody is who the test says."""
        assert (asked["client_id"], asked["response_type"]) == (CLIENT, "code")
        assert set(asked["scope"].split()) == {"openid", "profile", "email"}
        assert (asked["code_challenge_method"], len(asked["nonce"]) > 20) == ("S256", True)
        if self.refuses:
            return f"{asked['redirect_uri']}?{urlencode({'error': self.refuses, 'state': asked['state']})}"
        code = secrets.token_urlsafe(8)
        self.codes[code] = asked
        return f"{asked['redirect_uri']}?{urlencode({'code': code, 'state': asked['state']})}"

    def token(self, asked: dict[str, str], authorization: str) -> tuple[int, dict[str, Any]]:
        """An ID token for a code, once, to whoever began and proves it."""
        named = base64.b64decode(authorization.removeprefix("Basic ")).decode()
        began = self.codes.pop(asked.get("code", ""), None)
        challenge = base64.urlsafe_b64encode(hashlib.sha256(asked.get("code_verifier", "").encode()).digest())
        if (
            began is None
            or (named != f"{CLIENT}:{SECRET}".replace(" ", "+").replace(",", "%2C") and named != f"{CLIENT}:{SECRET}")
            or began["code_challenge"] != challenge.decode().rstrip("=")
            or began["redirect_uri"] != asked.get("redirect_uri")
        ):
            return 400, {"error": "invalid_grant"}
        now = int(time.time())
        claims = {
            "iss": self.address, "aud": CLIENT, "iat": now, "exp": now + 300, "nonce": began["nonce"],
            **self.claims, **self.wrong,
        }  # fmt: skip
        header = {"alg": self.algorithm, "kid": "one"}
        token = jwt.encode(header, {name: one for name, one in claims.items() if one is not None}, self.signs)
        return 200, {"access_token": "x", "token_type": "Bearer", "id_token": token}


@contextmanager
def a_provider() -> Generator[TestProvider]:
    """A provider on a port of its own."""
    own = TestProvider()

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            parts = urlsplit(self.path)
            asked = {name: values[0] for name, values in parse_qs(parts.query).items()}
            match parts.path:
                case "/.well-known/openid-configuration":
                    self._say(200, own.document())
                case "/keys":
                    own.asked_for_keys += 1
                    self._say(200, dict(KeySet([own.shows or own.signs]).as_dict(private=False)))
                case "/authorize":
                    self.send_response(302)
                    self.send_header("Location", own.authorized(asked))
                    self.send_header("Content-Length", "0")
                    self.end_headers()
                case _:
                    self._say(404, {})

        def do_POST(self) -> None:
            body = self.rfile.read(int(self.headers["Content-Length"])).decode()
            asked = {name: values[0] for name, values in parse_qs(body).items()}
            self._say(*own.token(asked, self.headers.get("Authorization", "")))

        def _say(self, status: int, told: dict[str, Any]) -> None:
            content = json.dumps(told).encode()
            self.send_response(status)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(content)))
            self.end_headers()
            self.wfile.write(content)

        def log_message(self, *_: Any) -> None:  # pyright: ignore[reportIncompatibleMethodOverride]
            """Says nothing."""

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    own.address = f"http://127.0.0.1:{server.server_port}"
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield own
    server.shutdown()
    thread.join(10)
