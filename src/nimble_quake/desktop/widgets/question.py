"""*What is this?*: the line of a menu that asks for the help on what the menu is about."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtWidgets import QMenu

WORDS = "What is this?"
ABOUT = "helpPage"
"""A widget's property: what it is about, and all that lies in it: a help page's name, or "family/kind"."""


def add_question(menu: QMenu, ask: Callable[[str], object], about: str) -> None:
    """Add the line to a menu. about: a path of the shot, or the name of a help page."""
    if not menu.isEmpty():
        menu.addSeparator()
    action = menu.addAction(WORDS, partial(ask, about))
    if action is not None:
        action.setToolTip("Opens the help on it, as F1 does for what lies under the pointer")
