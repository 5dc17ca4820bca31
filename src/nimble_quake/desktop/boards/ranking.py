"""In which order the boards and the finder show what fits the typed words."""

from __future__ import annotations


def rank(title: str, typed: str) -> int:
    """Return how well a title fits what was typed: 0 it begins so, 1 a word in it does, 2 it is in it, 3 it is not."""
    name = title.lower()
    if name.startswith(typed):
        return 0
    return 1 if any(word.startswith(typed) for word in name.split()) else 2 if typed in name else 3
