"""The front panel: the slots and dials of a starter, in the coupling's place."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImage, QShowEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QLabel, QMenu, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from nimble_quake.desktop.front.course import CourseOfBar
from nimble_quake.desktop.front.dial_label import DialLabel
from nimble_quake.desktop.front.newer_line import NewerLine
from nimble_quake.desktop.front.slot_card import SlotCard
from nimble_quake.desktop.motions.picking import Picking
from nimble_quake.desktop.settings.bound import Bound, motion_of
from nimble_quake.desktop.settings.editors import editor_for
from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.desktop.widgets.parts import Region, bare, line, quiet, title, worded
from nimble_quake.operators.front.turning import front_kind
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.params.kinds import Pairs, Param, Words
from nimble_quake.session.fronts.filling import front_path, shown_as
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front
from nimble_quake.shot.model import Node

PICK = "Click on values to bring them to the front, in a panel or in the time strip. Escape ends it"
EMPTY = (
    "Nothing is at the front yet.\n\nBring values here that the next picture may need: right-click a value and choose "
    "“Bring to the front”, or press “Pick dials” and click on several."
)
CARDS = ("lagoon", "brass", "chalk")


class FrontPanel(Region):
    """Slots as small pictures, dials as fields; what stands behind them is a click away."""

    behind_asked = pyqtSignal()
    dials_asked = pyqtSignal(str)
    """(path of a dial): its range and words are to be changed."""

    def __init__(self, session: Session) -> None:
        super().__init__("ember", "Front panel")
        self.session = session
        self.name = title("Front", "ember")
        self.name.setMinimumWidth(20)
        self.word = quiet("front", 11)
        self.cards: dict[str, SlotCard] = {}
        self.editors: dict[str, Bound] = {}
        self.labels: dict[str, DialLabel] = {}
        self.thumbs: dict[str, QImage] = {}
        self._shown: object = None
        self._picking: Picking | None = None
        self._brought: list[str] = []
        self.course: CourseOfBar | None = None
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setAccessibleName("Slots and dials")
        self.pick_button = worded("Pick dials", PICK, self.pick)
        self.behind = worded("Behind it ›", "Show what all this is made of: the coupling, open to you", self._behind)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 4)
        outer.setSpacing(0)
        more = bare("more", "All to their standards, ranges and words, what stands behind", self._menu)
        outer.addWidget(line(self.name, self.word, None, more, height=28))
        outer.addWidget(self.area, 1)
        self.newer = NewerLine(session)
        outer.addWidget(self.newer)
        outer.addWidget(line(self.behind, self.pick_button, height=28))
        session.changed.connect(self._changed)
        session.selected.connect(self.refresh)
        session.moved.connect(self.follow)

    # Shown

    def refresh(self) -> None:
        """Show the document; what is there already stays, so that a field that is dragged is not made anew."""
        nodes = front.in_front(self.session)
        state = (front.owner_in_front(self.session), tuple(map(_outline, nodes)))
        if state != self._shown:
            self._shown = state
            self._build(nodes)
        self.name.setText(self.name.fontMetrics().elidedText(self._title(), Qt.TextElideMode.ElideRight, 120))
        self.name.setToolTip(self._title())
        self.newer.refresh()
        for card in self.cards.values():
            card.refresh()
            card.show_thumb(self.thumbs.get(card.thumb_path()))
        for editor in self.editors.values():
            editor.refresh()
            editor.show_mark()
        for label in self.labels.values():
            label.refresh()
        if self.course is not None:
            self.course.refresh()

    def _title(self) -> str:
        return front.holder_of(self.session) if self.session.shot.front else "Front"

    def follow(self) -> None:
        """Show what moves as it is at the playhead."""
        if self.course is not None and self.isVisible():
            self.course.refresh()
        for path, editor in self.editors.items():
            if motion_of(self.session, f"{path}/value") != "still":
                editor.refresh()
                editor.show_mark()

    def show_thumb(self, path: str, image: QImage) -> None:
        """Take the small picture of a plate or map."""
        self.thumbs[path] = image
        for card in self.cards.values():
            if card.thumb_path() == path:
                card.show_thumb(image)

    def _changed(self, found: set[str]) -> None:
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    # Built

    def _build(self, nodes: tuple[Node, ...]) -> None:
        self.cards, self.editors, self.labels = {}, {}, {}
        body = QWidget()
        body.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        column = QVBoxLayout(body)
        column.setContentsMargins(8, 2, 8, 4)
        column.setSpacing(6)
        self.course = self._course(column)
        grid = QGridLayout()
        grid.setHorizontalSpacing(5)
        grid.setVerticalSpacing(4)
        grid.setColumnMinimumWidth(0, 62)
        grid.setColumnStretch(1, 1)
        heading = ""
        for node in nodes:
            kind, param = front_kind(node), shown_as(self.session.shot, node)
            if kind is None or param is None:
                continue
            if kind.card:
                card = SlotCard(self.session, front_path(node))
                self.cards[front_path(node)] = card
                column.addWidget(card)
                continue
            said = str(node.values.get("heading") or "")
            if said and said != heading:
                grid.addWidget(_heading(said), grid.rowCount(), 0, 1, 2)
            heading = said or heading
            self._row(grid, node, param)
        column.addLayout(grid)
        if not nodes:
            words = QLabel(EMPTY)
            words.setWordWrap(True)
            tone(words, "quiet")
            column.addWidget(words)
        column.addStretch(1)
        old = self.area.takeWidget()
        if old is not None:
            old.deleteLater()
        self.area.setWidget(body)

    def _course(self, column: QVBoxLayout) -> CourseOfBar | None:
        """The course of a crossing, over its dials."""
        path = f"plates/{front.owner_in_front(self.session)}"
        kind = self.session.operator(path)
        if kind is None or not issubclass(kind, PlateKind) or not kind.course:
            return None
        plot = CourseOfBar(self.session, path, kind.course)
        column.addWidget(plot)
        return plot

    def _row(self, grid: QGridLayout, node: Node, param: Param) -> None:
        path = front_path(node)
        editor = editor_for(self.session, f"{path}/value", param, "ember")
        editor.setSizePolicy(QSizePolicy.Policy.Ignored, editor.sizePolicy().verticalPolicy())
        label = DialLabel(self.session, path, param.help, lambda: self.dials_asked.emit(path))
        label.setBuddy(editor)
        self.editors[path], self.labels[path] = editor, label
        row = grid.rowCount()
        if (isinstance(param, Words) and param.lines) or isinstance(param, Pairs):
            grid.addWidget(label, row, 0, 1, 2)
            grid.addWidget(editor, row + 1, 0, 1, 2)
        else:
            grid.addWidget(label, row, 0)
            grid.addWidget(editor, row, 1)

    # Done

    def focus_first(self) -> None:
        """Give the keys to the first slot, else to the first dial."""
        first: QWidget | None = next(iter((*self.cards.values(), *self.editors.values())), None)
        if first is not None:
            first.setFocus()

    def pick(self) -> None:
        """Bring values to the front by clicking on them, until Escape."""
        self.behind_asked.emit()  # so that there is something to click on
        self._brought = []
        self._pick_next(PICK)

    def _pick_next(self, said: str) -> None:
        names = [self.session.name_of(dial) for dial in self._brought]
        are = (
            f"{', '.join(names)} {'is' if len(names) == 1 else 'are'} at the front: ‹ Front shows them" if names else ""
        )
        self._picking = Picking(self.window() or self, self._picked, self.session.message.emit, said, are)

    def _picked(self, path: str) -> None:
        dial = front.bring(self.session, path)
        if dial:
            self._brought.append(dial)
        name = self.session.name_of(dial) if dial else "That cannot be a dial"
        self._pick_next(f"{name}{' is at the front' if dial else ''}. Click on the next one; Escape ends it")

    def _behind(self) -> None:
        self.behind_asked.emit()

    def _menu(self) -> None:
        menu = QMenu(self)
        nodes = front.in_front(self.session)
        menu.addAction("All to their standards", lambda: front.all_to_standard(self.session))
        first = front_path(nodes[0]) if nodes else ""
        menu.addAction("Ranges, words, what is behind them …", lambda: self.dials_asked.emit(first))
        for action in menu.actions():
            action.setEnabled(bool(nodes))
        menu.exec(self.mapToGlobal(self.rect().topRight()))


def _outline(node: Node) -> tuple[object, ...]:
    """What of a dial its row is made from: all but its value."""
    rest = {name: value for name, value in node.values.items() if name != "value"}
    return (node.id, node.kind, node.name, repr(sorted(rest.items())))


def _heading(text: str) -> QLabel:
    label = QLabel(text)
    label.setFont(font(11, strong=True))
    label.setFixedHeight(20)
    return label
