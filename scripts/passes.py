"""Through how many files a value passes on one request of Tonight, templates counted: those that are handed it, and those that name it.

A file is handed a value when one of its functions gets it as an argument or gives it back, by itself or inside of another value; it names
it when the name of its field, column or class stands in it. A request's own objects and the household's are no values.
"""

import dataclasses
import re
import sys
import tempfile
import threading
from collections.abc import Callable, Mapping
from enum import Enum
from pathlib import Path
from types import FrameType, FunctionType, ModuleType
from typing import Any, NamedTuple

import numpy as np
import structlog
from sqlalchemy import text
from starlette.testclient import TestClient

import frost_tally
from frost_tally.settings import Settings
from frost_tally.web.app import create_app
from tests.homes import home_in

ROOT = Path(frost_tally.__file__).parent
NO_VALUES = ("Household", "Snapshot", "World", "Request", "Home", "OwnedCar")
DEEPEST = 6


class Traced(NamedTuple):
    """A value that no other number equals: how it gets there (a statement, or the address), and by what it is named."""

    value: float
    names: str
    address: str = "/tonight"
    statement: str = ""


OF_THE_CAR = "tariff_id = (SELECT tariff_id FROM habit WHERE car_id = 1)"
TRACED = {
    "typed temperature": Traced(-13.37, r"out_(now|low)_c|typed_c\b|TypedNight", "/tonight?out_low_c=-13.37"),
    "price": Traced(
        0.3137, "price_per_kwh",
        statement=f"UPDATE tariff_band SET price_per_kwh = 0.3137 WHERE id = (SELECT min(id) FROM tariff_band WHERE {OF_THE_CAR})",
    ),
    "mass": Traced(1857.3, "mass_kg", statement="UPDATE car SET mass_kg = 1857.3 WHERE id = 1"),
    "held amperes": Traced(
        7.73, r"held_(a|from|until|to)\b|Held(Hours|Span)?\b|\.held\b",
        statement="UPDATE outlet SET held_a = 7.73, held_from = '19:00:00.000000', held_until = '21:00:00.000000' WHERE id = 1",
    ),
}  # fmt: skip


def holds(value: float) -> Callable[..., bool]:
    """Whether something is that value, or has it somewhere inside."""
    digits, known = f"{abs(value):g}", dict[int, tuple[bool, object]]()

    def within(thing: Any, depth: int = 0) -> bool:
        if isinstance(thing, bool | None | Enum | type | FunctionType | ModuleType) or depth > DEEPEST:
            return False
        if isinstance(thing, int | float):
            return thing == value
        if isinstance(thing, str):
            return digits in thing
        if isinstance(thing, np.ndarray):
            return thing.dtype.kind in "fi" and bool((thing == value).any())
        if id(thing) not in known:
            known[id(thing)] = False, thing
            known[id(thing)] = any(within(each, depth + 1) for each in _parts(thing)), thing
        return known[id(thing)][0]

    return within


def _parts(thing: Any) -> list[Any]:
    if isinstance(thing, Mapping):
        return list(thing.values())
    if isinstance(thing, list | tuple | set | frozenset):
        return list(thing)
    ours = type(thing).__module__.startswith("frost_tally") and type(thing).__name__ not in NO_VALUES
    if ours and dataclasses.is_dataclass(thing):
        return [getattr(thing, each.name, None) for each in dataclasses.fields(thing)]
    return [each for name, each in vars(thing).items() if not name.startswith("_")] if ours and hasattr(thing, "__dict__") else []


def passed(traced: Traced) -> tuple[set[str], set[str]]:
    """The files that are handed a value on its request, and those that ran and name it."""
    handed, ran, within = set[str](), set[str](), holds(traced.value)

    def look(frame: FrameType, event: str, given: object) -> None:
        code = frame.f_code
        if event not in ("call", "return") or not code.co_filename.startswith(str(ROOT)):
            return
        ran.add(code.co_filename)
        names = code.co_varnames[: code.co_argcount + code.co_kwonlyargcount]
        things = [frame.f_locals.get(each) for each in names] if event == "call" else [given]
        if code.co_filename not in handed and any(map(within, things)):
            handed.add(code.co_filename)

    with tempfile.TemporaryDirectory() as folder:
        settings = Settings(data_dir=Path(folder), demo=True)
        household = home_in(settings)
        if traced.statement:
            with household.engine.begin() as connection:
                connection.execute(text(traced.statement))
        client = TestClient(create_app(settings, household), base_url="http://127.0.0.1:8642")
        threading.setprofile(look)
        sys.setprofile(look)
        try:
            client.get(traced.address).raise_for_status()
        finally:
            threading.setprofile(None)
            sys.setprofile(None)
        household.engine.dispose()
    return handed, {each for each in ran if re.search(traced.names, Path(each).read_text())}


def main() -> int:
    """Print the table that stands in CONTRIBUTING.md."""
    structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(50))
    print("| value | files that are handed it | files that name it |\n|---|---|---|")
    for name, traced in TRACED.items():
        handed, named = passed(traced)
        print(f"| {name} | {len(handed)} | {len(named)} |")
        if "--files" in sys.argv:
            print(
                "\n".join(f"  {Path(each).relative_to(ROOT)}{' *' if each in named else ''}" for each in sorted(handed | named))
            )
    return 0


if __name__ == "__main__":
    sys.exit(main())
