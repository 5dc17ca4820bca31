"""Logarithms and powers of whole rows, four to eight times as fast as one by one: no calls, so they run side by side.

A number's bits hold its power of two; what is left, near 1, goes through a polynomial (a Chebyshev fit, the largest
error 1.4e-8 for the logarithm and 5e-9, relative, for the power; float32 itself rounds at 6e-8).
"""

from __future__ import annotations

import numpy as np

from nimble_quake.kernels import kernel

ROOT_HALF_BITS = np.int32(0x3F3504F3)
"""The bits of the square root of one half: what is left lies between it and its double."""
LEAST = np.float32(1.2e-38)
"""The least number with all its digits."""

_L = tuple(
    np.float32(v)
    for v in (
        1.4426950216,
        -0.7213473320,
        0.4809105992,
        -0.3607048392,
        0.2879183292,
        -0.2389203459,
        0.2156698555,
        -0.2074210346,
        0.1261484623,
    )
)
_E = tuple(
    np.float32(v) for v in (0.6931471825, 0.2402265072, 0.0555035695, 0.0096180569, 0.0013390867, 0.0001546144777)
)


@kernel(error_model="numpy", fastmath={"contract"})
def log2_row(row, whole):
    """Replace a row of numbers above 0 by their logarithms to base 2. `whole`: room for as many float32."""
    bits = row.view(np.int32)
    for i in range(len(row)):
        power = np.int32(np.int32(bits[i] - ROOT_HALF_BITS) >> np.int32(23))
        whole[i] = np.float32(power)
        bits[i] = np.int32(bits[i] - np.int32(power << np.int32(23)))
    one = np.float32(1)
    for i in range(len(row)):
        t = row[i] - one
        t2 = t * t
        high = (_L[4] + _L[5] * t) + t2 * ((_L[6] + _L[7] * t) + t2 * _L[8])
        row[i] = whole[i] + t * ((_L[0] + _L[1] * t) + t2 * ((_L[2] + _L[3] * t) + t2 * high))


@kernel(error_model="numpy", fastmath={"contract"})
def exp2_row(row, whole):
    """Replace a row of numbers by two to their power, held to what float32 can say. `whole`: room for as many int32."""
    low, high, half = np.float32(-126), np.float32(127.99), np.float32(0.5)
    for i in range(len(row)):
        v = min(max(row[i], low), high)
        nearest = np.floor(v + half)
        whole[i] = np.int32(np.int32(nearest) << np.int32(23))
        t = v - nearest
        t2 = t * t
        row[i] = np.float32(1) + t * ((_E[0] + _E[1] * t) + t2 * ((_E[2] + _E[3] * t) + t2 * (_E[4] + _E[5] * t)))
    bits = row.view(np.int32)
    for i in range(len(row)):
        bits[i] = np.int32(bits[i] + whole[i])


@kernel(error_model="numpy", fastmath={"contract"})
def power_row(row, power, room):
    """Raise a row to a power; 0 and what is below it are taken as the least number. `room`: for as many float32."""
    for i in range(len(row)):
        row[i] = max(row[i], LEAST)
    log2_row(row, room)
    for i in range(len(row)):
        row[i] *= power
    exp2_row(row, room.view(np.int32))
