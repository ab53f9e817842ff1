"""Which hours to draw: the exact least-cost choice among price slots, with fewest starts among equals."""

from collections.abc import Sequence
from itertools import product

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
    """
    drawn = [0.0] * len(hours)
    left = min(need_h, sum(hours))
    if order == "first":
        for i, span in enumerate(hours):
            drawn[i] = min(span, left)
            left -= drawn[i]
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
        for i in level:
            drawn[i] = min(hours[i], left_h)
            left_h -= drawn[i]
        return
    runs = _runs(level)
    sign = 1.0 if tie_break == "late" else -1.0
    best: tuple[float, float] | None = None
    chosen: list[tuple[int, float]] = []
    for whole in _choices(runs, hours, left_h):
        trial = _trial(drawn, hours, runs, whole, left_h, tie_break)
        if trial is None:
            continue
        filled = list(drawn)
        for i, part in trial:
            filled[i] = part
        moment = sum(i * part for i, part in trial)
        score = (float(_starts(filled, hours)), -sign * moment)
        if best is None or score < best:
            best, chosen = score, trial
    for i, part in chosen:
        drawn[i] = part


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
    picked = list(range(len(runs)))[-MOST_RUNS:]
    found = []
    for bits in product((0, 1), repeat=len(picked)):
        whole = tuple(run for run, bit in zip(picked, bits, strict=True) if bit)
        used = sum(hours[i] for run in whole for i in runs[run])
        if used > left_h + TIME_STEP_H:
            continue
        rest = left_h - used
        if rest <= TIME_STEP_H:
            found.append((*whole, -1))
        found += [(*whole, run) for run in picked if run not in whole and sum(hours[i] for i in runs[run]) >= rest > TIME_STEP_H]
    return found or [(*_greedy(runs, hours, left_h),)]


def _greedy(runs: Sequence[Sequence[int]], hours: Sequence[float], left_h: float) -> list[int]:
    """With very many runs: longest first; the last one in part."""
    order = sorted(range(len(runs)), key=lambda run: -sum(hours[i] for i in runs[run]))
    taken = []
    for run in order:
        taken.append(run)
        left_h -= sum(hours[i] for i in runs[run])
        if left_h <= 0:
            break
    return taken


def _trial(
    drawn: Sequence[float],
    hours: Sequence[float],
    runs: Sequence[Sequence[int]],
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
    before = run[0] > 0 and drawn[run[0] - 1] > TIME_STEP_H
    after = run[-1] + 1 < len(drawn) and drawn[run[-1] + 1] > TIME_STEP_H
    from_end = after if before != after else tie_break == "late"
    for i in reversed(run) if from_end else run:
        span = min(hours[i], rest)
        if span <= TIME_STEP_H:
            break
        placed.append((i, span))
        rest -= span
    return placed if rest <= 1e-6 else None


def _starts(drawn: Sequence[float], hours: Sequence[float]) -> int:
    """Number of separate times of drawing, slots touching when the edge between them is drawn through."""
    on = [each > TIME_STEP_H for each in drawn]
    return sum(1 for i, here in enumerate(on) if here and not (i and on[i - 1]))
