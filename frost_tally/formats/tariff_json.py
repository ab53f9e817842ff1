"""Tariffs as one JSON document with a published schema (`schema/tariff.json`)."""

import json
from dataclasses import dataclass
from datetime import date, datetime, time
from functools import lru_cache
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np

from ..core.charge.prices import Series
from ..core.charge.tariff import Band, MonthDay, Season, Tariff, year_days
from ..core.errors import Refusal
from .values import aware, day, number, whole

DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun", "holiday")
SCHEMA = Path(__file__).parent / "schema" / "tariff.json"


@dataclass(frozen=True)
class TariffFile:
    """A tariff as a file has it: the tariff (its zone is the asker's), its holidays' region, what was assumed, its number here."""

    tariff: Tariff
    region: str = ""
    notes: tuple[str, ...] = ()
    number: int = 1


@lru_cache(maxsize=1)
def schema() -> dict[str, Any]:
    """The published schema."""
    return dict(json.loads(SCHEMA.read_text()))


FORMAT = "frost-tally-tariff"
"""How our own document names itself."""


def loaded(content: bytes) -> Any:
    """A JSON document, every text in it whole. Raises: Refusal with the place of what is wrong."""
    document = parsed(content)
    _all_words(document, "The file")
    return document


def parsed(content: bytes) -> Any:
    """A JSON document with finite numbers. Raises: Refusal with the place of what is wrong."""
    try:
        return json.loads(content.decode("utf-8-sig"), parse_constant=_not_finite, parse_float=_finite, parse_int=_whole)
    except UnicodeDecodeError as problem:
        raise Refusal(f"The file is not UTF-8 text (byte {problem.start}).", "file") from None
    except json.JSONDecodeError as problem:
        raise Refusal(f"The file is not JSON: line {problem.lineno}, column {problem.colno}: {problem.msg}.", "file") from None
    except ValueError as problem:
        raise Refusal(f"The file has a number that cannot be read: {problem}.", "file") from None
    except RecursionError:
        raise Refusal("The file is nested too deeply.", "file") from None


def _finite(text: str) -> float:
    try:
        return number(text)
    except ValueError:
        raise ValueError(f"“{text[:20]}”") from None


def _whole(text: str) -> int:
    try:
        return whole(text, -(10**15), 10**15)
    except ValueError:
        raise ValueError(f"“{text[:20]}”") from None


def _not_finite(text: str) -> float:
    raise ValueError(f"“{text}”")


def _all_words(document: Any, path: str) -> None:
    """Raises: Refusal with the path of a text that is none: half of a pair of surrogates."""
    if isinstance(document, dict):
        for key, value in document.items():
            _all_words(key, path)
            _all_words(value, f"{path}.{key}")
    elif isinstance(document, list):
        for i, value in enumerate(document):
            _all_words(value, f"{path}[{i}]")
    elif isinstance(document, str) and any("\ud800" <= each <= "\udfff" for each in document):
        raise Refusal(f"{path}: a text with half a character in it.".encode("utf-8", "replace").decode(), "file")


def read_tariff(content: bytes, zone: str) -> TariffFile:
    """A tariff from its JSON document. Raises: Refusal naming the place that will not do."""
    document = loaded(content)
    from jsonschema import Draft202012Validator  # a start does without
    from jsonschema.exceptions import best_match

    wrong = best_match(Draft202012Validator(schema()).iter_errors(document))
    if wrong is not None:
        raise Refusal(f"{wrong.json_path.replace('$', 'The file', 1)}: {wrong.message[:160]}.", "file")
    valid = {name: _date(document.get(name), name) for name in ("valid_from", "valid_to")}
    tariff = Tariff(
        name=document["name"],
        zone=zone,
        bands=_bands(document["bands"]),
        currency=document["currency"],
        standing_per_day=float(document.get("standing_per_day", 0.0)),
        seasons=tuple(
            Season(each["name"], _day(each["first"]), _day(each["last"]), _bands(each["bands"]))
            for each in document.get("seasons", [])
        ),
        series=_series(document.get("prices", [])),
        valid_from=valid["valid_from"],
        valid_to=valid["valid_to"],
    )
    return TariffFile(tariff, document.get("holidays") or "")


def write_tariff(file: TariffFile) -> str:
    """The JSON document of a tariff; reading it gives the same tariff."""
    tariff, here = file.tariff, ZoneInfo(file.tariff.zone)
    document: dict[str, Any] = {
        "format": FORMAT,
        "version": 1,
        "name": tariff.name,
        "currency": tariff.currency,
        "standing_per_day": tariff.standing_per_day,
        "holidays": file.region or None,
        "valid_from": tariff.valid_from.isoformat() if tariff.valid_from else None,
        "valid_to": tariff.valid_to.isoformat() if tariff.valid_to else None,
        "bands": [_band(band) for band in tariff.bands],
        "seasons": [
            {"name": s.name, "first": f"{s.first[0]:02d}-{s.first[1]:02d}", "last": f"{s.last[0]:02d}-{s.last[1]:02d}",
             "bands": [_band(band) for band in s.bands]}
            for s in tariff.seasons
        ],
    }  # fmt: skip
    if tariff.series is not None:
        rows = zip(
            tariff.series.start_s.tolist(), tariff.series.end_s.tolist(), tariff.series.price_per_kwh.tolist(), strict=True
        )
        document["prices"] = [
            {"start": datetime.fromtimestamp(a, here).isoformat(), "minutes": (b - a) // 60, "price_per_kwh": price}
            for a, b, price in rows
        ]
    return json.dumps(document, ensure_ascii=False, indent=1)


def _band(band: Band) -> dict[str, Any]:
    return {
        "name": band.name,
        "price_per_kwh": band.price_per_kwh,
        "from": f"{band.start:%H:%M}",
        "to": f"{band.end:%H:%M}",
        "days": [DAYS[day] for day in sorted(band.days)],
    }


def _bands(rows: list[dict[str, Any]]) -> tuple[Band, ...]:
    return tuple(
        Band(
            row["name"],
            float(row["price_per_kwh"]),
            time.fromisoformat(row["from"]),
            time.fromisoformat(row["to"]),
            frozenset(DAYS.index(day) for day in row["days"]),
        )
        for row in rows
    )


def _day(text: str) -> MonthDay:
    day = (int(text[:2]), int(text[3:]))
    if day not in year_days():
        raise Refusal(f"{text} is not a day of the year.", "file")
    return day


def _date(text: str | None, name: str) -> date | None:
    try:
        return day(text) if text else None
    except ValueError:
        raise Refusal(f"{name}: “{text}” is not a date from 1970 to 2099 such as 2027-01-31.", "file") from None


def _series(rows: list[dict[str, Any]]) -> Series | None:
    if not rows:
        return None
    starts = []
    for i, row in enumerate(rows):
        try:
            starts.append(int(aware(row["start"]).timestamp()))
        except ValueError:
            raise Refusal(f"The file.prices[{i}].start: “{row['start']}” is not a time with an offset.", "file") from None
    start_s = np.array(starts, dtype=np.int64)
    end_s = start_s + 60 * np.array([row["minutes"] for row in rows], dtype=np.int64)
    order = np.argsort(start_s)
    return Series(start_s[order], end_s[order], np.array([float(row["price_per_kwh"]) for row in rows])[order]).checked()
