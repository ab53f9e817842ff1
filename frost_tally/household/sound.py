"""What a store must hold so that it is a household: values that can be, and parts that can be built of them."""

import json
import math
import sqlite3
from collections.abc import Callable, Iterator, Mapping
from contextlib import closing
from datetime import date, datetime, time
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from sqlalchemy import Column, create_engine, select
from sqlalchemy.orm import Session

from ..core.car import PRESETS, SPANS
from ..core.charge.house import DAY_SHAPES
from ..core.charge.start_check import Trouble
from ..core.charge.supply import charge_rate
from ..core.errors import Refusal
from ..core.fields import declared
from ..core.heat.warm import WarmUpChoice
from ..core.log.kinds import CHOICE, KINDS
from .log import STORED, column_name
from .models import Base, CarRow, DepartureRow, OutletRow, TariffRow
from .reader import car_of, contract_of, habit_of, outlet_of, read_home
from .whole_file import StoreError

LEVEL, AIR_C, MONEY, MOST = (0.0, 1.0), (-90.0, 100.0), (-1e9, 1e9), 1e12
LONGEST_TEXT = 4000
WARM_UPS = tuple(WarmUpChoice)
TEACHES = ("base", "heat", "cold")

RANGES: Mapping[str, tuple[float, float]] = {
    **{name: (span.low, span.high) for name, span in SPANS.items()},
    **dict.fromkeys(("limit", "reserve", "floor", "shift", "warranty_soh", "soc_start", "soc_end", "soc_departure"), LEVEL),
    **dict.fromkeys(("arrival_low", "arrival_likely", "arrival_high"), (-20.0, 2.0)),
    **dict.fromkeys(("out_now_c", "out_low_c", "january_c", "july_c", "garage_heated_c", "typed_now_c", "typed_low_c"), AIR_C),
    **dict.fromkeys(("temp_c", "out_c", "pack_c", "start_pack_c", "start_cabin_c"), AIR_C),
    **dict.fromkeys(("town_km", "country_km", "motorway_km", "km"), (0.0, 20_000.0)),
    **dict.fromkeys(("standing_per_day", "price_per_kwh", "cost", "install_cost"), MONEY),
    **dict.fromkeys(TEACHES, (0.001, 1000.0)), **{f"{name}_sigma": (0.0, 1e3) for name in (*TEACHES, "day")},
    "pack_heat": (0.01, 100.0), "pack_heat_days": (0, 100_000),
    "soh": (0.2, 1.2), "soh_told": (0.2, 1.2), "altitude_m": (-500.0, 9000.0), "per_contract": (1e-6, 1e9), "motorway_kmh": (30.0, 250.0),
    "limit_kmh": (30.0, 250.0),
    "parked_h": (0.0, 48.0), "people": (1, 9), "cabin_c": (5.0, 35.0), "days_a_week": (0.0, 7.0), "timer_step": (1, 1440),
    "minutes": (1, 44_640), "start_s": (0, 4_102_444_800), "held_a": (0.0, 125.0), "tank_l": (0.1, 50.0),
    "level": LEVEL, "soc": LEVEL, "added": (0.0, MOST),
    "step": (0, 99), "nights": (0, 366), "days": (0, 100_000), "warranty_years": (0.0, 100.0), "warranty_km": (0.0, 1e7),
    "amps": (0.0, 200.0), "kw": (0.0, 1000.0), "revision": (0, MOST), "id": (1, 2**53), "kwh": (-1e5, 1e5), "wall_kwh": (0.0, 1e4),
}  # fmt: skip
"""Between what the numbers of a column lie, by its name in whatever table; those of the log by their kinds besides."""
CODES: Mapping[str, tuple[object, ...]] = {
    **{
        f"{each.class_.__tablename__}.{column}": field.codes
        for each in Base.registry.mappers if hasattr(each.class_, "kept_of")
        for column, field in declared(each.class_.kept_of).items() if field.codes
    },
    "household.house_shape": tuple(DAY_SHAPES), "car.preset": tuple(PRESETS), "departure.warm_up": ("advised", "habit", *WARM_UPS),
    "plan_block.kind": ("charge", "warm_up"), "leaving.outcome": ("left", "missed"),
    "reading.kind": tuple(dict.fromkeys(each.fixed["kind"] for each in STORED.values() if each.row.__tablename__ == "reading")),
    "guide.kind": ("drive_down", "charge_up", "car_test", "calibrate", "trial"),
}  # fmt: skip
"""The codes of a column."""
FORMS: Mapping[str, str] = {
    "departure.days": "{c} NOT GLOB '*[^0-6]*'", "tariff_band.days": "{c} NOT GLOB '*[^0-7]*'",
    **dict.fromkeys(("household.currency", "person.currency"), "{c} GLOB '[A-Z][A-Z][A-Z]'"),
    "season.name": "{c} <> ''",
    "outlet.point": "{c} NOT GLOB '*[^-A-Za-z0-9_.]*'",
    "place.zone": "{c} NOT GLOB '*[^-A-Za-z0-9_+/]*' AND length({c}) BETWEEN 1 AND 64",
}  # fmt: skip
_D, _T = "[0-9][0-9][0-9][0-9]-[0-9][0-9]-[0-9][0-9]", "[0-9][0-9]:[0-9][0-9]:[0-9][0-9].[0-9][0-9][0-9][0-9][0-9][0-9]"
_YEARS = "substr({c}, 1, 4) BETWEEN '1970' AND '2100'"
TYPES: Mapping[type, str] = {
    # a day that is none comes back from SQLite as another, so it must come back as it is
    datetime: f"{{c}} GLOB '{_D} {_T}' AND strftime('%Y-%m-%d %H:%M:%S', {{c}}) = substr({{c}}, 1, 19) AND {_YEARS}",
    date: f"{{c}} GLOB '{_D}' AND strftime('%Y-%m-%d', {{c}}) = {{c}} AND {_YEARS}",
    time: f"{{c}} GLOB '{_T}' AND strftime('%H:%M:%S', {{c}}) = substr({{c}}, 1, 8)",
    bool: "{c} IN (0, 1)",
    str: f"length({{c}}) <= {LONGEST_TEXT} AND instr({{c}}, char(0)) = 0",
    object: "json_valid({c})",  # what the mapper calls JSON
}
QUICK: Mapping[type, str] = {
    datetime: f"{{c}} GLOB '{_D} {_T}' AND {_YEARS}", date: f"{{c}} GLOB '{_D}' AND {_YEARS}", time: f"{{c}} GLOB '{_T}'",
}  # fmt: skip
"""The same, for each row that is written."""


