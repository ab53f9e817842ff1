"""Who comes in: signing in, devices, pairing, tokens."""

import hashlib
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from pathlib import Path
from threading import Lock

from sqlalchemy import delete, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ..core.errors import Refusal
from .code_words import WORDS
from .phrases import fits, hashed_phrase, key_of, nobody
from .tables import DeviceRow, PersonRow, TokenRow, open_tables
from .throttle import Throttle

IDLE, ABSOLUTE = timedelta(days=14), timedelta(days=90)
"""How long a device stays signed in without being used, and at most: longer than ASVS asks (3.3.2), for a phone in a garage."""
SEEN_EACH = timedelta(minutes=5)
PAIRING = timedelta(minutes=5)
CODE_WORDS, MOST_CODES = 5, 20


class Right(StrEnum):
    """What somebody may: everything; see everything; see Tonight alone."""

    OWNER = "owner"
    READER = "reader"
    GUEST = "guest"


class Purpose(StrEnum):
    """What a token is for."""

    GUEST = "guest"
    CALENDAR = "calendar"
    READS = "reads"
    SCRIPT = "script"
    WHEELS = "wheels"
    POINT = "point"


@dataclass(frozen=True)
class Visitor:
    """Who asks: the right, the person's name and number and the device's number (None: nobody signed in), or the name and number of a
    token.
    """

    right: Right
    name: str = ""
    person_id: int | None = None
    device_id: int | None = None
    token_id: int | None = None


HERE = Visitor(Right.OWNER)
"""Whoever sits at this computer, where nobody else is let in."""


@dataclass(frozen=True)
class Person:
    """Somebody who may sign in."""

    id: int
    name: str
    right: Right


@dataclass(frozen=True, kw_only=True)
class Device:
    """A browser that is signed in."""

    id: int
    person: str
    name: str
    address: str
    made_at: datetime
    seen_at: datetime


@dataclass(frozen=True, kw_only=True)
class Token:
    """What lets in without a person."""

    id: int
    purpose: Purpose
    name: str
    made_at: datetime
    seen_at: datetime | None


def utc_now() -> datetime:
    """The system's clock: who may come in hangs on no simulated one."""
    return datetime.now(UTC)


