"""Sums typed into a number field: `1920/3`, `40*1.5`, `+10`."""

from __future__ import annotations

import re

from nimble_quake.errors import FormulaError
from nimble_quake.motion.formula import evaluate


def typed_number(text: str, now: float) -> float | None:
    """Return the number a text stands for, or None. A leading +, * or / works on the value now; units are dropped."""
    text = re.sub(r"(px|%|°|/s|s)\s*$", "", text.strip().replace(",", ".").replace("−", "-"))
    if not text:
        return None
    if text[0] in "*/" or text.startswith("+"):
        text = f"({now}){text}"
    try:
        return evaluate(text, {})[0]
    except FormulaError:
        return None


def shown_number(value: float, decimals: int) -> str:
    """Return a number with at most so many decimals, none where they are zero, and a true minus sign."""
    text = f"{value:.{decimals}f}"
    if "." in text and abs(value) >= 1000:
        text = text.rstrip("0").rstrip(".")
    if float(text) == 0:
        text = text.lstrip("-")
    return text.replace("-", "−")
