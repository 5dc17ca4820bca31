"""Bézier handles of keys: where they stand, how far they reach, and whether both of a key lie in one line.

A segment from one key to the next is a cubic Bézier curve whose two inner points are its key's ease, as shares of the
way in time and in value. A smooth segment is one too: its handles reach a third of the way, along its slopes.
"""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from nimble_quake.motion.kinds import Ease, Key
from nimble_quake.motion.kinds.keys import slope_at

NEAR = 0.02
"""Slopes that differ by less than this share are one line."""
MOST = 1e3
"""How far a handle may go in value, as a share of the way between two keys."""


def bezier_of(keys: Sequence[Key], n: int) -> Ease | None:
    """Return the curve from key `n` to the next; None where there is none: the last, held, straight, no number."""
    if not 0 <= n < len(keys) - 1 or not all(isinstance(key.value, float | int) for key in keys):
        return None
    if keys[n].after == "eased":
        return keys[n].ease
    if keys[n].after != "smooth":
        return None
    frames, values = [key.frame for key in keys], [key.value for key in keys]
    wide, tall = frames[n + 1] - frames[n], values[n + 1] - values[n]
    if tall == 0:
        return (1 / 3, 0.0, 2 / 3, 1.0)
    first, last = (slope_at(frames, values, at) * wide / tall / 3 for at in (n, n + 1))
    return (1 / 3, first, 2 / 3, 1 - last)


def out_slope(keys: Sequence[Key], n: int) -> float | None:
    """Return how steeply the curve leaves key `n`, per frame; None where no handle says so."""
    curve = bezier_of(keys, n)
    if curve is None or curve[0] <= 0:
        return None
    return curve[1] * _tall(keys, n) / (curve[0] * _wide(keys, n))


def in_slope(keys: Sequence[Key], n: int) -> float | None:
    """Return how steeply the curve comes to key `n`, per frame; None where no handle says so."""
    curve = bezier_of(keys, n - 1)
    if curve is None or curve[2] >= 1:
        return None
    return (1 - curve[3]) * _tall(keys, n - 1) / ((1 - curve[2]) * _wide(keys, n - 1))


def is_joined(keys: Sequence[Key], n: int) -> bool:
    """Return whether both handles of key `n` lie in one line: the curve runs through it without a corner."""
    left, right = in_slope(keys, n), out_slope(keys, n)
    if left is None or right is None:
        return False
    return abs(left - right) <= NEAR * max(abs(left), abs(right)) + 1e-9


def with_handle(keys: Sequence[Key], n: int, end: str, x: float, y: float, *, joined: bool = False) -> tuple[Key, ...]:
    """Return keys with a handle of the curve from key `n` moved: its "out" end, or the "in" end at the next key.

    x, y: shares of the way to the next key, in time (0...1) and in value. joined: the other handle of the same key
    stays in line with it.
    """
    curve = bezier_of(keys, n)
    if curve is None:
        return tuple(keys)
    x, y = min(max(x, 0.0), 1.0), min(max(y, -MOST), MOST)
    x1, y1, x2, y2 = curve
    found = _with_curve(keys, n, (x, y, x2, y2) if end == "out" else (x1, y1, x, y))
    if not joined:
        return found
    slope = out_slope(found, n) if end == "out" else in_slope(found, n + 1)
    if slope is None:
        return found
    return _turned_in(found, n, slope) if end == "out" else _turned_out(found, n + 1, slope)


def with_weight(keys: Sequence[Key], n: int, end: str, weight: float) -> tuple[Key, ...]:
    """Return keys with a handle of key `n` as long as a share of the way to its neighbour, as steep as before.

    end: "out", the handle after it, or "in", the one before it.
    """
    segment = n if end == "out" else n - 1
    curve = bezier_of(keys, segment)
    if curve is None:
        return tuple(keys)
    x1, y1, x2, y2 = curve
    if end == "out":
        return with_handle(keys, segment, "out", weight, y1 * weight / x1 if x1 > 0 else y1)
    return with_handle(keys, segment, "in", 1 - weight, 1 - (1 - y2) * (weight / (1 - x2) if x2 < 1 else 1))


def weight_of(keys: Sequence[Key], n: int, end: str) -> float | None:
    """Return how long a handle of key `n` is, as a share of the way to its neighbour; None where it has none."""
    curve = bezier_of(keys, n if end == "out" else n - 1)
    return None if curve is None else curve[0] if end == "out" else 1 - curve[2]


def levelled(keys: Sequence[Key], n: int) -> tuple[Key, ...]:
    """Return keys with both handles of key `n` level: the value rests there for a moment."""
    return _turned_in(_turned_out(tuple(keys), n, 0.0), n, 0.0)


def joined(keys: Sequence[Key], n: int) -> tuple[Key, ...]:
    """Return keys with both handles of key `n` in one line, along the middle of the two."""
    slopes = [slope for slope in (in_slope(keys, n), out_slope(keys, n)) if slope is not None]
    if len(slopes) < 2:
        return tuple(keys)
    slope = sum(slopes) / 2
    return _turned_in(_turned_out(tuple(keys), n, slope), n, slope)


def _turned_out(keys: tuple[Key, ...], n: int, slope: float) -> tuple[Key, ...]:
    curve = bezier_of(keys, n)
    if curve is None or _tall(keys, n) == 0:
        return keys
    x1, _, x2, y2 = curve
    return _with_curve(keys, n, (x1, slope * x1 * _wide(keys, n) / _tall(keys, n), x2, y2))


def _turned_in(keys: tuple[Key, ...], n: int, slope: float) -> tuple[Key, ...]:
    curve = bezier_of(keys, n - 1)
    if curve is None or _tall(keys, n - 1) == 0:
        return keys
    x1, y1, x2, _ = curve
    return _with_curve(keys, n - 1, (x1, y1, x2, 1 - slope * (1 - x2) * _wide(keys, n - 1) / _tall(keys, n - 1)))


def _with_curve(keys: Sequence[Key], n: int, curve: Ease) -> tuple[Key, ...]:
    x1, y1, x2, y2 = (round(min(max(value, -MOST), MOST), 4) for value in curve)
    eased = msgspec.structs.replace(keys[n], after="eased", ease=(x1, y1, x2, y2))
    return tuple(eased if at == n else key for at, key in enumerate(keys))


def _wide(keys: Sequence[Key], n: int) -> float:
    return keys[n + 1].frame - keys[n].frame


def _tall(keys: Sequence[Key], n: int) -> float:
    return float(keys[n + 1].value - keys[n].value)
