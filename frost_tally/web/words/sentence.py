"""What sentences are made of: parts with a tone, levels and bands in words."""

from dataclasses import dataclass
from math import ceil

from ...core.drive.certainty import LevelBand

NBSP = "\u00a0"


@dataclass(frozen=True)
class Part:
    """A piece of a sentence; `tone` is "", "strong" or "heat"."""

    text: str
    tone: str = ""


@dataclass(frozen=True)
class Verdict:
    """The decision in one sentence, and what follows from it in the next."""

    lead: tuple[Part, ...]
    then: tuple[Part, ...]
    notes: tuple[str, ...] = ()
    short: tuple[Part, ...] = ()

    @property
    def brief(self) -> tuple[Part, ...]:
        """The decision in a line, for where there is no room for more."""
        return self.short or self.lead

    @property
    def plain(self) -> str:
        """Both sentences as plain text."""
        return " ".join(
            "".join(part.text for part in line).replace(NBSP, " ").replace("\u2060", "") for line in (self.lead, self.then)
        ).strip()


def percent(level: float) -> str:
    """A level in whole per cent, with its sign."""
    return f"{round(100 * level)}{NBSP}%".replace("-", "−")


def at_least(level: float) -> str:
    """A level to have at least, in whole per cent."""
    return percent(ceil(100 * level - 1e-6) / 100)


def band_words(band: LevelBand) -> str:
    """A band of levels: "likely 29–41"; one within a single per cent says so."""
    low, high = (round(100 * max(0.0, each)) for each in (band.low, band.high))
    return f"likely {low}\u2060–\u2060{high}" if low < high else "to the per cent"


def home_words(home: LevelBand) -> tuple[str, str]:
    """A level at home and what belongs to it: "34 %" and "likely 29–41"; below nothing how much is missing: "nothing" and "5 % short"."""
    return (percent(home.likely), band_words(home)) if home.likely > 0 else ("nothing", f"{percent(-home.likely)} short")


def home_short(home: LevelBand) -> str:
    """The same in few words: "34 % (29–41)", or "nothing, 5 % short"."""
    if home.likely <= 0:
        return ", ".join(home_words(home))
    low, high = (round(100 * max(0.0, each)) for each in (home.low, home.high))
    return f"{percent(home.likely)} ({low}–{high})"


def figure_words(key: str) -> str:
    """A figure's key without its part and its unit suffix: "certainty.drag_area_m2" is "drag area"."""
    name = key.split(".", 1)[1]
    return name.removesuffix("_m2").removesuffix("_c").replace("_", " ").replace(".", " ")
