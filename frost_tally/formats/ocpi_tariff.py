"""OCPI 2.2.1 tariff objects in and out.

Written from memory of the specification's Tariffs module: an element's restrictions are local times and days, `end_time`
and `end_date` exclusive, and of the elements that hold at a moment the first counts. What OCPI has no word for is noted:
standing charges and dated series stay here; seasons and public holidays are written as dates of the years asked for.
"""

import json
from collections.abc import Callable, Iterable, Mapping
from datetime import UTC, date, datetime, timedelta
from typing import Any

from ..core.charge.prices import CELL_MINUTES, CELLS_PER_DAY
from ..core.charge.tariff import EVERY_DAY, HOLIDAY, Band, MonthDay, Season, Tariff, clock, runs
from ..core.charge.week import NONE, Colour, Week, blank
from ..core.errors import Refusal, require
from . import values
from .tariff_json import TariffFile, loaded

DAYS = ("MONDAY", "TUESDAY", "WEDNESDAY", "THURSDAY", "FRIDAY", "SATURDAY", "SUNDAY")
MOST_ELEMENTS = 2000


def write_ocpi(file: TariffFile, years: Iterable[int], updated: datetime) -> str:
    """One tariff object as JSON. Elements that hold first come first: holidays, then seasons, then the usual week."""
    tariff, years = file.tariff, tuple(years)
    elements: list[dict[str, Any]] = []
    for season in (*tariff.seasons, None):
        bands = tariff.bands if season is None else season.bands
        spans = [{}] if season is None else [_dates(season, year) for year in years]
        for span in spans:
            if tariff.holidays is not None:
                held = sorted(day for day in tariff.holidays if day.year in years and _in(season, day, span))
                elements += [_element(band, a, b, _one_day(day)) for day in held for band, a, b in _spans(bands, HOLIDAY)]
        for span in spans:
            elements += _week(bands, span)
    country = (file.region or "XX")[:2].upper()
    document: dict[str, Any] = {
        "country_code": country,
        "party_id": "OWN",
        "id": str(file.number),
        "currency": tariff.currency,
        "type": "REGULAR",
        "tariff_alt_text": [{"language": "en", "text": tariff.name}],
        "elements": elements,
        "last_updated": updated.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ"),
    }
    for name, day, extra in (("start_date_time", tariff.valid_from, 0), ("end_date_time", tariff.valid_to, 1)):
        if day is not None:
            document[name] = f"{day + timedelta(days=extra)}T00:00:00Z"
    return json.dumps(document, ensure_ascii=False, indent=1)


def _in(season: Season | None, day: date, span: Mapping[str, str]) -> bool:
    return season is None or (span["start_date"] <= day.isoformat() < span["end_date"])


def _dates(season: Season, year: int) -> dict[str, str]:
    last_year = year + (season.last < season.first)
    return {"start_date": _safe_date(year, season.first).isoformat(),
            "end_date": (_safe_date(last_year, season.last) + timedelta(days=1)).isoformat()}  # fmt: skip


def _safe_date(year: int, day: MonthDay) -> date:
    """A day of a year; 29 February becomes the 28th where there is none."""
    try:
        return date(year, *day)
    except ValueError:
        return date(year, 2, 28)


def _one_day(day: date) -> dict[str, str]:
    return {"start_date": day.isoformat(), "end_date": (day + timedelta(days=1)).isoformat()}


def _spans(bands: Iterable[Band], row: int) -> list[tuple[Band, int, int]]:
    """Bands of a row with their cells, cut at midnight."""
    found = []
    for band in bands:
        if row in band.days:
            covered = [i in band.cells() for i in range(CELLS_PER_DAY)]
            found += [(band, a, b) for a, b, on in runs(covered) if on]
    return found


def _week(bands: tuple[Band, ...], span: Mapping[str, str]) -> list[dict[str, Any]]:
    """Elements of a week: one for each band and span of time, with the days on which it is the same."""
    days: dict[tuple[str, float, int, int], list[int]] = {}
    holder: dict[tuple[str, float, int, int], Band] = {}
    for row in sorted(EVERY_DAY):
        for band, a, b in _spans(bands, row):
            key = (band.name, band.price_per_kwh, a, b)
            days.setdefault(key, []).append(row)
            holder[key] = band
    return [_element(holder[key], key[2], key[3], span, held) for key, held in sorted(days.items(), key=lambda item: item[0][2:])]


