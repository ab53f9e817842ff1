"""Blocks of drawing of many nights as arrays: from and until (s), shape (nights, blocks), the missing ones 0 long at the end."""

import numpy as np

from ..units import Array
from .schedules import GRID_S, LONGER_S, QUARTERS, REAL_S, SHIFTS_S

NEVER_S = 1e9


def widened(begin: Array, end: Array, width: int) -> tuple[Array, Array]:
    """So many blocks for each night; those that are missing are 0 long."""
    last_s = end[:, -1:] if end.shape[1] else np.zeros((len(end), 1))
    more = np.repeat(last_s, width - end.shape[1], axis=1)
    return np.concatenate([begin, more], axis=1), np.concatenate([end, more], axis=1)


def with_block(blocks: Array, number: int, values: Array) -> Array:
    """The same with another value for one block of each night."""
    changed = blocks.copy()
    changed[:, number] = values
    return changed


def neighbours(begin: Array, end: Array, done_s: Array, end_s: Array, past_s: Array) -> tuple[Array, Array, int]:
    """Blocks moved as `ScheduleSearch.moved` moves them, one after the other for all nights: from, until and how many for each night.

    The last block in which a night draws (it is through at `done_s`) goes on until its end (`end_s`); `past_s` is how long after a quarter
    hour each begins.
    """
    count, width = begin.shape
    there = (end - begin > REAL_S) & (begin < done_s[:, None] - REAL_S)
    last = width - 1 - np.argmax(there[:, ::-1], axis=1)
    begin, end = np.where(~there & (np.arange(width) > last[:, None]), NEVER_S, begin), end.copy()
    end[np.arange(count), last] = end_s
    tried = []
    for block in range(width):
        quarter_s = begin[:, block] - (begin[:, block] + past_s) % GRID_S
        tried += [(with_block(begin, block, np.maximum(quarter_s + GRID_S * each, 0.0)), end) for each in QUARTERS]
        ends = end[:, block]
        for longer_s in LONGER_S:
            later = ends + longer_s - (ends + longer_s + past_s) % GRID_S
            tried.append((begin, with_block(end, block, np.where(last == block, ends, later))))
        for shift_s in SHIFTS_S:
            moved_s = np.where(last == block, 0.0, shift_s)
            shifted = with_block(begin, block, np.maximum(begin[:, block] + moved_s, 0.0))
            tried.append((shifted, with_block(end, block, np.maximum(ends + moved_s, 0.0))))
        if block:
            tried.append((with_block(begin, block, np.minimum(end[:, block - 1], begin[:, block])), end))
        tried.append((begin, with_block(end, block, begin[:, block])))
    froms, untils = (np.concatenate([np.minimum(each[i], end_s[:, None]) for each in tried]) for i in (0, 1))
    return froms, np.maximum(froms, untils), len(tried)


def in_order(begin: Array, end: Array) -> list[tuple[Array, Array]]:
    """First block, second block, … of each night, none that overlaps another: a later one begins when the one before ends."""
    order = np.argsort(begin, axis=1, kind="stable")
    begin, end = np.take_along_axis(begin, order, axis=1), np.take_along_axis(end, order, axis=1)
    found, before = [], np.zeros(len(begin))
    for block in range(begin.shape[1]):
        from_s = np.maximum(begin[:, block], before)
        before = np.maximum(before, end[:, block])
        found.append((np.minimum(from_s, before), before))
    return found
