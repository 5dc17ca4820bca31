"""What every list of maps offers besides those that are there."""

from __future__ import annotations

from PyQt6.QtWidgets import QMenu

from nimble_quake.session.state import Session
from nimble_quake.session.verbs import maps
from nimble_quake.shot.paths import kind_of, owner_id, owner_path


def add_map_choices(menu: QMenu, session: Session, path: str) -> None:
    """Add *New map*, *From a recipe* and *From a plate* to a menu; what is chosen is read by the value at a path."""
    under: dict[str, QMenu] = {}
    own = owner_id(path) if kind_of(path) == "plate" else ""
    of_effect = owner_path(path) if kind_of(path) == "effect" else None
    for choice in maps.choices(session, without_plate=own, shape_of=of_effect):
        if choice.under and choice.under not in under:
            made = menu.addMenu(choice.under)
            if made is not None:
                under[choice.under] = made
        target = under.get(choice.under, menu)
        target.addAction(choice.title, lambda choice=choice: maps.choose(session, path, choice))
