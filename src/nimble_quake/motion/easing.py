"""Easing: cubic Bézier curves as CSS Easing Functions Level 1 defines them."""

from __future__ import annotations

from typing import TypeAlias

Ease: TypeAlias = tuple[float, float, float, float]
EASE_IN_OUT: Ease = (0.42, 0.0, 0.58, 1.0)
"""CSS Easing 1, ease-in-out."""

PRESETS: dict[str, Ease] = {
    "linear": (0.0, 0.0, 1.0, 1.0),
    "ease-in": (0.42, 0.0, 1.0, 1.0),
    "ease-out": (0.0, 0.0, 0.58, 1.0),
    "ease-in-out": EASE_IN_OUT,
    "overshoot": (0.34, 1.56, 0.64, 1.0),
}


def _bezier(p1: float, p2: float, s: float) -> float:
    return ((1 - 3 * p2 + 3 * p1) * s + 3 * p2 - 6 * p1) * s * s + 3 * p1 * s


def _slope(p1: float, p2: float, s: float) -> float:
    return 3 * (1 - 3 * p2 + 3 * p1) * s * s + 2 * (3 * p2 - 6 * p1) * s + 3 * p1


def ease(curve: Ease, t: float) -> float:
    """Return the eased share at `t` in 0...1 of cubic-bezier(x1, y1, x2, y2); x1 and x2 must lie in 0...1.

    Newton's steps from s = t, then bisection where they leave 0...1 (CSS Easing Functions 1, section 2.2).
    """
    x1, y1, x2, y2 = curve
    if t <= 0.0:
        return 0.0
    if t >= 1.0:
        return 1.0
    s = t
    for _ in range(8):
        miss = _bezier(x1, x2, s) - t
        if abs(miss) < 1e-10:
            return _bezier(y1, y2, s)
        slope = _slope(x1, x2, s)
        if abs(slope) < 1e-7:
            break
        s -= miss / slope
        if not 0.0 <= s <= 1.0:
            break
    low, high = 0.0, 1.0
    for _ in range(60):
        s = (low + high) / 2
        if _bezier(x1, x2, s) < t:
            low = s
        else:
            high = s
    return _bezier(y1, y2, s)
