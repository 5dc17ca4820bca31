"""The cards of the coupling: what drives what, who shares the map, the kind, and its two states."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QSizePolicy, QWidget

from nimble_quake.desktop.access.bases import SpokenButton
from nimble_quake.desktop.coupling.sides import SidesChoice
from nimble_quake.desktop.settings.map_choices import add_map_choices
from nimble_quake.desktop.theme.look import font, give_icon, tone
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.parts import add_question, linked, quiet
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items, maps
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find, map_path, readers_of, siblings


class LinkCard(SpokenButton):
    """[map] -> [plate]: what drives what. A click on the map chooses another; on the plate, another quake."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(26)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Map and plate of this quake")
        self.setToolTip("The map at the left drives the plate at the right. Click the map to choose another.")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: self.open(True))

    def sizeHint(self) -> QSize:
        return QSize(196, 26)

    def _names(self) -> tuple[str, str]:
        path = self.session.selection.quake
        map = self.session.shot.map(str(self.session.shown(f"{path}/map") or "")) if path else None
        plate = self.session.name_of(self.session.selection.plate) if self.session.selection.plate else ""
        operator = self.session.operator(path) if path else None
        none = "No map" if operator is None or operator.needs_map else "Everywhere"
        return (self.session.name_of(map_path(map.id)) if map else none), plate

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event:
            self.open(event.position().x() < self.width() / 2)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.open(True)
        else:
            super().keyPressEvent(event)

    def open(self, maps: bool) -> None:
        """Open the list of maps, or of the plate's quakes."""
        path = self.session.selection.quake
        if not path:
            return
        menu = QMenu(self)
        if maps:
            for map in self.session.shot.maps:
                menu.addAction(self.session.name_of(map_path(map.id)), lambda id=map.id: self._take(path, id))
            menu.addSeparator()
            add_map_choices(menu, self.session, f"{path}/map")
            operator = self.session.operator(path)
            if operator is not None and not operator.needs_map:
                menu.addAction("No map: everywhere", lambda: self._take(path, ""))
        else:
            for other in siblings(self.session.shot, path):
                if self.session.is_quake(other):
                    menu.addAction(self.session.name_of(other), lambda other=other: self.session.select(quake=other))
        menu.exec(self.mapToGlobal(self.rect().bottomLeft()))

    def _take(self, path: str, map_id: str) -> None:
        self.session.set(f"{path}/map", map_id, "Choose the map")
        self.session.select(quake=path, **({"map": map_path(map_id)} if map_id else {}))

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font())
        wide = (self.width() - 30) / 2
        for left, name, role in zip((0.5, self.width() - wide - 0.5), self._names(), ("brass", "lagoon"), strict=True):
            rect = QRectF(left, 1.5, wide, 22)
            painter.setPen(QPen(colour("chalk" if self.hasFocus() else role), 1.2))
            painter.setBrush(colour(role, 46))
            painter.drawRoundedRect(rect, 3, 3)
            painter.setPen(colour("text"))
            text = QFontMetricsF(font()).elidedText(name, Qt.TextElideMode.ElideRight, wide - 12)
            painter.drawText(rect.adjusted(7, 0, -4, 0), int(Qt.AlignmentFlag.AlignVCenter), text)
        painter.setPen(QPen(colour("ember"), 1.8))
        middle, x = 12.5, self.width() / 2
        painter.drawLine(QPointF(x - 9, middle), QPointF(x + 8, middle))
        painter.drawLine(QPointF(x + 3, middle - 5), QPointF(x + 8, middle))
        painter.drawLine(QPointF(x + 3, middle + 5), QPointF(x + 8, middle))


class SharedBy(QWidget):
    """Who else reads the quake's map, with a way to part it. It keeps its room."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(18)
        self.words = quiet("", 11)
        tone(self.words, "brass_text")
        tip = "Give this quake a copy of the map of its own: the others keep this one"
        self.part_button = linked("Part it", tip, lambda: maps.part_map(session, session.selection.quake))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        row.addWidget(self.words)
        row.addWidget(self.part_button)
        row.addStretch(1)

    def refresh(self) -> None:
        """Show how many read the selected quake's map."""
        path = self.session.selection.quake
        id = str(self.session.shown(f"{path}/map") or "") if path else ""
        count = len(readers_of(self.session.shot, id)) if id else 0
        self.words.setText(f"used by {count} quakes ·" if count > 1 else "")
        self.part_button.setVisible(count > 1)


class CoupleExtras(QWidget):
    """Two states of the quake, and a preview that shows it larger than it is."""

    exaggerated = pyqtSignal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(26)
        self.sides = SidesChoice(session, "ember", lambda: session.selection.quake, wide=58)
        self.times = Chooser("Preview exaggeration")
        self.times.setToolTip(
            "Shows this quake stronger than it is, so that small moves are seen. It is never rendered."
        )
        for factor in (1, 2, 5, 10):
            self.times.addItem("As it is" if factor == 1 else f"Shown × {factor}", float(factor))
        self.times.activated.connect(lambda n: self.exaggerated.emit(self.times.itemData(n)))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(self.sides)
        row.addWidget(self.times, 1)

    def refresh(self) -> None:
        """Show the selected quake's side."""
        node = find(self.session.shot, self.session.selection.quake) if self.session.selection.quake else None
        self.setEnabled(isinstance(node, Node))
        self.sides.refresh()


class KindCard(QPushButton):
    """What sort of quake it is. A click opens the others: what both have stays as it is set."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(28)
        self.setObjectName("kind")
        self.setAccessibleName("Kind of quake")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        give_icon(self, "swap")
        self.clicked.connect(self.open)

    def refresh(self) -> None:
        """Show the selected quake's kind."""
        path = self.session.selection.quake
        operator = self.session.operator(path) if path else None
        self.setEnabled(operator is not None)
        self.setText(operator.title if operator else "No quake")
        tip = f"{operator.help}. " if operator else ""
        self.setToolTip(f"{tip}Click for another kind: what both have stays as it is set.")

    def open(self) -> None:
        """Open the list of kinds."""
        path = self.session.selection.quake
        menu = QMenu(self)
        for operator in sorted(self.session.engine.operators.all("quake"), key=lambda op: (op.rank, op.title)):
            action = menu.addAction(
                operator.title, lambda kind=operator.kind: items.swap_kind(self.session, path, kind)
            )
            if action is not None:
                action.setToolTip(operator.help)
        add_question(menu, self.session.help_asked.emit, path or "couplings")
        menu.setToolTipsVisible(True)
        menu.exec(self.mapToGlobal(self.rect().bottomLeft()))
