"""Older file formats, step by step: one module a format, each turning its JSON into that of the next.

A module is called `format_N` and has `upgraded(raw)` for a shot and `upgraded_step(raw)` for a step of a recipe file.
What is not as expected is left alone: the reader says what is wrong with it.
"""

from __future__ import annotations

import importlib
from collections.abc import Callable
from types import ModuleType

from nimble_quake.conventions import Json
from nimble_quake.shot.model import FORMAT


def shot_upgraded(raw: dict[str, Json], format: int) -> dict[str, Json]:
    """Return a shot's JSON of an older format as that of today's."""
    for number in range(format, FORMAT):
        raw = _module(number).upgraded(raw)
    return raw


def recipe_upgraded(raw: dict[str, Json], format: int) -> dict[str, Json]:
    """Return a recipe's JSON of an older format as that of today's."""
    for number in range(format, FORMAT):
        raw = {**raw, "recipe": each(raw.get("recipe"), _module(number).upgraded_step)}
    return raw


def each(items: Json, change: Callable[[dict[str, Json]], dict[str, Json]]) -> Json:
    """Return a list with every object in it changed; what is no list, and what in it is no object, stays."""
    if not isinstance(items, list):
        return items
    return [change(item) if isinstance(item, dict) else item for item in items]


def _module(number: int) -> ModuleType:
    return importlib.import_module(f"{__name__}.format_{number}")
