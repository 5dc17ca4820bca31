"""Help inside: every page is shown with its pictures, searched, and found by what lies under the pointer."""

from __future__ import annotations

import re

import pytest
from PyQt6.QtCore import QPoint, Qt, QUrl
from PyQt6.QtGui import QContextMenuEvent, QCursor
from PyQt6.QtWidgets import QApplication, QMenu, QWidget

from driving import QTest, click, press, type_text
from nimble_quake.desktop.help import pages as help_pages
from nimble_quake.desktop.help.help_window import HelpWindow
from nimble_quake.operators.registry import FAMILIES, registry
from nimble_quake.session.reference import TITLES


@pytest.fixture
def help_window(app, qtbot) -> HelpWindow:
    made = HelpWindow()
    qtbot.addWidget(made)
    made.show()
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    return made


def test_every_kind_of_operator_has_a_section():
    for family in FAMILIES:
        for operator in registry().all(family):
            page = help_pages.page_of_kind(TITLES[family], operator.kind)
            assert page is not None, operator.kind
            assert operator.title in page.title


def test_every_page_is_shown_and_its_links_and_pictures_are_there(help_window):
    folder = help_pages.folder()
    assert folder is not None
    for page in help_pages.pages():
        if "#" in page.name:
            continue
        for link in re.findall(r"\]\(([^)#]+?)(?:#[^)]*)?\)", page.text):
            there = link.startswith("http") or (folder / link).exists()
            assert there, f"{page.name}: {link}"
    shown = help_pages.page_named("crossings")
    assert shown is not None
    help_window.show_page(shown)
    assert "Make one." in help_window.page.toPlainText()
    assert help_window.list.currentItem().text() == "Crossings"


def test_a_link_leads_to_its_page_and_back(help_window):
    first = help_pages.page_named("crossings")
    assert first is not None
    help_window.show_page(first)
    help_window.page.anchorClicked.emit(QUrl("starters.md"))
    assert help_window.windowTitle() == "Help: The page one begins from, and starters"
    press(Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert help_window.windowTitle() == "Help: Crossings"


def test_words_are_typed_and_found_where_they_stand(help_window, qtbot):
    help_window.search.setFocus()
    type_text("equal power")
    qtbot.waitUntil(lambda: help_window.list.count() > 0 and "equal power" in help_window.list.item(0).text().lower())
    hits = [help_window.list.item(row).text() for row in range(help_window.list.count())]
    assert any(hit.startswith("Crossings") for hit in hits)
    press(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    type_text("nobody wrote this")
    qtbot.waitUntil(lambda: help_window.list.count() == 0)
    press(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    press(Qt.Key.Key_Delete)
    qtbot.waitUntil(lambda: help_window.list.count() > 10)


def test_the_title_counts_more_than_the_text():
    found = help_pages.search("twirl")
    assert "Twirl" in found[0].heading
    assert help_pages.search("  ") == []


@pytest.mark.parametrize(
    ("where", "title"),
    [
        (lambda w: w.map_bay.viewer, "Building maps"),
        (lambda w: w.coupling, "Couplings"),
        (lambda w: w.time.lanes, "Making things move"),
        (lambda w: w.map_bay.settings, "Noise  ·  Sources"),
    ],
)
def test_f1_is_about_what_lies_under_the_pointer(window, qtbot, monkeypatch, where, title):
    noise = next(f"maps/{m.id}/steps/{s.id}" for m in window.session.shot.maps for s in m.recipe if s.kind == "noise")
    window.session.select(step=noise)
    qtbot.wait(10)
    under: QWidget = where(window)
    monkeypatch.setattr(QCursor, "pos", staticmethod(lambda: under.mapToGlobal(QPoint(8, 8))))
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    press(Qt.Key.Key_F1)
    shown = next(found for found in window.findChildren(HelpWindow) if found.isVisible())
    assert shown.windowTitle() == f"Help: {title}"


def test_without_the_pages_it_says_where_they_are(app, qtbot, monkeypatch):
    monkeypatch.setattr(help_pages, "pages", lambda: ())
    made = HelpWindow()
    qtbot.addWidget(made)
    assert "did not come along" in made.page.toPlainText()


def shown_help(window) -> str:
    return next(found for found in window.findChildren(HelpWindow) if found.isVisible()).windowTitle()


@pytest.fixture
def asks(monkeypatch):
    """Menus that open are answered with *What is this?*; returns what each offered."""
    offered: list[list[str]] = []

    def choose(menu, *_):
        offered.append([action.text() for action in menu.actions() if action.text()])
        next(action for action in menu.actions() if action.text() == "What is this?").trigger()

    monkeypatch.setattr(QMenu, "exec", choose)
    return offered


def right_click(widget: QWidget, at: QPoint) -> None:
    """What a right click becomes where menus come by the press."""
    reason, there = QContextMenuEvent.Reason.Mouse, widget.mapToGlobal(at)
    QTest.mouseClick(widget, Qt.MouseButton.RightButton, pos=at)
    QApplication.sendEvent(widget, QContextMenuEvent(reason, at, there))


@pytest.mark.parametrize("tab", ["source", "shaper", "quake", "finish", "recipes", "starter", "crossing", "samples"])
def test_every_board_entry_says_what_it_is(window, asks, tab):
    """By a right click, by the button, and by F1; nothing is added by it."""
    session = window.session
    session.select(plate="plates/title", quake="", effect="")
    shot = session.shot
    window.show_board(tab)
    cells = window.board.cells
    about = [entry.about for entry in cells.entries if entry.about] or ["building-maps", "starters", "crossings"]
    pages = [f"Help: {help_pages.page_about(each).title}" for each in about]
    entry, box, _ = cells.boxes()[1]
    right_click(cells, box.center().toPoint())
    assert asks[-1][-1] == "What is this?"
    assert cells.current is entry
    assert shown_help(window) in pages
    click(window.board.question)
    assert shown_help(window) in pages
    assert session.shot is shot
    assert window.board.isVisible()
    for entry in cells.entries[::6]:  # all of them have their page, as was seen above
        if entry.about:
            cells.choose(entry)
            window.board.question.click()
            assert shown_help(window) == f"Help: {help_pages.page_about(entry.about).title}"


@pytest.mark.parametrize(
    ("where", "title"),
    [
        (lambda w: w.map_bay.viewer, "Building maps"),
        (lambda w: w.map_bay.tabs, "Building maps"),
        (lambda w: w.coupling.graph, "Couplings"),
        (lambda w: w.picture_bay.viewer, "Plates and the stack"),
        (lambda w: w.picture_bay.stack, "Text  ·  Plates"),
        (lambda w: w.time.lanes, "Making things move"),
    ],
)
def test_every_panel_says_what_it_is(window, qtbot, monkeypatch, asks, where, title):
    window.session.select(plate="plates/title")
    qtbot.wait(10)
    under = where(window)
    monkeypatch.setattr(QCursor, "pos", staticmethod(lambda: under.mapToGlobal(QPoint(30, 10))))
    right_click(under, QPoint(30, 10))
    assert shown_help(window) == f"Help: {title}", asks
