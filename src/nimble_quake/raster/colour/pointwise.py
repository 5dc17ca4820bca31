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
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.colour.powers import power_row
from nimble_quake.raster.threads.rows import clamped, run_rows

LINEAR, CLIP, POWER, GAMMA, STEP, QUANTISE, TABLE, FOLD = range(8)

Op: TypeAlias = tuple[int, float, float, float, NDArray[np.float32] | None]
NOTHING = np.zeros(1, np.float32)


def op(code: int, a: float = 0.0, b: float = 0.0, c: float = 0.0, table: NDArray[np.float32] | None = None) -> Op:
    """Return an operation."""
    return (code, float(a), float(b), float(c), table)


@kernel(error_model="numpy", fastmath={"contract"})
def _run(field, codes, numbers, bases, slopes, starts, out, first, last):
    zero, one = np.float32(0), np.float32(1)
    room = np.empty((2, out.shape[1]), np.float32)
    for j in range(first, last):
        row = out[j]
        row[:] = field[j]
        for n in range(len(codes)):
            code = codes[n]
            a, b, c = np.float32(numbers[n, 0]), np.float32(numbers[n, 1]), np.float32(numbers[n, 2])
            if code == 0:
                for i in range(len(row)):
                    row[i] = a * (row[i] - c) + b
            elif code == 1:
                for i in range(len(row)):
                    row[i] = min(max(row[i], a), b)
            elif code == 2 or code == 3:
                _powers(row, a, one if code == 2 else np.float32(np.inf), room[0], room[1])
            elif code == 4:
                _step(row, a, b)
            elif code == 5:
                per = one / max(a - one, one)
                for i in range(len(row)):
                    t = min(max(row[i], zero), one) * a
                    row[i] = min(np.float32(np.int32(t)), a - one) * per
            elif code == 6:
                _look_up(row, bases, slopes, starts[n], starts[n + 1], a, c)
            else:
                for i in range(len(row)):
                    row[i] = a + abs(row[i] - a) * b


@kernel(error_model="numpy", fastmath={"contract"})
def _look_up(row, bases, slopes, first, end, start, per):
    most, begin = np.float32(end - first - 1) - np.float32(0.001), np.uint32(first)
    for i in range(len(row)):
        t = clamped((row[i] - start) * per, np.float32(0), most)
        index = begin + np.uint32(np.int32(t))
        row[i] = bases[index] + slopes[index] * t


@kernel(error_model="numpy")
def _powers(row, power, top, raised, room):
    """Raise what lies between 0 and `top` to a power."""
    raised[:] = row
    power_row(raised, power, room)
    for i in range(len(row)):
        row[i] = raised[i] if np.float32(0) < row[i] < top else row[i]


@kernel(error_model="numpy", fastmath={"contract"})
def _step(row, at, wide):
    zero, one = np.float32(0), np.float32(1)
    for i in range(len(row)):
        if wide <= zero:
            row[i] = one if row[i] >= at else zero
        else:
            t = min(max((row[i] - at) / wide + np.float32(0.5), zero), one)
            row[i] = t * t * (np.float32(3) - t - t)


def run_ops(field: Field, ops: tuple[Op, ...]) -> Field:
    """Return a field after the operations, in order; the alpha of a colour field is left alone."""
    height, width, channels = field.shape
    out = np.empty((height, width * channels), np.float32)
    codes = np.array([o[0] for o in ops], np.int64)
    numbers = np.array([o[1:4] for o in ops], np.float64).reshape(len(ops), 3)
    parts = [_table_of(o) for o in ops] or [NOTHING]
    for n, (code, a, b, _, _) in enumerate(ops):
        if code == TABLE:
            numbers[n, 2] = (len(parts[n]) - 1) / (b - a)
    starts = np.cumsum([0, *(len(part) for part in parts)])
    flat = np.ascontiguousarray(field).reshape(height, width * channels)
    lines = [(part, part) if part is NOTHING else _lines(part) for part in parts]
    bases, slopes = (np.concatenate([line[n] for line in lines]) for n in (0, 1))
    run_rows(_run, height, flat, codes, numbers, bases, slopes, starts, out)
    found = out.reshape(field.shape)
    if channels == 4:
        found[..., 3] = field[..., 3]
    return found


def _lines(table: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return the table's pieces as straight lines over their place: value = base + slope x place, one load each."""
    exact = table.astype(np.float64)
    slopes = np.append(np.diff(exact), 0.0)
    return (exact - slopes * np.arange(len(table))).astype(np.float32), slopes.astype(np.float32)


def _table_of(op: Op) -> NDArray[np.float32]:
    return NOTHING if op[4] is None else np.asarray(op[4], np.float32)