def check_sound(file: Path) -> None:
    """Raises: StoreError, with the place, for a store of today's tables whose values cannot be, or of which no household can be built."""
    with closing(sqlite3.connect(file)) as connection:
        for table in Base.metadata.sorted_tables:
            for column in table.columns:
                for rule in rules(table.name, column):
                    _hold(connection, table.name, column.name, rule)
            for where, name, rule in kind_rules(table.name):
                _hold(connection, table.name, name, rule, where)
        for name, column_, value in senseless(connection):
            raise StoreError(f"“{name}.{column_}” has “{str(value)[:40]}”, which cannot be")
    engine = create_engine(f"sqlite:///{file}")
    try:
        with Session(engine) as session:
            _build(session)
    except (Refusal, KeyError, ValueError, TypeError, OverflowError, ZoneInfoNotFoundError) as problem:
        raise StoreError(f"no household can be made of it: {problem}") from problem
    finally:
        engine.dispose()


def senseless(connection: sqlite3.Connection) -> Iterator[tuple[str, str, object]]:
    """Table, column and value of what no rule of SQL can judge: JSON of another shape, and zones that nobody keeps."""
    for place in SHAPES:
        table, column = place.split(".")
        for (value,) in connection.execute(f'SELECT DISTINCT "{column}" FROM "{table}"'):  # noqa: S608 - our names
            if not has_sense(place, value):
                yield table, column, value


