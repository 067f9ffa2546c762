"""Another place that says who somebody is: OpenID Connect, by the authorization code flow.

OpenID Connect Core 1.0 with PKCE (RFC 7636), a state and a nonce of each attempt. The place is asked by Authlib's
client, what it signed is checked by joserfc; what may be believed of it is decided here.
"""

import time
from collections.abc import Mapping
from dataclasses import dataclass
from threading import Lock
from typing import Any, Final

import httpx
import orjson
from authlib.integrations.base_client.errors import OAuthError
from authlib.integrations.httpx_client import OAuth2Client
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from pale_harbor.errors import BadInput, NotAllowed, Unavailable
from pale_harbor.settings import Settings
from pale_harbor.work.people.tokens import new_token
from pale_harbor.work.running.sealing import Sealing, is_sealed

# An attempt to sign in that takes longer is begun anew.
SECONDS_TO_COME_BACK: Final = 600
_SECONDS_TO_ANSWER: Final = 10.0
_SECONDS_KNOWN: Final = 3_600.0
# Clocks of two machines are never quite alike.
_SECONDS_OF_CLOCKS: Final = 60
# Signed by a key that all may know; never by none, and never by a shared secret.
_ALGORITHMS: Final = ["RS256", "RS384", "RS512", "PS256", "PS384", "PS512", "ES256", "ES384", "ES512", "EdDSA"]
_SCOPE: Final = "openid profile email"
_NOT_SO: Final = "What it says of you cannot be believed"


@dataclass(frozen=True, slots=True)
class Identity:
    """Whom the place knows. names: by which somebody may be known here, each proved; shown: what it calls them."""

    issuer: str
    subject: str
    names: tuple[str, ...]
    shown: str


@dataclass(frozen=True, slots=True)
class Attempt:
    """An attempt to sign in that is under way. to: where somebody wanted to go."""

    state: str
    nonce: str
    verifier: str
    to: str
    until: float

    def sealed(self, sealing: Sealing) -> str:
        """As the browser keeps it meanwhile."""
        told = {"state": self.state, "nonce": self.nonce, "verifier": self.verifier, "to": self.to, "until": self.until}
        return sealing.sealed({"attempt": orjson.dumps(told).decode()})["attempt"]


def attempt_of(sealing: Sealing, sealed: str | None, state: str) -> Attempt:
    """The attempt that a browser kept, if this answer is to it. Raises NotAllowed."""
    try:
        # What was not sealed here was not begun here.
        kept = sealing.opened({"attempt": sealed})["attempt"] if sealed and is_sealed(sealed) else ""
        attempt = Attempt(**orjson.loads(kept))
    except (Unavailable, orjson.JSONDecodeError, TypeError) as error:
        raise NotAllowed("This browser did not begin to sign in here, or too long ago. Begin anew.") from error
    if attempt.state != state or attempt.until < time.time():
        raise NotAllowed("This is no answer to how this browser began to sign in, or it took too long. Begin anew.")
    return attempt