def _element(band: Band, first: int, after: int, span: Mapping[str, str], days: list[int] | None = None) -> dict[str, Any]:
    limits: dict[str, Any] = dict(span)
    if (first, after) != (0, CELLS_PER_DAY):
        limits |= {"start_time": clock(first), "end_time": clock(after % CELLS_PER_DAY)}
    if days is not None and set(days) != EVERY_DAY:
        limits["day_of_week"] = [DAYS[day] for day in days]
    element: dict[str, Any] = {"price_components": [{"type": "ENERGY", "price": band.price_per_kwh, "step_size": 1}]}
    return element | ({"restrictions": limits} if limits else {})


def read_ocpi(content: bytes, zone: str, holidays_of: Callable[[str], frozenset[date]]) -> TariffFile:
    """A tariff from one tariff object (or a list of one). Raises: Refusal naming the place that will not do."""
    document = loaded(content)
    if isinstance(document, list) and len(document) == 1:
        document = document[0]
    if not isinstance(document, dict) or not isinstance(document.get("elements"), list) or "currency" not in document:
        raise Refusal("The file is no tariff object: “currency” and “elements” are missing.", "file")
    if len(document["elements"]) > MOST_ELEMENTS:
        raise Refusal(f"The tariff has more than {MOST_ELEMENTS} elements.", "file")
    reader, place = _Reader(document), "The file"
    try:
        for i, element in enumerate(document["elements"]):
            place = f"The file.elements[{i}]"
            reader.element(element)
        place = "The file"
        return reader.file(zone, holidays_of)
    except (LookupError, TypeError, ValueError, AttributeError) as problem:
        said = problem.message if isinstance(problem, Refusal) else f"{problem}"
        raise Refusal(f"{place} cannot be read: {said[:120]}.", "file") from None


