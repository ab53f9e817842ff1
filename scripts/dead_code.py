"""Code that nothing uses, by the library vulture; what only a template names is used."""

import re
import sys
from pathlib import Path

from vulture import Vulture

from frost_tally.core.car import Car
from frost_tally.core.fields import declared
from frost_tally.core.parts import Habit, Outlet, Person, Place

ROOT = Path(__file__).resolve().parents[1]
SOURCES = ("frost_tally", "tests", "bench", "scripts")
DECORATED = [
    "@router.*",
    "@app.*",
    "@people.*",
    "@stand_ins.*",
    "@event.*",
    "@on",
    "@on(*",
    "@field_validator",
    "@model_validator",
]
CALLED_BY_OTHERS = [
    "model_config", "impl", "cache_ok", "process_*", "dialect", "cls",
    "setUp*", "tearDown*", "startTest", "stopTest", "test_*", "*_stretch", "auxiliary",
    "writeable", "total_tokens", "should_exit", "row_factory", "isolation_level", "handle_*", "Start*Handler", "disabled", "vendor_id",
]  # fmt: skip
FOR_LATER = {
    "MEASURED", "begun_at", "ended_at", "FL", "FR", "RL", "RR", "mean_kmh", "preheated", "soc_from", "soc_to", "pointer",
    *(column for part in (Car, Habit, Outlet, Place, Person) for column in declared(part)),
}  # fmt: skip
"""Columns and bases that stand in the store or the handbook's words, and fields that are read by their names."""


def main() -> int:
    """Print what is unused; 1 when anything is."""
    templates = {word for path in (ROOT / "frost_tally/web").rglob("*.html") for word in re.findall(r"\w+", path.read_text())}
    found = Vulture(ignore_names=CALLED_BY_OTHERS, ignore_decorators=DECORATED)
    found.scavenge([str(ROOT / each) for each in SOURCES], exclude=["*/migrations/*", "*/node_modules/*"])
    unused = [
        item
        for item in found.get_unused_code()
        if item.name not in templates | FOR_LATER and not (item.typ in ("class", "variable") and "tests" in item.filename.parts)
    ]
    for item in unused:
        print(f"{item.filename.relative_to(ROOT)}:{item.first_lineno}: unused {item.typ} {item.name}")
    return 1 if unused else 0


if __name__ == "__main__":
    sys.exit(main())
