"""Whom an identity provider vouches for: the authorization code flow of OpenID Connect Core 1.0, with PKCE (RFC 7636)."""

import secrets
from dataclasses import dataclass
from typing import Any

import httpx2
from authlib.integrations.httpx_client import AsyncOAuth2Client
from authlib.oauth2.rfc6749.errors import OAuth2Error
from authlib.oauth2.rfc7636 import create_s256_code_challenge
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from sign_shelf.core.errors import NoAnswer, SourceRefused
from sign_shelf.core.model.menu import Model
from sign_shelf.settings import Settings

_WITHIN_S = 10.0
_SIGNED_WITH = ["RS256", "ES256", "EdDSA"]
SCOPE = "openid email profile"


class Asked(Model):
    """What we keep while somebody is at the provider's: what its answer has to fit."""

    state: str
    nonce: str
    verifier: str
    back: str


@dataclass(frozen=True, kw_only=True)
class VouchedFor:
    """`email` is empty where the provider does not say that it was verified."""

    issuer: str
    subject: str
    email: str
    name: str


class IdentityProvider:
    """The one that the settings name."""

    def __init__(self, settings: Settings, redirect_uri: str) -> None:
        self._issuer = settings.identity_issuer.rstrip("/")
        self._client = (settings.identity_client, settings.identity_secret.get_secret_value())
        self._redirect_uri = redirect_uri

    async def asked(self, back: str) -> tuple[str, Asked]:
        """The address to send somebody to, and what to keep meanwhile. Raises NoAnswer, SourceRefused."""
        kept = Asked(
            state=secrets.token_urlsafe(24), nonce=secrets.token_urlsafe(24), verifier=secrets.token_urlsafe(48), back=back
        )  # fmt: skip
        async with self._session() as session:
            about = await self._about(session)
            address, _ = session.create_authorization_url(
                about["authorization_endpoint"], state=kept.state, nonce=kept.nonce,
                code_challenge=create_s256_code_challenge(kept.verifier), code_challenge_method="S256",
            )  # fmt: skip
        return str(address), kept

    async def vouched_for(self, code: str, kept: Asked) -> VouchedFor:
        """Raises NoAnswer, and SourceRefused for an answer that does not fit what was asked."""
        try:
            async with self._session() as session:
                about = await self._about(session)
                token = await session.fetch_token(
                    about["token_endpoint"], code=code, code_verifier=kept.verifier, grant_type="authorization_code"
                )
                keys = KeySet.import_key_set((await self._got(session, about["jwks_uri"])).json())
            read = jwt.decode(token["id_token"], keys, algorithms=_SIGNED_WITH)
            jwt.JWTClaimsRegistry(
                leeway=60, iss={"essential": True, "value": about["issuer"]}, aud={"essential": True, "value": self._client[0]},
                exp={"essential": True}, sub={"essential": True}, nonce={"essential": True, "value": kept.nonce},
            ).validate(read.claims)  # fmt: skip
            said: dict[str, Any] = dict(read.claims)
            if not said.get("email") and about.get("userinfo_endpoint"):
                said |= await self._told(about["userinfo_endpoint"], token["access_token"], said["sub"])
        except httpx2.HTTPError as away:
            raise NoAnswer(f"The identity provider does not answer: {away}.", where=self._issuer) from away
        except (OAuth2Error, JoseError, KeyError, ValueError, TypeError) as wrong:
            raise SourceRefused(
                f"What the identity provider says cannot be believed: {wrong}.",
                where=self._issuer,
                remedy="Begin again.",
            ) from wrong
        email = str(said.get("email", "")) if said.get("email_verified") is True else ""
        return VouchedFor(
            issuer=str(about["issuer"]), subject=str(said["sub"]), email=email.strip().lower(), name=str(said.get("name", ""))
        )  # fmt: skip

    async def _told(self, endpoint: str, access_token: str, subject: str) -> dict[str, Any]:
        async with httpx2.AsyncClient(timeout=_WITHIN_S, trust_env=False) as client:
            answer = await client.get(endpoint, headers={"authorization": f"Bearer {access_token}"})
            answer.raise_for_status()
            told: dict[str, Any] = answer.json()
        # OpenID Connect Core 1.0, 5.3.2: otherwise it must not be used.
        if told.get("sub") != subject:
            raise ValueError("it tells of somebody else")
        return told

    def _session(self) -> AsyncOAuth2Client:
        return AsyncOAuth2Client(
            *self._client, scope=SCOPE, redirect_uri=self._redirect_uri, timeout=_WITHIN_S, trust_env=False
        )

    async def _about(self, session: AsyncOAuth2Client) -> dict[str, Any]:
        """Its metadata (OpenID Connect Discovery 1.0)."""
        try:
            about: dict[str, Any] = (
                await self._got(session, f"{self._issuer}/.well-known/openid-configuration")
            ).json()
        except (httpx2.HTTPError, ValueError) as away:
            raise NoAnswer(f"The identity provider does not answer: {away}.", where=self._issuer) from away
        if str(about.get("issuer", "")).rstrip("/") != self._issuer:
            raise SourceRefused("The identity provider calls itself otherwise.", where=self._issuer,
                                remedy="Correct SIGN_SHELF_IDENTITY_ISSUER.")  # fmt: skip
        return about

    async def _got(self, session: AsyncOAuth2Client, address: str) -> httpx2.Response:
        answer: httpx2.Response = await session.request("GET", address, withhold_token=True)
        answer.raise_for_status()
        return answer
