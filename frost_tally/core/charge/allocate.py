"""Which hours to draw: the exact least-cost choice among price slots, with fewest starts among equals. Why: docs/decisions/0003."""

from collections.abc import Sequence
from itertools import compress, product

PRICE_STEP = 1e-9
TIME_STEP_H = 1e-9
MOST_RUNS = 10


def allocate(
    prices: Sequence[float], hours: Sequence[float], need_h: float, tie_break: str = "late", order: str = "cheapest"
) -> list[float]:
    """Hours drawn in each slot so that they sum to `need_h` at least cost; the sequence of slots is the night.

    Cheaper slots are filled whole; at the marginal price the fewest starts decide, then the tie_break ("late" or "early"); with "earliest"
    the time alone, whatever it takes in starts.
    `order`: "cheapest", or "dearest" and "first" for comparison. `need_h` is cut to the sum of `hours` (all ≥ 0).
    Source: least cost with whole slots cut once is the fractional knapsack, which taking the cheapest first solves (Dantzig, 1957).
    """
    drawn = [0.0] * len(hours)
    left = min(need_h, sum(hours))
    if order == "first":
        _as_they_come(drawn, hours, range(len(hours)), left)
        return drawn
    sign = -1.0 if order == "dearest" else 1.0
    for price in sorted({sign * price for price in prices}):
        level = [i for i, each in enumerate(prices) if abs(sign * each - price) <= PRICE_STEP]
        room = sum(hours[i] for i in level)
        if room > left + TIME_STEP_H:
            _fill_marginal(drawn, hours, level, left, tie_break)
            break
        for i in level:
            drawn[i] = hours[i]
        left -= room
    return drawn


def _fill_marginal(drawn: list[float], hours: Sequence[float], level: Sequence[int], left_h: float, tie_break: str) -> None:
    """Place what is left among slots of one price: fewest starts first, then as late (or early) as possible."""
    if left_h <= TIME_STEP_H:
        return
    if tie_break == "earliest":
        _as_they_come(drawn, hours, level, left_h)
        return
    runs = _runs(level)
    sign = 1.0 if tie_break == "late" else -1.0

    def score(trial: Sequence[tuple[int, float]]) -> tuple[float, float]:
        filled = list(drawn)
        for i, part in trial:
            filled[i] = part
        return float(_starts(filled, hours)), -sign * sum(i * part for i, part in trial)

    trials = (
        _trial(drawn, hours, runs, choice=whole, left_h=left_h, tie_break=tie_break) for whole in _choices(runs, hours, left_h)
    )
    for i, part in min((each for each in trials if each is not None), key=score, default=[]):
        drawn[i] = part


def _as_they_come(drawn: list[float], hours: Sequence[float], slots: Sequence[int], left_h: float) -> None:
    """Fill slots one after the other."""
    for i in slots:
        drawn[i] = min(hours[i], left_h)
        left_h -= drawn[i]


def _runs(level: Sequence[int]) -> list[list[int]]:
    """Neighbouring slots of one price."""
    runs: list[list[int]] = []
    for i in level:
        if runs and runs[-1][-1] == i - 1:
            runs[-1].append(i)
        else:
            runs.append([i])
    return runs


def _choices(runs: Sequence[Sequence[int]], hours: Sequence[float], left_h: float) -> list[tuple[int, ...]]:
    """Sets of runs to fill whole, each with one or none to fill in part (last number, −1 for none)."""
    picked, room = list(range(len(runs)))[-MOST_RUNS:], _rooms(runs, hours)
    found = []
    for bits in product((0, 1), repeat=len(picked)):
        whole = tuple(compress(picked, bits))
        rest = left_h - sum(room[run] for run in whole)
        if rest < -TIME_STEP_H:
            continue
        if rest <= TIME_STEP_H:
            found.append((*whole, -1))
        else:
            found += [(*whole, run) for run in picked if run not in whole and room[run] >= rest]
    return found or [(*_greedy(runs, hours, left_h),)]


def _rooms(runs: Sequence[Sequence[int]], hours: Sequence[float]) -> list[float]:
    """How long each run is, h."""
    return [sum(hours[i] for i in run) for run in runs]


def _greedy(runs: Sequence[Sequence[int]], hours: Sequence[float], left_h: float) -> list[int]:
    """With very many runs: longest first; the last one in part."""
    room, taken = _rooms(runs, hours), []
    for run in sorted(range(len(runs)), key=lambda run: -room[run]):
        taken.append(run)
        left_h -= room[run]
        if left_h <= 0:
            break
    return taken


def _trial(
    drawn: Sequence[float],
    hours: Sequence[float],
    runs: Sequence[Sequence[int]],
    *,
    choice: tuple[int, ...],
    left_h: float,
    tie_break: str,
) -> list[tuple[int, float]] | None:
    """Slots and hours for one choice: the part-filled run grows from a drawn neighbour, or from the tie_break's end."""
    *whole, part = choice
    placed = [(i, hours[i]) for run in whole for i in runs[run]]
    rest = left_h - sum(span for _, span in placed)
    if part < 0:
        return placed
    run = runs[part]
    for i in reversed(run) if _from_its_end(run, drawn, tie_break) else run:
        span = min(hours[i], rest)
        if span <= TIME_STEP_H:
            break
        placed.append((i, span))
        rest -= span
    return placed if rest <= 1e-6 else None


def _from_its_end(run: Sequence[int], drawn: Sequence[float], tie_break: str) -> bool:
    """Whether a run that is filled in part is filled from its end: from where it touches what is drawn, else as the tie-break says."""
    before = run[0] > 0 and drawn[run[0] - 1] > TIME_STEP_H
    after = run[-1] + 1 < len(drawn) and drawn[run[-1] + 1] > TIME_STEP_H
    return after if before != after else tie_break == "late"


def _starts(drawn: Sequence[float], hours: Sequence[float]) -> int:
    """Number of separate times of drawing, slots touching when the edge between them is drawn through."""
    on = [each > TIME_STEP_H for each in drawn]
    return sum(1 for i, here in enumerate(on) if here and not (i and on[i - 1]))
