"""Format 2 to 3: nothing was renamed. Format 3 may hold what a program of format 2 would lose or misread:
held pins on switches, choices, words and references, pins that switch an item, states, guides, hook-ups of masks, white
levels, a master on a group, dials and slots, crossings and the shutter.
"""

from __future__ import annotations

from nimble_quake.conventions import Json


def upgraded(raw: dict[str, Json]) -> dict[str, Json]:
    """Return a shot's JSON as format 3 writes it."""
    return raw


def upgraded_step(raw: dict[str, Json]) -> dict[str, Json]:
    """Return a step of a recipe as format 3 writes it."""
    return raw