class Provider:
    """The place that the settings name. name: what it is called on the page."""

    def __init__(self, issuer: str, client_id: str, client_secret: str, name: str) -> None:
        self.issuer, self.name = issuer, name
        self._client_id, self._client_secret = client_id, client_secret
        self._lock = Lock()
        self._told: dict[str, Any] = {}
        self._keys: KeySet | None = None
        self._until = 0.0

    def begin(self, back: str, to: str) -> tuple[str, Attempt]:
        """Where a browser goes to sign in, and what it is to keep. back: where it comes back to. Raises Unavailable."""
        attempt = Attempt(new_token(), new_token(), new_token() + new_token(), to, time.time() + SECONDS_TO_COME_BACK)
        with self._client(back) as client:
            address, _ = client.create_authorization_url(
                self._endpoint("authorization_endpoint"),
                state=attempt.state,
                nonce=attempt.nonce,
                code_verifier=attempt.verifier,
            )
        return str(address), attempt

    def identity(self, attempt: Attempt, code: str, back: str) -> Identity:
        """Whom the place says that somebody is. Raises NotAllowed where it says nothing to believe, Unavailable."""
        endpoint = self._endpoint("token_endpoint")
        try:
            with self._client(back) as client:
                said = client.fetch_token(
                    endpoint, code=code, code_verifier=attempt.verifier, grant_type="authorization_code"
                )
        except OAuthError as error:
            raise NotAllowed(f"{self.name} does not say who you are: {error}. Begin anew.") from error
        except (httpx.HTTPError, ValueError) as error:
            raise Unavailable(f"{self.name} does not answer as it should. Try again in a while.") from error
        token = said.get("id_token") if isinstance(said, Mapping) else None
        if not isinstance(token, str):
            raise NotAllowed(f"{self.name} does not say who you are: there is no ID token in its answer.")
        return _identity(self._checked(token, attempt.nonce), self.issuer)

    def _checked(self, token: str, nonce: str) -> dict[str, Any]:
        """What an ID token says, once all that OpenID Connect Core 3.1.3.7 asks for holds. Raises NotAllowed."""
        rules = jwt.JWTClaimsRegistry(
            leeway=_SECONDS_OF_CLOCKS,
            iss={"essential": True, "value": self.issuer},
            aud={"essential": True, "value": self._client_id},
            exp={"essential": True},
            iat={"essential": True},
            sub={"essential": True},
            nonce={"essential": True, "value": nonce},
        )
        try:
            try:
                read = jwt.decode(token, self._key_set(), algorithms=_ALGORITHMS)
            except (JoseError, ValueError):
                # Its keys may be new ones.
                read = jwt.decode(token, self._key_set(anew=True), algorithms=_ALGORITHMS)
            rules.validate(read.claims)
        except (JoseError, ValueError) as error:
            raise NotAllowed(f"{_NOT_SO}: {error}.") from error
        said = dict(read.claims)
        audience = said["aud"]
        if said.get("azp", self._client_id) != self._client_id or (
            isinstance(audience, list) and len(audience) > 1 and "azp" not in said
        ):
            raise NotAllowed(f"{_NOT_SO}: it was said to somebody else.")
        return said

    def _endpoint(self, name: str) -> str:
        with self._lock:
            self._look_up()
            address = self._told.get(name)
        if not isinstance(address, str) or not address.startswith(("https://", "http://")):
            raise Unavailable(f'{self.name} does not say its "{name}", so nobody can sign in there.')
        return address

    def _key_set(self, *, anew: bool = False) -> KeySet:
        with self._lock:
            self._look_up(anew=anew)
            assert self._keys is not None
            return self._keys

    def _look_up(self, *, anew: bool = False) -> None:
        """What the place tells of itself, and its keys (OpenID Connect Discovery 1.0), asked for once an hour."""
        if time.monotonic() < self._until and not anew:
            return
        address = f"{self.issuer.rstrip('/')}/.well-known/openid-configuration"
        try:
            with httpx.Client(timeout=_SECONDS_TO_ANSWER, follow_redirects=False) as asking:
                told = _object_at(asking, address)
                if told.get("issuer") != self.issuer:
                    raise Unavailable(f'{self.name} calls itself "{told.get("issuer")}", the settings "{self.issuer}".')
                self._keys = KeySet.import_key_set(_object_at(asking, str(told.get("jwks_uri"))))  # pyright: ignore[reportArgumentType]
        except (httpx.HTTPError, httpx.InvalidURL, ValueError, KeyError, JoseError) as error:
            raise Unavailable(f"{self.name} cannot be asked now: {error}. Try again in a while.") from error
        self._told, self._until = told, time.monotonic() + _SECONDS_KNOWN

    def _client(self, back: str) -> Any:
        # A client of httpx, though its types do not say so.
        return OAuth2Client(
            client_id=self._client_id,
            client_secret=self._client_secret,
            redirect_uri=back,
            scope=_SCOPE,
            code_challenge_method="S256",
            timeout=_SECONDS_TO_ANSWER,
        )


def provider_of(settings: Settings) -> Provider | None:
    """The place that the settings name, None where they name none. Raises BadInput where they do so by half."""
    said = (settings.provider, settings.provider_client, settings.provider_secret)
    if not any(said):
        return None
    if not all(said):
        raise BadInput(
            "Name provider, provider_client and provider_secret together: a place that says who people are knows this "
            "server by them."
        )
    issuer, client, secret = (str(one) for one in said)
    return Provider(issuer, client, secret, settings.provider_name)


def _object_at(asking: httpx.Client, address: str) -> dict[str, Any]:
    answer = asking.get(address)
    answer.raise_for_status()
    told = answer.json()
    if not isinstance(told, dict):
        raise ValueError(f"{address} is no JSON object")
    return told


def _identity(said: Mapping[str, Any], issuer: str) -> Identity:
    subject, email, name = said["sub"], said.get("email"), said.get("preferred_username")
    # An address that nobody proved to be theirs is anybody's.
    names = [email if said.get("email_verified") is True else None, name]
    shown = next((one for one in (said.get("name"), name, email, subject) if isinstance(one, str) and one), "")
    return Identity(
        issuer,
        str(subject),
        tuple(one.strip().lower() for one in names if isinstance(one, str) and one.strip()),
        " ".join(shown.split())[:100],
    )
