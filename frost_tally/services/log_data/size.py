"""How much room a result takes."""

import sys
from enum import Enum
from gc import get_referents
from types import BuiltinFunctionType, FunctionType, MethodType, ModuleType

import numpy as np

CODE = (type, ModuleType, FunctionType, BuiltinFunctionType, MethodType, Enum)
"""What results refer to and did not bring along."""
ATOM_BYTES = 28
SAMPLE = 16
"""Of a longer row so many are looked at, evenly, and the others taken for their like."""


def bytes_of(thing: object) -> int:
    """About the bytes of a thing with all that it refers to, counted once; rows of many alike by a sample."""
    seen, total, left = set[int](), 0.0, [(thing, 1.0)]
    while left:
        each, times = left.pop()
        if id(each) in seen:
            continue
        seen.add(id(each))
        total += times * (sys.getsizeof(each) + (each.nbytes if type(each) is np.ndarray and each.base is not None else 0))
        parts = get_referents(each)
        step = len(parts) // SAMPLE if len(parts) > 2 * SAMPLE and isinstance(each, tuple | list | dict) else 1
        for part in parts[::step]:
            kind = type(part)
            if kind is float or kind is int:
                total += times * step * ATOM_BYTES
            elif part is not None and kind is not bool and not isinstance(part, CODE):
                left.append((part, times * step))
    return round(total)
