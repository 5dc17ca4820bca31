"""A recipe: a map to be used again in any shot, with the coupling it was made for."""

from __future__ import annotations

import msgspec

from nimble_quake.shot.model import Map, Node


class Recipe(msgspec.Struct, frozen=True, kw_only=True):
    """A map, and the quake that reads it; the quake's values name no map, plate or sound of the shot it was kept in."""

    map: Map
    coupling: Node | None = None
    made_at: tuple[int, int] | None = None
    """The shot's size in px it was made at, so that places can be fitted to another."""
