"""Functions of one value, run one after another over a field in a single pass.

An operation is (code, a, b, c, table). Each row goes through all of them while it is in the fastest memory, so ten
cost little more than one.

LINEAR    v -> a (v - c) + b
CLIP      v -> held to a...b
POWER     v -> v^a between 0 and 1; beyond, the value goes on as it is
GAMMA     v -> v^a above 0; 0 and less stay
STEP      v -> 0 below, 1 above; b wide about a, by smoothstep (b = 0: at once)
FLOORS    v -> one of a even steps of 0...1
TABLE     v -> the table, spread over a...b, linear between its entries, held beyond
FOLD      v -> a + |v - a| b
"""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.raster.rows import run_rows

LINEAR, CLIP, POWER, GAMMA, STEP, FLOORS, TABLE, FOLD = range(8)

Op: TypeAlias = tuple[int, float, float, float, NDArray[np.float32] | None]
NOTHING = np.zeros(1, np.float32)


def op(code: int, a: float = 0.0, b: float = 0.0, c: float = 0.0, table: NDArray[np.float32] | None = None) -> Op:
    """Return an operation."""
    return (code, float(a), float(b), float(c), table)


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
def _run(field, colours, codes, numbers, tables, starts, out, first, last):  # type: ignore[no-untyped-def]
    zero, one = np.float32(0), np.float32(1)
    for j in range(first, last):
        row = out[j]
        row[:] = field[j]
        for n in range(len(codes)):
            code = codes[n]
            a, b, c = np.float32(numbers[n, 0]), np.float32(numbers[n, 1]), np.float32(numbers[n, 2])
            for k in range(colours):
                for i in range(row.shape[0]):
                    v = row[i, k]
                    if code == 0:
                        v = a * (v - c) + b
                    elif code == 1:
                        v = min(max(v, a), b)
                    elif code == 2:
                        if zero < v < one:
                            v = v**a
                    elif code == 3:
                        if v > zero:
                            v = v**a
                    elif code == 4:
                        if b <= zero:
                            v = one if v >= a else zero
                        else:
                            t = min(max((v - a) / b + np.float32(0.5), zero), one)
                            v = t * t * (np.float32(3) - t - t)
                    elif code == 5:
                        t = min(max(v, zero), one) * a
                        v = min(np.float32(np.int32(t)), a - one) / max(a - one, one)
                    elif code == 6:
                        begin, many = starts[n], starts[n + 1] - starts[n] - 1
                        t = min(max((v - a) * c, zero), np.float32(many) - np.float32(0.001))
                        index = np.int32(t)
                        low = tables[begin + index]
                        v = low + (tables[begin + index + 1] - low) * (t - np.float32(index))
                    else:
                        v = a + abs(v - a) * b
                    row[i, k] = v


def run_ops(field: Field, ops: tuple[Op, ...]) -> Field:
    """Return a field after the operations, in order; the alpha of a colour field is left alone."""
    out = np.empty(field.shape, np.float32)
    codes = np.array([o[0] for o in ops], np.int64)
    numbers = np.array([o[1:4] for o in ops], np.float64).reshape(len(ops), 3)
    parts = [NOTHING if o[4] is None else np.asarray(o[4], np.float32) for o in ops] or [NOTHING]
    starts = np.cumsum([0, *(len(part) for part in parts)]).astype(np.int32)
    for n, (code, a, b, _, table) in enumerate(ops):
        if code == TABLE and table is not None:
            numbers[n, 2] = (len(table) - 1) / (b - a)
    colours = 3 if field.shape[2] == 4 else field.shape[2]
    run_rows(_run, field.shape[0], field, colours, codes, numbers, np.concatenate(parts), starts, out)
    return out