class _Reader:
    """Collects elements by the dates they are restricted to; the first element that holds at a moment counts."""

    def __init__(self, document: Mapping[str, Any]) -> None:
        self.document = document
        self.palette: list[Colour] = []
        self.weeks: dict[tuple[date, date] | None, Week] = {None: blank()}
        self.notes: list[str] = []

    def element(self, element: Mapping[str, Any]) -> None:
        price = None
        for part in element["price_components"]:
            if part["type"] == "ENERGY" and price is None:
                price = float(part["price"]) * (1 + float(part.get("vat") or 0.0) / 100.0)
            elif part["type"] != "ENERGY" and float(part["price"]):
                self.note(f"a price by {part['type'].lower().replace('_', ' ')} was left out")
        limits = dict(element.get("restrictions") or {})
        span = (limits.pop("start_date", None), limits.pop("end_date", None))
        times = limits.pop("start_time", "00:00"), limits.pop("end_time", "00:00")
        days = [DAYS.index(day) for day in limits.pop("day_of_week", DAYS) or DAYS]
        if any(value is not None for value in limits.values()):
            self.note(f"elements restricted by {', '.join(sorted(limits)).replace('_', ' ')} were left out")
            return
        if price is None:
            return
        require(price, -5, 20, "A price", "per kWh", "file")
        self.paint(self.colour(round(price, 6)), _days(span), _cells(times), days)

    def note(self, words: str) -> None:
        if words not in self.notes:
            self.notes.append(words)

    def colour(self, price: float) -> int:
        found = next((i for i, each in enumerate(self.palette) if each.price_per_kwh == price), None)
        if found is None:
            self.palette.append(Colour(f"price {len(self.palette) + 1}", price))
        return len(self.palette) - 1 if found is None else found

    def paint(self, colour: int, span: tuple[date, date] | None, cells: tuple[int, int], days: list[int]) -> None:
        """Paint only what is still empty."""
        week = self.weeks.setdefault(span, blank())
        first, after = cells
        rows = [list(row) for row in week.rows]
        for day in days:
            for cell in range(first, after if after > first else CELLS_PER_DAY):
                rows[day][cell] = colour if rows[day][cell] == NONE else rows[day][cell]
            for cell in range(after if after <= first else 0):
                following = (day + 1) % 7
                rows[following][cell] = colour if rows[following][cell] == NONE else rows[following][cell]
        self.weeks[span] = Week(tuple(tuple(row) for row in rows))

    def file(self, zone: str, holidays_of: Callable[[str], frozenset[date]]) -> TariffFile:
        dated = {span: week for span, week in self.weeks.items() if span is not None}
        single = {span[0]: week for span, week in dated.items() if (span[1] - span[0]).days == 1}
        longer = {span: week for span, week in dated.items() if (span[1] - span[0]).days > 1}
        region = self.region(single, holidays_of)
        usual = self.weeks[None]
        if region:
            usual = self.with_holidays(usual, [week for day, week in single.items() if not self.in_longer(day, longer)])
        seasons = self.seasons(longer, {day: week for day, week in single.items() if region})
        valid = {name: self.document.get(name) for name in ("start_date_time", "end_date_time")}
        first, last = (values.moment(text).date() if text else None for text in valid.values())
        tariff = Tariff(
            name=self.name(),
            zone=zone,
            bands=usual.bands(self.palette),
            currency=values.words(self.document["currency"], 3).upper(),
            standing_per_day=0.0,
            seasons=seasons,
            valid_from=first,
            valid_to=last - timedelta(days=1) if last else None,
        )
        return TariffFile(tariff, region, tuple(self.notes))

    def name(self) -> str:
        texts = self.document.get("tariff_alt_text") or [{}]
        return values.words(str(texts[0].get("text") or self.document.get("id") or "Imported")[:40])

    def region(self, single: Mapping[date, Week], holidays_of: Callable[[str], frozenset[date]]) -> str:
        """The country, when all single days are its public holidays; otherwise these days are left out."""
        country = str(self.document.get("country_code") or "")[:2].upper()
        if not single:
            return ""
        try:
            if set(single) <= holidays_of(country):
                return country
        except Refusal:
            pass
        self.note(f"{len(single)} single days with prices of their own were left out")
        return ""

    def with_holidays(self, week: Week, days: list[Week]) -> Week:
        """The week with the cells of the first of some holidays as its row of public holidays."""
        cells = next((next((row for row in each.rows if any(c != NONE for c in row)), None) for each in days), None)
        return Week((*week.rows[:HOLIDAY], cells)) if cells is not None else week

    def in_longer(self, day: date, longer: Mapping[tuple[date, date], Week]) -> bool:
        return any(a <= day < b for a, b in longer)

    def seasons(self, longer: Mapping[tuple[date, date], Week], single: Mapping[date, Week]) -> tuple[Season, ...]:
        """Date ranges of several years that are the same days become one season."""
        found: dict[tuple[MonthDay, MonthDay], Week] = {}
        for (a, b), week in longer.items():
            last = b - timedelta(days=1)
            if (b - a).days > 366:
                self.note("a range of dates longer than a year was left out")
                continue
            held = [cells for day, cells in single.items() if a <= day < b]
            found.setdefault(((a.month, a.day), (last.month, last.day)), self.with_holidays(week, held))
        return tuple(
            Season(f"Season {i}", first, last, week.bands(self.palette))
            for i, ((first, last), week) in enumerate(found.items(), 1)
        )


def _days(span: tuple[str | None, str | None]) -> tuple[date, date] | None:
    if span == (None, None):
        return None
    if None in span:
        raise Refusal("a range of dates needs both ends", "file")
    first, after = values.day(str(span[0])), values.day(str(span[1]))
    if after <= first:
        raise Refusal("a range of dates ends before it begins", "file")
    return first, after


def _cells(times: tuple[str, str]) -> tuple[int, int]:
    """First cell and the one after the last; the same for a whole day."""
    found = []
    for each in times:
        at = values.clock(each)
        if at.minute % CELL_MINUTES:
            raise Refusal(f"{each} is not on a quarter hour", "file")
        found.append((at.hour * 60 + at.minute) // CELL_MINUTES)
    return found[0], found[1] or CELLS_PER_DAY