class Access:
    """The people, devices and tokens in a file."""

    def __init__(self, path: Path, clock: Callable[[], datetime] = utc_now) -> None:
        self.engine, self.clock = open_tables(path), clock
        self.throttle = Throttle(clock)
        nobody()
        self._codes, self._lock = dict[str, tuple[int, datetime]](), Lock()

    def people(self) -> list[Person]:
        """Everybody who may sign in."""
        with Session(self.engine) as session:
            return [
                Person(each.id, each.name, Right(each.right))
                for each in session.scalars(select(PersonRow).order_by(PersonRow.id))
            ]

    def add(self, name: str, phrase: str, right: Right) -> None:
        """Let somebody sign in. Raises: Refusal with its field ("name", "phrase")."""
        name = " ".join(name.split())
        if not 1 <= len(name) <= 60 or not name.isprintable():
            raise Refusal("A name has 1 to 60 letters.", "name")
        with Session(self.engine) as session:
            session.add(PersonRow(name=name, key=key_of(name), phrase_hash=hashed_phrase(phrase, name), right=right.value))
            try:
                session.commit()
            except IntegrityError:
                raise Refusal("Somebody has this name already.", "name") from None

    def new_phrase(self, person_id: int, old: str, phrase: str) -> None:
        """Another pass phrase, by who knows the one before. Raises: TooManyTries; Refusal with its field ("old", "phrase")."""
        key = f"phrase {person_id}"
        self.throttle.check(key)
        with Session(self.engine) as session:
            row = session.get(PersonRow, person_id)
        if not fits(row.phrase_hash if row else nobody(), old) or row is None:
            raise Refusal("This is not the one that you have.", "old")
        self.throttle.forget(key)
        self.change_phrase(person_id, phrase)

    def change_phrase(self, person_id: int, phrase: str) -> None:
        """Another pass phrase; all devices of the person are signed out. Raises: Refusal."""
        with Session(self.engine) as session, session.begin():
            row = _found(session.get(PersonRow, person_id))
            row.phrase_hash = hashed_phrase(phrase, row.name)
            session.execute(delete(DeviceRow).where(DeviceRow.person_id == person_id))

    def remove(self, person_id: int) -> None:
        """Nobody signs in by this name any more. Raises: Refusal for the last owner."""
        with Session(self.engine) as session, session.begin():
            row = _found(session.get(PersonRow, person_id))
            owners = session.scalar(select(func.count()).where(PersonRow.right == Right.OWNER.value, PersonRow.id != person_id))
            if row.right == Right.OWNER.value and not owners:
                raise Refusal("One owner has to stay: add another first.")
            session.delete(row)

    def sign_in(self, name: str, phrase: str, address: str, device: str) -> str:
        """Sign a device in; returns its secret. Raises: TooManyTries; Refusal, the same whether the name or the phrase is wrong."""
        keys = f"name {key_of(name)[:120]}", f"address {address}"
        self.throttle.check(*keys)
        with Session(self.engine) as session:
            row = session.scalars(select(PersonRow).where(PersonRow.key == key_of(name))).first()
        if not fits(row.phrase_hash if row else nobody(), phrase) or row is None:
            raise Refusal("Name and pass phrase do not go together.", "phrase")
        self.throttle.forget(*keys)
        return self._device(row.id, address, device)

    def offer_pairing(self, person_id: int) -> tuple[str, datetime]:
        """Words with which one device may sign in as a person, once, and until when."""
        code, now = " ".join(secrets.choice(WORDS) for _ in range(CODE_WORDS)), self.clock()
        with self._lock:
            self._codes = {key: each for key, each in self._codes.items() if each[1] > now}
            if len(self._codes) >= MOST_CODES:
                raise Refusal("Too many codes are waiting: use one of them, or wait five minutes.")
            self._codes[_hashed(code)] = person_id, now + PAIRING
        return code, now + PAIRING

    def pair(self, code: str, address: str, device: str) -> str:
        """Sign a device in by such words; returns its secret. Raises: TooManyTries; Refusal."""
        key = f"pairing {address}"
        self.throttle.check(key)
        with self._lock:
            person_id, ends = self._codes.pop(_hashed(" ".join(code.casefold().split())), (0, self.clock()))
        if ends <= self.clock():
            raise Refusal("These words do not let in, or not any more: show new ones on the computer.", "code")
        self.throttle.forget(key)
        return self._device(person_id, address, device)

    def _device(self, person_id: int, address: str, name: str) -> str:
        secret, now = secrets.token_urlsafe(32), self.clock()
        with Session(self.engine) as session, session.begin():
            _found(session.get(PersonRow, person_id))
            row = DeviceRow(
                secret_hash=_hashed(secret), person_id=person_id, name=name[:80], address=address[:60], made_at=now, seen_at=now
            )
            session.add(row)
        return secret

    def visitor(self, secret: str) -> Visitor | None:
        """Who holds the secret of a device that is signed in, or of a guest's link; None for nobody."""
        if not secret:
            return None
        now = self.clock()
        with Session(self.engine, expire_on_commit=False) as session, session.begin():
            row = session.scalars(select(DeviceRow).where(DeviceRow.secret_hash == _hashed(secret))).first()
            if row is None:
                guest = self._token(session, secret)
                return None if guest is None or guest.purpose != Purpose.GUEST else Visitor(Right.GUEST, guest.name)
            if now - row.seen_at > IDLE or now - row.made_at > ABSOLUTE:
                session.delete(row)
                return None
            if now - row.seen_at > SEEN_EACH:
                row.seen_at = now
            person = _found(session.get(PersonRow, row.person_id))
            return Visitor(Right(person.right), person.name, person.id, row.id)

    def devices(self) -> list[Device]:
        """The devices that are signed in, the latest seen first."""
        wanted = select(DeviceRow, PersonRow.name).join(PersonRow, PersonRow.id == DeviceRow.person_id)
        with Session(self.engine) as session:
            found = session.execute(wanted.order_by(DeviceRow.seen_at.desc())).all()
        return [
            Device(id=row.id, person=person, name=row.name, address=row.address, made_at=row.made_at, seen_at=row.seen_at)
            for row, person in found
        ]

    def put_out(self, *, device_id: int | None = None, person_id: int | None = None, but: int | None = None) -> int:
        """Sign out a device, or all of a person but one; returns how many."""
        which = DeviceRow.id == device_id if device_id is not None else DeviceRow.person_id == person_id
        with Session(self.engine) as session, session.begin():
            rows = [each for each in session.scalars(select(DeviceRow).where(which)) if each.id != but]
            for each in rows:
                session.delete(each)
        return len(rows)

    def make_token(self, purpose: Purpose, name: str) -> str:
        """A token for one purpose; returns its secret, which nobody can read again. Raises: Refusal.

        A point's has 40 hexadecimal digits, the most that its kinds take. Source: OCPP 1.6 security whitepaper, edition 3 (2022), 4.1.
        """
        name = " ".join(name.split())
        if not 1 <= len(name) <= 60 or not name.isprintable():
            raise Refusal("Name what or whom it is for, in 1 to 60 letters.", "for_whom")
        secret = secrets.token_hex(20) if purpose is Purpose.POINT else secrets.token_urlsafe(32)
        with Session(self.engine) as session, session.begin():
            session.add(
                TokenRow(secret_hash=_hashed(secret), purpose=purpose.value, name=name, made_at=self.clock(), seen_at=None)
            )
        return secret

    def tokens(self) -> list[Token]:
        """The tokens that let in."""
        with Session(self.engine) as session:
            return [_as_token(each) for each in session.scalars(select(TokenRow).order_by(TokenRow.id))]

    def revoke(self, token_id: int) -> None:
        """A token lets in no more."""
        with Session(self.engine) as session, session.begin():
            session.execute(delete(TokenRow).where(TokenRow.id == token_id))

    def token(self, secret: str) -> Token | None:
        """The token of a secret; None for one that none has."""
        with Session(self.engine) as session, session.begin():
            row = self._token(session, secret)
            return None if row is None else _as_token(row)

    def _token(self, session: Session, secret: str) -> TokenRow | None:
        row = session.scalars(select(TokenRow).where(TokenRow.secret_hash == _hashed(secret))).first()
        if row is not None and (row.seen_at is None or self.clock() - row.seen_at > SEEN_EACH):
            row.seen_at = self.clock()
        return row


def _as_token(row: TokenRow) -> Token:
    return Token(id=row.id, purpose=Purpose(row.purpose), name=row.name, made_at=row.made_at, seen_at=row.seen_at)


def _hashed(secret: str) -> str:
    """Secrets of 40 bits and more that are drawn need no slow hash."""
    return hashlib.sha256(secret.encode()).hexdigest()


def _found(row: PersonRow | None) -> PersonRow:
    if row is None:
        raise Refusal("This person is not there any more.")
    return row
