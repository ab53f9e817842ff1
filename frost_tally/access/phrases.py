"""Names and pass phrases: which will do, and how they are hashed."""

import unicodedata
from functools import cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from argon2.profiles import RFC_9106_LOW_MEMORY

from ..core.errors import Refusal

SHORTEST, LONGEST = 12, 128
"""Characters of a pass phrase: OWASP ASVS 4.0, 2.1.1 and 2.1.2."""
_HASHER = PasswordHasher.from_parameters(RFC_9106_LOW_MEMORY)
"""Parameters: RFC 9106, the second recommended ones."""


def hashed_phrase(phrase: str, name: str) -> str:
    """A pass phrase that will do, as it is stored. Raises: Refusal."""
    return _HASHER.hash(good_phrase(phrase, name))


def good_phrase(phrase: str, name: str) -> str:
    """A pass phrase that will do. Raises: Refusal."""
    if not SHORTEST <= len(phrase) <= LONGEST:
        raise Refusal(f"A pass phrase has {SHORTEST} to {LONGEST} characters: some words that only you put together.", "phrase")
    plain = key_of(phrase)
    if len(set(plain)) < 5 or plain in (key_of(name) * 12)[: len(plain)] or plain in COMMON:
        raise Refusal("This one is guessed at once: take some words that only you put together.", "phrase")
    return phrase


COMMON = frozenset(
    [
        "passwordpassword",
        "123456789012",
        "1234567890123",
        "qwertyuiopas",
        "qwertyuiop123",
        "letmeinletmein",
        "iloveyou1234",
        "password1234",
        "adminadminadmin",
        "passwort1234",
        "passphrase12",
        "changemechangeme",
        "welcomewelcome",
        "frosttallyfrost",
        "frosttally123",
        "123123123123",
        "abcdefghijkl",
    ]
)
"""What is tried first; common practice."""


def key_of(name: str) -> str:
    """A name as it is compared."""
    return unicodedata.normalize("NFKC", " ".join(name.split())).casefold()


@cache
def nobody() -> str:
    """What a phrase is held against where nobody has the name, so that the answer takes as long."""
    return _HASHER.hash("nobody signs in with this")


def fits(phrase_hash: str, phrase: str) -> bool:
    try:
        return _HASHER.verify(phrase_hash, phrase[: LONGEST + 1])
    except (VerificationError, InvalidHashError):
        return False
