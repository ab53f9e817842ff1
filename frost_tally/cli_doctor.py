"""`frost-tally doctor`: what a start needs, looked at one by one, with plain advice."""

import shutil
import socket
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import NamedTuple

from cryptography import x509

from .access.door import Access
from .cli_out import out
from .cli_shared import settings_of
from .household import store
from .household.nightly import nightly_copies
from .household.whole_file import StoreError
from .settings import Settings

ROOM_B, STALE, LEFT = 200_000_000, timedelta(days=2), timedelta(days=30)


class Look(NamedTuple):
    """What was looked at, whether it is well, and what is to be said of it."""

    what: str
    well: bool
    words: str


def looks(settings: Settings) -> Iterator[Look]:
    """Everything, the data first."""
    for each in (_data, _room, _copies, _clock, _port, _names, _people, _certificate, _mail):
        yield each(settings)


def _data(settings: Settings) -> Look:
    database = settings.database
    if not database.exists():
        return Look("data", True, f"There is none yet at {database}: the first start makes it.")
    try:
        version = store.version_of(database, settings.backups)
        if version and version != store.head():
            return Look(
                "data", True, f"It is of version {version}: the next start brings it to {store.head()}, with a copy before."
            )
        store.check_store(database)
    except StoreError as problem:
        return Look("data", False, str(problem))
    return Look("data", True, f"{database} is whole, of today's version {store.head()}.")


def _room(settings: Settings) -> Look:
    folder = next(each for each in (settings.data_dir, *settings.data_dir.parents) if each.exists())
    free = shutil.disk_usage(folder).free
    well = free >= ROOM_B
    return Look("room", well, f"{free / 1e9:.1f} GB are free." + ("" if well else " Make room: copies and updates need it."))


def _copies(settings: Settings) -> Look:
    nights = nightly_copies(settings.database, settings.backups).values()
    if not nights:
        return Look("copies", True, "None of a night yet: a running server makes one each night.")
    fresh = datetime.now(UTC).date() - max(nights) <= STALE
    advice = "" if fresh else " Has the server run since?"
    return Look("copies", fresh, f"{len(set(nights))} nights, the latest {max(nights)}.{advice}")


def _clock(settings: Settings) -> Look:
    written = settings.database.stat().st_mtime if settings.database.exists() else 0.0
    well = datetime.now(UTC).timestamp() > written - 60
    words = "It goes on from the last write." if well else "The data was written later than now: set the computer's clock."
    return Look("clock", well, words)


def _port(settings: Settings) -> Look:
    with socket.socket(socket.AF_INET6 if ":" in settings.host else socket.AF_INET) as at:
        at.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            at.bind((settings.host, settings.port))
        except OSError as problem:
            words = f"{settings.host}:{settings.port} cannot be used ({problem.strerror}): Frost Tally runs there, or something else does."
            return Look("port", False, words)
    return Look("port", True, f"{settings.host}:{settings.port} is free.")


def _names(settings: Settings) -> Look:
    well = not settings.signs_in or any(each not in ("127.0.0.1", "localhost") for each in settings.names)
    advice = "" if well else " Name how others ask for it: FROST_TALLY_ALLOWED_HOSTS."
    return Look("names", well, f"It answers to {', '.join(settings.names)}.{advice}")


def _people(settings: Settings) -> Look:
    if not settings.signs_in:
        return Look("people", True, "Only this computer is listened to: nobody signs in.")
    count = len(Access(settings.access).people())
    return Look("people", count > 0, f"{count} may sign in." if count else "Nobody may sign in: `frost-tally person add NAME`.")


def _certificate(settings: Settings) -> Look:
    path = settings.tls_certificate
    if path is None:
        plain = settings.signs_in and not settings.trusted_proxies
        words = "None; others can read along: `frost-tally certificate`." if plain else "None, and none is needed."
        return Look("certificate", not plain, words)
    if not path.is_file():
        return Look("certificate", False, f"{path} is not there: `frost-tally certificate` makes one.")
    return _judged(x509.load_pem_x509_certificate(path.read_bytes()), settings, path)


def _mail(settings: Settings) -> Look:
    if not settings.smtp_host:
        return Look("mail", True, "No server is set, so no letters go out.")
    where = f"{settings.smtp_host}:{settings.smtp_port}"
    try:
        socket.create_connection((settings.smtp_host, settings.smtp_port), timeout=5).close()
    except OSError as problem:
        return Look("mail", False, f"{where} does not answer ({problem.strerror or problem}): no letters go out.")
    return Look("mail", True, f"Letters go by {where}: the Garage sends a test letter.")


def _judged(certificate: x509.Certificate, settings: Settings, path: Path) -> Look:
    left = certificate.not_valid_after_utc - datetime.now(UTC)
    named = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    known = {str(each.value) for each in named}
    missing = [each for each in settings.names if each.strip("[]") not in known and each not in ("127.0.0.1", "localhost")]
    if left < LEFT:
        return Look("certificate", False, f"{path} ends in {left.days} days: `frost-tally certificate` makes the next.")
    if missing:
        return Look("certificate", False, f"{path} does not name {', '.join(missing)}: make one that does.")
    return Look("certificate", True, f"{path} holds {left.days} days.")


def doctor(use_demo: bool) -> bool:
    """Say what was found; whether all is well."""
    found = list(looks(settings_of(use_demo)))
    say: Callable[..., None] = out.print
    for each in found:
        say(f"{'well ' if each.well else 'WRONG'} {each.what}: {each.words}", soft_wrap=True, markup=False, highlight=False)
    return all(each.well for each in found)
