"""Which page is about what lies under the pointer: a kind's section where its settings are shown, else its bay's."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtGui import QCursor
from PyQt6.QtWidgets import QApplication, QWidget

from nimble_quake.desktop.help.pages import Page, page_named, page_of_kind
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.session.reference import TITLES
from nimble_quake.session.state import Session

ABOUT = "helpPage"
"""A widget's property: the page that is about it, and about all that lies in it."""


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
            return page_named(str(name))
        widget = widget.parentWidget()
    return None


def kinds_page(session: Session, path: str) -> Page | None:
    """Return what is written on the kind of operator at a path."""
    operator = session.operator(path)
    return page_of_kind(TITLES.get(operator.family, ""), operator.kind) if operator is not None else None
