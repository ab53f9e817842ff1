"""Counts of check tables: all of them in `make drill`, a tenth in `make test`; where cases are drawn, the seed is printed."""

import os

DRILL = "FROST_TALLY_DRILL"
SEED = 20261129


def count(full: int) -> int:
    """How many of `full` cases this run tries."""
    return full if os.environ.get(DRILL) else max(1, full // 10)


def seed_of(test: str) -> int:
    """The seed of a test that draws its cases; another one by FROST_TALLY_DRILL=<number>."""
    told = os.environ.get(DRILL, "")
    seed = int(told) if told.isdigit() and len(told) > 1 else SEED
    print(f"{test}: seed {seed}", flush=True)
    return seed
