"""Which page is about what lies under the pointer: a kind's section where its settings are shown, else its bay's."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import QApplication, QMenu, QWidget

from nimble_quake.desktop.help.pages import Page, page_about
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.widgets.parts import ABOUT, add_question
from nimble_quake.session.state import Session


def tell_pages(about: Mapping[str, QWidget]) -> None:
    """Say which page is about a widget and what lies in it, by the page's name."""
    for name, widget in about.items():
        widget.setProperty(ABOUT, name)


def page_under(session: Session, window: QWidget) -> Page | None:
    """Return the page about what lies under the pointer, or has the keys where the pointer is elsewhere."""
    under = QApplication.widgetAt(QCursor.pos())
    inside = under is not None and (under is window or window.isAncestorOf(under))
    return page_at(session, under if inside else QApplication.focusWidget())


def page_at(session: Session, widget: QWidget | None) -> Page | None:
    """Return the page about a widget; None where nothing is written about it."""
    while widget is not None:
        if isinstance(widget, SettingsPanel) and widget.path:
            page = kinds_page(session, widget.path)
            if page is not None:
                return page
        name = widget.property(ABOUT)
        if name:
            return page_about(str(name))
        widget = widget.parentWidget()
    return None


def show_question(session: Session, window: QWidget, at: QPoint, show: Callable[[Page], object]) -> None:
    """Open the menu of what has none of its own: what is this?"""
    page = page_under(session, window)
    if page is not None:
        menu = QMenu(window)
        add_question(menu, lambda _: show(page), page.name)
        menu.exec(at)


def page_asked(session: Session, about: str) -> Page | None:
    """Return the page on a path of the shot, else the one of that name."""
    return kinds_page(session, about) or page_about(about)


def kinds_page(session: Session, path: str) -> Page | None:
    """Return what is written on the kind of operator at a path."""
    operator = session.operator(path)
    return page_about(f"{operator.family}/{operator.kind}") if operator is not None else None
