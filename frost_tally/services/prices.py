"""Hourly prices from files: of any header by columns that are chosen once, into a tariff that is there or a new one."""

import zlib
from dataclasses import dataclass, replace

from ..core.charge.tariff import Tariff
from ..core.charge.usual_prices import one_price
from ..core.errors import Refusal
from ..core.parts import Contract
from ..formats.hourly import PriceColumns, guess_prices, is_our_own, known, read_hourly, stored
from ..formats.table import header_of
from ..household import contracts
from ..household.pending import forget_pending, know_choice, known_choice, pending, put_pending
from ..household.snapshot import Snapshot
from ..household.unit_of_work import Household
from .log_import.intervals import prepare_found
from .tariffs import FEED, checked_name

KIND = "price file"


@dataclass(frozen=True, kw_only=True)
class PriceFile:
    """A file of prices that waits: its columns, what is guessed or known of them, and the tariff it was brought to (None: none yet)."""

    number: str
    name: str
    header: tuple[str, ...]
    how: PriceColumns
    tariff: int | None


def receive(
    household: Household, snapshot: Snapshot, *, name: str, content: bytes, tariff: int | None = None
) -> tuple[str, bool]:
    """Keep a file until its columns are chosen; returns its number, and whether nothing has to be: it is ours, or its header is known, and
    there is but one tariff that it can belong to. Raises: Refusal for what is no table.
    """
    if not content:
        raise Refusal("Choose a file first.", "file")
    header = header_of(content)
    kept = known(known_choice(snapshot.log, _named(header)))
    how = kept or guess_prices(content, snapshot.home.place.zone)
    dated = [each.id for each in snapshot.home.contracts if each.feed]
    alone = tariff or (dated[0] if len(dated) == 1 else None)
    about = {"name": name[:80] or "the file", "header": list(header), "how": stored(how), "tariff": alone}
    with household.recording() as session:
        number = put_pending(session, KIND, about, zlib.compress(content, 1))
    return number, alone is not None and (kept is not None or is_our_own(content))


def waiting(snapshot: Snapshot, number: str) -> PriceFile:
    """A file that waits. Raises: Refusal when it is gone."""
    about = pending(snapshot.log, number, (KIND,)).about
    how = known(dict(about["how"])) or PriceColumns(start=None, price=None)
    return PriceFile(number=number, name=str(about["name"]), header=tuple(about["header"]), how=how, tariff=about.get("tariff"))


def choose(household: Household, snapshot: Snapshot, number: str, how: PriceColumns, tariff: int | None, new: str) -> str:
    """Read a file by its columns and remember them for its header, for a tariff, or for a `new` one by its name, whose price on hours
    without one is the mean of the file; returns the number of the preview. Raises: Refusal with its field.
    """
    file = pending(snapshot.log, number, (KIND,))
    found = read_hourly(zlib.decompress(file.content), how)
    if not len(found.value):
        raise Refusal(f"No row of the file can be used so: {found.bad[0].reason if found.bad else 'there is none'}.", "start")
    if tariff is None:
        _, tariff = new_hourly(household, new, float(found.value.mean()))
    made = prepare_found(household, snapshot, "prices", name=str(file.about["name"]), found=found, tariff=tariff)
    with household.recording() as session:
        know_choice(session, _named(tuple(map(str, file.about["header"]))), stored(how))
        forget_pending(session, number, KIND)
    return made


def new_hourly(household: Household, name: str, mean_price: float) -> tuple[int, int]:
    """Make a tariff of another price each hour, with a mean for hours without one; returns the undo number and its own. Raises: Refusal."""
    with household.deciding(f"“{name.strip()[:40]}” kept") as session:
        checked_name(name)
        home = household.as_decided(session).home
        made = one_price(name.strip(), mean_price)
        tariff: Tariff = replace(made, zone=home.place.zone, currency=home.currency)
        number = contracts.write_contract(session, None, tariff, "", FEED)
    return session.number, number


def hourly(snapshot: Snapshot) -> tuple[Contract, ...]:
    """The tariffs that have another price each hour, then the others."""
    return tuple(sorted(snapshot.home.contracts, key=lambda each: not each.feed))


def _named(header: tuple[str, ...]) -> str:
    return "prices|" + "|".join(each.casefold() for each in header)[:3900]
