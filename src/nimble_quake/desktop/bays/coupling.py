"""The coupling: the selected quake, how strongly it moves its plate, and which way."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QMenu, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from nimble_quake.desktop.bays.coupling_graph import CouplingGraph
from nimble_quake.desktop.bays.signs import rest_of
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.theme.look import font, give_icon, tone
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.parts import Region, bare, line, title
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.operators.quake import FOOT
from nimble_quake.render.shown.bench import BenchResponse, tolerant_job
from nimble_quake.render.shown.why import why_by_settings
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import effects, items
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find, map_path, owner_id, siblings


class LinkCard(QWidget):
    """[map] -> [plate]: what drives what. A click on the map chooses another; on the plate, another quake."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(26)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Map and plate of this quake")
        self.setToolTip("The map at the left drives the plate at the right. Click the map to choose another.")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return QSize(196, 26)

    def _names(self) -> tuple[str, str]:
        path = self.session.selection.quake
        map = self.session.shot.map(str(self.session.raw(f"{path}/map") or "")) if path else None
        plate = self.session.name_of(self.session.selection.plate) if self.session.selection.plate else ""
        operator = self.session.operator(path) if path else None
        none = "No map" if operator is None or operator.needs_map else "Everywhere"
        return (self.session.name_of(map_path(map.id)) if map else none), plate

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event:
            self.open(event.position().x() < self.width() / 2)

    def keyPressEvent(self, event: object) -> None:
        key = event.key()  # type: ignore[attr-defined]
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.open(True)
        else:
            super().keyPressEvent(event)  # type: ignore[arg-type]

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
            menu.addAction("New map", lambda: self._take(path, owner_id(items.new_map(self.session))))
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


class CoupleExtras(QWidget):
    """Two states of the quake, and a preview that shows it larger than it is."""

    exaggerated = pyqtSignal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedHeight(26)
        self.sides = Segments((("A", "A"), ("B", "B")), "ember", "Side")
        self.sides.setToolTip("Two states of this quake: set one up on each side, and flip between them")
        self.sides.setFixedWidth(58)
        self.sides.chosen.connect(self._flip)
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
        if isinstance(node, Node):
            self.sides.show_value(node.side)

    def _flip(self, side: str) -> None:
        effects.flip_side(self.session, self.session.selection.quake, side)


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
        menu.setToolTipsVisible(True)
        menu.exec(self.mapToGlobal(self.rect().bottomLeft()))


NOTHING_HERE = ("No quake here. Add one with “+ Quake” under the picture.", "Choose a plate first.")
"""What is said where no quake is selected: on a plate, and on none."""


class Coupling(Region):
    """How strongly, and which way."""

    wide_asked = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__("ember", "Coupling")
        self.session = session
        self.card = LinkCard(session)
        self.kind = KindCard(session)
        self.graph = CouplingGraph(session)
        self.why = QLabel()
        self.why.setWordWrap(True)
        self.why.setFont(font(11))
        self.why.setFixedHeight(2 * self.why.fontMetrics().lineSpacing())  # kept, so that no field moves
        self.why.setAlignment(Qt.AlignmentFlag.AlignTop)
        tone(self.why, "ember_text")
        self.why.setAccessibleName("Why nothing moves")
        self.settings = SettingsPanel(session, "ember", names=78)
        self.settings.skip = frozenset({"map"})
        self.settings.wanted = lambda param: param.section != FOOT
        self.foot = SettingsPanel(session, "ember", names=54)
        self.foot.setAccessibleName("Strength")
        self.foot.wanted = lambda param: param.section == FOOT
        self.foot.setFixedHeight(26)
        self.foot.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.exaggerated = CoupleExtras(session)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 4)
        outer.setSpacing(0)
        more = bare("more", "Duplicate, switch or remove this quake", self._menu)
        outer.addWidget(line(title("Coupling", "ember"), None, more, height=28))
        body = QVBoxLayout()
        body.setContentsMargins(8, 2, 2, 0)
        body.setSpacing(6)
        for widget in (self.card, self.kind, self.graph, self.why):
            holder = QVBoxLayout()
            holder.setContentsMargins(0, 0, 6, 0)
            holder.addWidget(widget)
            body.addLayout(holder)
        body.addWidget(self.settings, 1)
        body.addWidget(self.foot)
        extras = QVBoxLayout()
        extras.setContentsMargins(0, 0, 6, 0)
        extras.addWidget(self.exaggerated)
        body.addLayout(extras)
        outer.addLayout(body, 1)
        session.changed.connect(self._changed)
        session.selected.connect(self.refresh)
        session.moved.connect(self._refresh_values)

    def refresh(self) -> None:
        """Show the document."""
        self.settings.show_node(self.session.selection.quake)
        self.foot.show_node(self.session.selection.quake)
        self.kind.refresh()
        self.exaggerated.refresh()
        self.card.update()
        self.graph.update()
        if not self.session.selection.quake:
            self._say_nothing_here()
        elif self.why.text() in NOTHING_HERE:
            self._say("")

    def _say_nothing_here(self) -> None:
        self._say(NOTHING_HERE[not self.session.selection.plate])

    def _changed(self, found: set[str]) -> None:
        if found & {"shape"} or self.session.selection.quake in found:
            self.refresh()

    def _refresh_values(self) -> None:
        self.settings.follow()
        self.foot.follow()
        self.graph.update()

    def _say(self, text: str) -> None:
        if self.why.text() != text:
            self.why.setText(text)
            self.why.setToolTip(text)

    def show_response(self, response: BenchResponse) -> None:
        """Show a computed frame's histogram, and why nothing moves."""
        reading = response.reading
        if response.request.probe:  # a frame of playback carries no reading: the graph stays
            self.graph.show_map([] if reading is None else reading.bars, rest_of(self.session, response))
            self.graph.show_axes(None if reading is None else reading.two_axes)
        rest, path = self.graph.rest, self.session.selection.quake
        if response.partial:
            return
        if path:
            picked = self.session.shown(f"{path}/rest_by") == "picked"
            self.settings.stand_in("rest", None if picked else rest)
            why = response.why if response.request.probe else self._why_now()
            self._say(f"Nothing moves: {why[:1].lower()}{why[1:]}." if why else "")
        else:
            self._say_nothing_here()

    def _why_now(self) -> str:
        """Why nothing moves at the playhead, as far as settings tell; a frame of playback knows no more."""
        job = tolerant_job(self.session.engine, self.session.shot, self.session.frame)
        return why_by_settings(job, self.session.selection.quake)

    def _menu(self) -> None:
        path = self.session.selection.quake
        if not path:
            return
        menu = QMenu(self)
        menu.addAction("Duplicate this quake", lambda: items.duplicate_item(self.session, path))
        menu.addAction("Switch it on or off", lambda: items.switch(self.session, path))
        menu.addAction("All its settings to default", lambda: items.reset(self.session, path))
        menu.addAction("Remove it", lambda: items.remove_item(self.session, path))
        menu.exec(self.mapToGlobal(self.rect().topRight()))
