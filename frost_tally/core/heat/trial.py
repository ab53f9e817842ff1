"""Does warming the cabin warm the pack? Two mornings told apart: one without a warm-up, one with the cabin warmed on the cable."""

from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

from ..basis import Basis, figure
from ..car import Preheats

WARMED_K = figure(
    "preheat.trial_warmed", 5.0, "K", Basis.COMMON_PRACTICE, "a pack so much warmer than on the other morning was warmed"
)
LEFT_K = figure("preheat.trial_left", 2.0, "K", Basis.COMMON_PRACTICE, "one that is no warmer than this was not")
ALIKE_K = figure(
    "preheat.trial_alike", 4.0, "K", Basis.COMMON_PRACTICE, "mornings so far apart outside cannot be compared by braking"
)


class Braking(StrEnum):
    """How much the car brakes with its motor when it sets off: as on a warm day, less, hardly."""

    FULL = "full"
    LESS = "less"
    HARDLY = "hardly"


@dataclass(frozen=True, kw_only=True)
class Morning:
    """A morning at departure: outside and pack (°C; None: the car does not show it), and how it brakes."""

    out_c: float
    pack_c: float | None
    braking: Braking


class Trial(NamedTuple):
    """What two mornings say: whether the pack is warmed with the cabin, by how many K more than the weather explains (None: unread)."""

    found: Preheats
    gained_k: float | None

    @property
    def columns(self) -> dict[str, str]:
        """What it tells of the car, by column; nothing where it does not tell."""
        return {} if self.found is Preheats.UNKNOWN else {"preheats": self.found.value}


def judged(plain: Morning, warmed: Morning) -> Trial:
    """Tell two mornings apart: by pack temperatures where both were read, each above its air; else by how the car brakes, on mornings
    that are alike.

    Source: common practice; a soaked pack follows its air, and a cold one refuses braking energy.
    """
    if plain.pack_c is not None and warmed.pack_c is not None:
        gained = (warmed.pack_c - warmed.out_c) - (plain.pack_c - plain.out_c)
        found = Preheats.YES if gained >= WARMED_K else (Preheats.NO if gained <= LEFT_K else Preheats.UNKNOWN)
        return Trial(found, gained)
    order = list(Braking)
    better = order.index(plain.braking) - order.index(warmed.braking)
    if plain.braking is Braking.FULL or abs(plain.out_c - warmed.out_c) > ALIKE_K:
        return Trial(Preheats.UNKNOWN, None)  # too mild to tell, or two different mornings
    return Trial(Preheats.YES if better > 0 else Preheats.NO, None)
