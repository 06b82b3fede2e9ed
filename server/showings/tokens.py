"""Tokens of links: made from a nonce with the server's secret, so that a copy of the database opens nothing."""

import hashlib
import secrets

from django.utils.crypto import salted_hmac

SALT = "server.showings.tokens"
_BYTES = 24


def new_nonce() -> str:
    """What a new token is made of."""
    return secrets.token_urlsafe(24)


def token_of(nonce: str) -> str:
    """The token of a link, 192 bits in hexadecimal digits."""
    return salted_hmac(SALT, nonce, algorithm="sha256").digest()[:_BYTES].hex()


def digest_of(token: str) -> str:
    """By which a token is found: the token itself is kept nowhere."""
    return hashlib.sha256(token.encode()).hexdigest()
