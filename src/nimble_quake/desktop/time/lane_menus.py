"""The menus of the time strip's ruler and rows."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QMenu, QWidget

from nimble_quake.desktop.motions.menu import motion_menu
from nimble_quake.desktop.time.rows import TimeRow
from nimble_quake.desktop.time.sound import sound_menu
from nimble_quake.session.moving.pin_tools import give_span
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.settings import set_shot


def ruler_menu(session: Session, show_whole: Callable[[], None], parent: QWidget) -> QMenu:
    """Return the menu of the ruler."""
    menu = QMenu(parent)
    menu.addAction("Play the whole shot", lambda: session.edit("Clear the loop", set_shot(session.shot, loop=None)))
    menu.addAction("Show the whole shot", show_whole)
    return menu


def row_menu(session: Session, row: TimeRow, parent: QWidget) -> QMenu | None:
    """Return the menu of a row; None where it has none."""
    if row.sort == "span":
        menu = QMenu(parent)
        menu.addAction("Let it act always", lambda: give_span(session, row.path))
        return menu
    if row.sort:
        return sound_menu(session, row.path, parent)
    return None if row.bar else motion_menu(session, row.path, parent)
