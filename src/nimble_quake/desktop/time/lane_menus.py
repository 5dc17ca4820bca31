"""The menus of the time strip's ruler and rows."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QInputDialog, QMenu, QWidget

from nimble_quake.desktop.motions.menu import motion_menu
from nimble_quake.desktop.time.rows import TimeRow, span_of
from nimble_quake.desktop.time.sound import sound_menu
from nimble_quake.desktop.widgets.parts import add_question
from nimble_quake.motion.timecode import frames_typed
from nimble_quake.session.moving.pin_tools import give_span
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.bars import close_gap, cut_here, set_length
from nimble_quake.session.verbs.items import remove_item
from nimble_quake.shot.crossings import strongest
from nimble_quake.shot.edits.settings import set_shot


def ruler_menu(session: Session, show_whole: Callable[[], None], parent: QWidget) -> QMenu:
    """Return the menu of the ruler."""
    menu = QMenu(parent)
    menu.addAction("Play the whole shot", lambda: session.edit("Clear the loop", set_shot(session.shot, loop=None)))
    menu.addAction("Show the whole shot", show_whole)
    add_question(menu, session.help_asked.emit, "moving")
    return menu


def row_menu(session: Session, row: TimeRow, parent: QWidget) -> QMenu | None:
    """Return the menu of a row; None where it has none."""
    if row.sort == "span":
        menu = QMenu(parent)
        menu.addAction("Let it act always", lambda: give_span(session, row.path))
        return menu
    if row.sort:
        return sound_menu(session, row.path, parent)
    return bar_menu(session, row.path, parent) if row.bar else motion_menu(session, row.path, parent)


def bar_menu(session: Session, path: str, parent: QWidget) -> QMenu:
    """Return the menu of a plate's bar; it is selected."""
    menu = QMenu(parent)
    session.select(plate=path)
    menu.addAction("Length …", lambda: ask_length(session, path, parent))
    if strongest(session.shot, path) is None:  # a crossing stays on its cut
        menu.addAction("Cut at the playhead", lambda: cut_here(session, path))
        menu.addAction("Close the gap before it", lambda: close_gap(session, path))
    menu.addAction("Remove", lambda: remove_item(session, path))
    add_question(menu, session.help_asked.emit, path)
    return menu


def ask_length(session: Session, path: str, parent: QWidget) -> None:
    """Ask how long a bar is to be."""
    start, end = span_of(session, path)
    now = f"{(end - start) / float(session.shot.rate):.4g} s"
    words = "In seconds, frames (36 f) or as timecode"
    text, good = QInputDialog.getText(parent, f"Length of {session.name_of(path)}", words, text=now)
    frames = frames_typed(text, session.shot.rate) if good else None
    if good and not frames:
        session.message.emit(f'"{text[:40]}" is no length: type seconds (1.5), frames (36 f) or a timecode')
    elif frames:
        set_length(session, path, frames)