def has_sense(place: str, value: object) -> bool:
    """Whether a value of a column with a shape is of that shape."""
    if value is None:
        return True
    well, zone = SHAPES[place], place.endswith(".zone")
    try:
        return well(value if zone else json.loads(str(value)))
    except (ValueError, TypeError, KeyError, IndexError, AttributeError, OverflowError):
        return False


def rules(table: str, column: Column[Any], quick: bool = False) -> Iterator[str]:
    """What a value of a column must keep, of which `{c}` is the name; `quick` for a table to ask of each row that is written."""
    kind, place = column.type.python_type, f"{table}.{column.name}"
    if kind in TYPES:
        yield (QUICK if quick else TYPES).get(kind, TYPES[kind])
    if kind in (int, float):
        low, high = number_range(column.name) if place not in CODES else (-MOST, MOST)
        yield f"{{c}} BETWEEN {low!r} AND {high!r}"
    if place in CODES:
        yield f"{{c}} IN ({_listed(CODES[place])})"
    if place in FORMS:
        yield FORMS[place]


def number_range(column: str) -> tuple[float, float]:
    """Between what the numbers of a column lie."""
    return RANGES.get(column, (-MOST, MOST))


def listed_codes(place: str) -> tuple[object, ...]:
    """The codes of a column; none for one that has none."""
    return CODES.get(place, ())


def _listed(codes: tuple[object, ...]) -> str:
    return ", ".join(str(each) if isinstance(each, int) else f"'{each}'" for each in codes)


def _hold(connection: sqlite3.Connection, table: str, column: str, rule: str, where: str = "1") -> None:
    """Raises: StoreError where a value does not keep a rule; `{c}` in it is the column."""
    asked = rule.format(c=f'"{column}"')
    broken = f'"{column}" IS NOT NULL AND NOT coalesce({asked}, 0)'  # a moment that is none has no parts to compare
    wrong = connection.execute(f'SELECT "{column}" FROM "{table}" WHERE {where} AND {broken} LIMIT 1').fetchone()  # noqa: S608
    if wrong is not None:
        raise StoreError(f"“{table}.{column}” has “{str(wrong[0])[:40]}”, which cannot be")


def kind_rules(table: str) -> Iterator[tuple[str, str, str]]:
    """What the entries of the kinds that a table holds must keep: of which rows, which column, and the rule."""
    for kind, stored in STORED.items():
        if stored.row.__tablename__ != table:
            continue
        where = " AND ".join(f"{name} = '{value}'" for name, value in stored.fixed.items() if name == "kind") or "1"
        if table == "event" and not stored.fixed:
            where = "kind <> 'season'"
        for name, value in stored.fixed.items():
            yield where, name, f"{{c}} = '{value}'"
        for column in KINDS[kind].columns:
            if column.is_number and column.high > column.low:
                low = min(column.low, 0.0)  # a drive of no kilometres that the car itself told
                yield where, column_name(column.name), f"{{c}} BETWEEN {low!r} AND {column.high!r}"
            if column.quantity == CHOICE:
                yield where, column_name(column.name), f"{{c}} IN ({_listed(column.options)})"


def _number(value: object, low: float = -MOST, high: float = MOST) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value) and low <= value <= high


def _words(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(each, str) for each in value)


def _plain(value: Any) -> bool:
    """A table of plain values by name."""
    return isinstance(value, dict) and all(
        each is None or isinstance(each, str | bool) or _number(each) or _words(each) for each in value.values()
    )


def _month_day(value: Any) -> bool:
    return isinstance(value, list) and date(2000, int(value[0]), int(value[1])) is not None and len(value) == 2


