"""An entry of the log as the rules see it."""

from dataclasses import dataclass

from ..basis import Basis, figure

FEW = figure("log.few", 3.0, "", Basis.COMMON_PRACTICE, "what fewer days, trips or charges cannot show is not said")


@dataclass(frozen=True, kw_only=True)
class Fact:
    """An entry as the rules see it: times in seconds since 1970, levels 0 to 1, None for what is not known.

    `level` is one read off, `odometer_km` one too; `sure` are the codes of the doubts that the owner has answered.
    """

    kind: str
    number: int
    begun_s: float
    ended_s: float
    km: float | None = None
    soc_start: float | None = None
    soc_end: float | None = None
    odometer_km: float | None = None
    sure: frozenset[str] = frozenset()

    @property
    def levels(self) -> tuple[float | None, float | None]:
        """The level when it began and when it ended."""
        return self.soc_start, self.soc_end
