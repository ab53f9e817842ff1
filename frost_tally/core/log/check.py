"""What an entry must be by itself, whoever brings it: a form, a file, a script."""

from collections.abc import Mapping
from typing import Any

from ..errors import Refusal
from .kinds import KINDS

LEAST_TEST_SOC = 0.05


def check(kind: str, values: Mapping[str, Any]) -> None:
    """Hold the values of an entry against each other. Raises: Refusal with the column that will not do."""
    shape = KINDS[kind]
    begun, ended = values[shape.at], values.get(shape.ends)
    if ended is not None and ended < begun:
        raise Refusal("It ended before it began.", shape.ends)
    start, end = values.get("soc_start"), values.get("soc_end")
    if start is not None and end is not None:
        if kind == "drive" and end > start:
            raise Refusal("You came home with more than you left with: check the two levels.", "soc_end")
        if kind == "charge" and end < start:
            raise Refusal("It ended with less than it began with: check the two levels.", "soc_end")
    wall, pack = values.get("wall_kwh"), values.get("pack_kwh")
    if wall is not None and pack is not None and pack > wall:
        raise Refusal("More went into the pack than came from the wall.", "pack_kwh")
    if kind == "capacity_test":
        used = values["soc_from"] - values["soc_to"] if values["how"] == "discharge" else values["soc_to"] - values["soc_from"]
        if used < LEAST_TEST_SOC:
            raise Refusal("A discharge goes down, a charge up, and by 5 % at least.", "soc_to")