def _bands(value: Any) -> bool:
    return isinstance(value, list) and all(
        isinstance(name, str) and _number(price) and time.fromisoformat(begin) is not None and time.fromisoformat(end) is not None
        and set(days) <= set("01234567")
        for name, price, begin, end, days in value
    )  # fmt: skip


def _posts(value: Any) -> bool:
    return isinstance(value, list) and all(
        len(each) in (5, 6) and isinstance(each[3], str) and all(_number(each[i], 0, 1e5) for i in range(len(each)) if i != 3)
        for each in value
    )  # fmt: skip


def _curve(value: Any) -> bool:
    return isinstance(value, list) and all(
        len(each) == 2 and _number(each[0], 0, 1) and _number(each[1], 0, 1000) for each in value
    )


def _images(value: Any) -> bool:
    """What undo keeps; what it says of tables of long ago is for undo to refuse."""
    return isinstance(value, list) and all(
        isinstance(each["file"], str)
        if "file" in each
        else isinstance(each["key"], list) and {"table", "was", "became"} <= set(each)
        for each in value
    )


def _before(value: Any) -> bool:
    """Moments, warm-ups, °C and people."""
    return all(
        datetime.fromisoformat(until).tzinfo is not None and warm in WARM_UPS and _number(set_c, 5, 35) and _number(people, 1, 9)
        for until, warm, set_c, people in value
    )


def _warm_notes(value: Any) -> bool:
    return all(
        _number(minutes, 3, 240) and _number(soak_c, -45, 40) and (kwh is None or _number(kwh, 0.1, 60))
        for minutes, soak_c, kwh in value
    )


SHAPES: Mapping[str, Callable[[Any], bool]] = {
    "place.zone": lambda value: bool(ZoneInfo(value)),
    **{f"{each.name}.{name}": _words for each in Base.metadata.sorted_tables for name in ("assumed", "sure") if name in each.columns},
    "household.house_kwh": lambda value: len(value) in (0, 12) and all(_number(each, 0, 1e5) for each in value),
    "car.fast_points": _curve, "car.warm_notes": _warm_notes, "habit.before": _before,
    "season.first": _month_day, "season.last": _month_day, "season.bands": _bands, "way.posts": _posts,
    "usual_day.levers": _plain, "night_plan.levers": _plain, "night_plan.pulled": _words, "guide.said": _plain,
    "start_check.troubles": lambda value: _words(value) and all(Trouble(each) for each in value),
    "point_report.told": _plain, "night_line.values": _plain,
    "undo.before": _images, "known_header.choice": lambda value: isinstance(value["columns"], dict),
    "pending.about": lambda value: isinstance(value, dict),
}  # fmt: skip
"""What stands in columns of JSON, and what a zone is."""


def _build(session: Session) -> None:
    """Every part of the home, as the rooms build it. Raises: Refusal, or what a part raises that cannot be."""
    contracts = {row.id: row for row in session.scalars(select(TariffRow))}
    for outlet in session.scalars(select(OutletRow)):
        outlet_of(outlet).supply.checked()
    for row in session.scalars(select(CarRow)):
        if row.habit is None:
            raise Refusal(f"“{row.name}” has no habits")
        car_of(row).checked(), habit_of(row.habit).trip
        for part in () if row.withdrawn else (row.habit.outlet, row.habit.tariff):
            if part is not None and part.withdrawn:
                raise Refusal(f"“{row.name}” uses “{part.name}”, which was put away")
    for each in session.scalars(select(DepartureRow)):
        if not each.days and each.on_date is None:
            raise Refusal(f"“{each.name}” is on no day")
    home = read_home(session)
    if home.complete and not home.places:
        raise Refusal("there is no place")
    for tariff in contracts.values():
        contract_of(tariff, home.place.zone, home.currency, contracts).tariff.checked()
    for owned in home.cars:
        if owned.habit.km < 1 and home.complete:
            raise Refusal(f"the usual day of “{owned.name}” goes nowhere")
        if owned.outlet is not None:
            charge_rate(owned.outlet.supply, owned.car)
