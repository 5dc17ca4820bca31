"""The top line: menus, the shot's name and figures, commands and render."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QAction, QKeySequence, QPainter, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QMenuBar, QPushButton, QSizePolicy, QWidget

from nimble_quake.desktop.theme.look import font, give_icon
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.parts import quiet
from nimble_quake.session.actions import ACTIONS, MENUS, Action
from nimble_quake.session.host import Host

NAME = 220
"""Pixels that the shot's name may take: menus never make room for it."""
OF_THE_BENCH = ("Edit", "Map", "Effect", "Plate", "Time", "Sound", "View")
"""Menus whose actions are about what the bench shows."""


class TopLine(QWidget):
    """Made from the table of actions. Shortcuts live on the window, so that they work everywhere."""

    def __init__(self, host: Host, window: QWidget) -> None:
        super().__init__()
        self.host, self._window = host, window
        self.setFixedHeight(30)
        self.menu_bar = QMenuBar()
        self.menu_bar.setNativeMenuBar(False)
        self.menu_bar.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
        self.qt_actions: dict[str, QAction] = {}
        self._bench = True
        self.recent: QMenu | None = None
        for name in MENUS:
            self._add_menu(name)
        self.name, self.saved, self.figures = QLabel(), quiet(""), quiet("")
        self.name.setFont(font(13, strong=True))
        self.commands = QPushButton("Commands")
        give_icon(self.commands, "search")
        self.commands.setToolTip("Find any command by its name (Ctrl+K)")
        self.commands.clicked.connect(lambda: host.show_commands())
        self.render_button = QPushButton("Render")
        self.render_button.setProperty("main", "true")
        self.render_button.setToolTip("Write the shot, or a map of it, to files (Ctrl+R)")
        self.render_button.clicked.connect(lambda: host.dialogs.show_render())
        self.starters = QPushButton("Starters")
        self.starters.setToolTip("Ready-made effects, moving: begin from one, or put it on your picture (Ctrl+Alt+N)")
        self.starters.clicked.connect(lambda: host.beginning.show())
        row = QHBoxLayout(self)
        row.setContentsMargins(4, 0, 8, 0)
        row.setSpacing(8)
        row.addWidget(self.menu_bar)
        row.addStretch(1)
        for widget in (self.name, self.saved, self.figures):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.starters)
        row.addWidget(self.commands)
        row.addWidget(self.render_button)

    def _add_menu(self, name: str) -> None:
        menu = self.menu_bar.addMenu(name)
        assert menu is not None
        group = 0
        for action in (a for a in ACTIONS if a.menu == name):
            if action.group != group:
                menu.addSeparator()
                group = action.group
            self._add_action(menu, action)
            if action.id == "open":
                self.recent = menu.addMenu("Open recent")
        menu.aboutToShow.connect(self._refresh_enabled)
        menu.aboutToHide.connect(lambda: QTimer.singleShot(0, self.enable_all))

    def _add_action(self, menu: QMenu, action: Action) -> None:
        made = QAction(action.title, self._window)
        if action.shortcut:
            made.setShortcut(QKeySequence(action.shortcut))
        made.triggered.connect(lambda _=False: action.run(self.host) if action.enabled(self.host) else None)
        self._window.addAction(made)
        menu.addAction(made)
        self.qt_actions[action.id] = made

    def _refresh_enabled(self) -> None:
        for action in ACTIONS:
            there = self._bench or action.menu not in OF_THE_BENCH
            self.qt_actions[action.id].setEnabled(there and bool(action.enabled(self.host)))
        history = self.host.session.history
        self.qt_actions["undo"].setText(f"Undo: {history.past[-1][0]}" if history.past else "Undo")
        self.qt_actions["redo"].setText(f"Redo: {history.future[-1][0]}" if history.future else "Redo")

    def enable_all(self) -> None:
        """Let shortcuts work again after a menu showed some actions as not possible."""
        for action in ACTIONS:
            self.qt_actions[action.id].setEnabled(self._bench or action.menu not in OF_THE_BENCH)

    def show_bench(self, on: bool) -> None:
        """Let the actions that are about the bench work, or not while it is not seen."""
        self._bench = on
        self.enable_all()

    def show_shot(self) -> None:
        """Show the shot's name and figures."""
        session = self.host.session
        shot = session.shot
        name = session.path.stem if session.path and not shot.name else shot.name
        self.name.setToolTip(name)
        self.name.setText(self.name.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, NAME))
        self.saved.setText("not saved" if session.dirty or session.path is None else "")
        seconds = float(shot.length / shot.rate)
        shutter = f" · shutter {shot.shutter}°" if shot.shutter else ""
        self.figures.setText(f"{shot.width} × {shot.height} · {float(shot.rate):.5g} fps · {seconds:.4g} s{shutter}")
        self.figures.setVisible(self.width() > 1120)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.figures.setVisible(self.width() > 1120)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), colour("window"))
