"""The one table of actions: menus, command finder, shortcut help and tests are made from it."""

from __future__ import annotations

from nimble_quake.session.menus.action import Action, Run
from nimble_quake.session.menus.crossings import CROSSINGS
from nimble_quake.session.menus.effects import EFFECTS
from nimble_quake.session.menus.files import FILES
from nimble_quake.session.menus.front import FRONT
from nimble_quake.session.menus.maps import MAPS
from nimble_quake.session.menus.plates import PLATES
from nimble_quake.session.menus.time import TIME

ACTIONS: tuple[Action, ...] = (*FILES, *FRONT, *MAPS, *EFFECTS, *PLATES, *CROSSINGS, *TIME)
MENUS = ("File", "Edit", "Shot", "Map", "Effect", "Plate", "Time", "Sound", "View", "Help")

__all__ = ["ACTIONS", "MENUS", "Action", "Run"]
