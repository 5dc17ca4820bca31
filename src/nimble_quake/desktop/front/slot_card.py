"""A slot: a small picture of what is in it, edged in the colour of what goes in. Click, drop, or Return to fill it."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDropEvent,
    QImage,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPen,
)
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMenu

from nimble_quake.desktop.access.bases import SpokenButton
from nimble_quake.desktop.settings.map_choices import add_map_choices
from nimble_quake.desktop.theme.look import font, paint_icon
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.media import clips, sound, stills
from nimble_quake.operators.front.base import Front
from nimble_quake.operators.front.turning import front_kind
from nimble_quake.params.drives import drives_in
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find, map_path, owner_path, plate_path

TALL, PICTURE = 40, 58


class SlotCard(SpokenButton):
    """One slot of the front panel that takes a picture, a map or a sound."""

    def __init__(self, session: Session, path: str) -> None:
        super().__init__()
        self.session, self.path = session, path
        self.thumb: QImage | None = None
        self._over = False
        self.setFixedHeight(TALL)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self.clicked.connect(lambda: self.open())
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(196, TALL)

    @property
    def node(self) -> Node | None:
        """The slot in the shot."""
        found = find(self.session.shot, self.path)
        return found if isinstance(found, Node) else None

    @property
    def kind(self) -> type[Front] | None:
        """What goes in."""
        return front_kind(self.node)

    def thumb_path(self) -> str:
        """Return the path of the plate or map whose small picture it shows."""
        node, kind = self.node, self.kind
        if node is None or kind is None:
            return ""
        if kind.fills_plate:
            drives = drives_in(node.values)
            return owner_path(drives[0].path) if drives else ""
        value = str(kind.now(node.values) or "")
        return map_path(value) if kind.sort == "brass" and value else ""

    def show_thumb(self, image: QImage | None) -> None:
        """Show a small picture of what is in it."""
        self.thumb = image
        self.update()

    def words(self) -> tuple[str, str]:
        """Return its name, and what is in it."""
        node, kind = self.node, self.kind
        if node is None or kind is None:
            return "", ""
        example = front.is_example(self.session, node)
        value = str(kind.now(node.values) or "")
        thing = self.thumb_path()
        if kind.sort == "brass":
            filled = self.session.name_of(thing) if find(self.session.shot, thing) is not None else "None"
        elif kind.fills_plate:
            filled = self.session.name_of(thing)
        else:
            filled = Path(value).name if value else "None"
        name = node.name or kind.title
        inside = kind.title.lower() if filled == name else filled
        return name, f"{inside} · example" if example else inside

    def refresh(self) -> None:
        """Show the document."""
        name, said = self.words()
        tip = str(self.node.values.get("tip") or "") if self.node is not None else ""
        kind = self.kind
        self.setToolTip(f"{tip or (kind.help if kind is not None else '')}\nClick, or drop it here".strip())
        self.setAccessibleName(f"Slot {name}: {said}")
        self.update()

    # Filled

    def open(self) -> None:
        """Offer what can go in."""
        kind = self.kind
        if kind is None:
            return
        menu = QMenu(self)
        if kind.sort == "brass":
            for map in self.session.shot.maps:
                name = self.session.name_of(map_path(map.id))
                menu.addAction(name, lambda id=map.id: front.fill(self.session, self.path, id))
            menu.addSeparator()
            add_map_choices(menu, self.session, f"{self.path}/value")
        else:
            menu.addAction("A file …", self.ask)
        if kind.fills_plate:
            menu.addAction("Words …", self._ask_words)
            inner = menu.addMenu("A plate of the shot")
            mine = self.thumb_path()
            for plate in self.session.shot.plates if inner is not None else ():
                path = plate_path(plate.id)
                if path != mine and inner is not None:
                    inner.addAction(
                        self.session.name_of(path),
                        lambda path=path: front.fill_with_plate(self.session, self.path, path),
                    )
            if inner is not None:
                inner.setEnabled(not inner.isEmpty())
        else:
            menu.addSeparator()
            back = menu.addAction("Its example again", lambda: front.to_standard(self.session, self.path))
            if back is not None and self.node is not None:
                back.setEnabled(not front.is_example(self.session, self.node))
        menu.addSeparator()
        menu.addAction("Take it from the front", lambda: front.take_back(self.session, self.path))
        menu.exec(self.mapToGlobal(QPoint(0, self.height())))

    def ask(self) -> None:
        """Ask for a file."""
        kind = self.kind
        endings: tuple[str, ...] = (*sound.SUFFIXES, *clips.SUFFIXES)
        if kind is not None and kind.fills_plate:
            endings = (*stills.SUFFIXES, *clips.SUFFIXES, ".svg")
        wanted = " ".join(f"*{ending}" for ending in endings)
        name, _ = QFileDialog.getOpenFileName(self, f"Fill {self.session.name_of(self.path)}", "", f"Files ({wanted})")
        if name:
            front.fill(self.session, self.path, name)

    def _ask_words(self) -> None:
        words, good = QInputDialog.getText(self, f"Fill {self.session.name_of(self.path)}", "Words")
        if good and words.strip():
            front.fill(self.session, self.path, f"text:{words}")

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls() and self.kind is not None:
            self._over = True
            self.update()
            event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent | None) -> None:
        self._over = False
        self.update()

    def dropEvent(self, event: QDropEvent | None) -> None:
        self._over = False
        data = event.mimeData() if event is not None else None
        files = [url.toLocalFile() for url in data.urls() if url.isLocalFile()] if data is not None else []
        if files and event is not None:
            event.acceptProposedAction()
            front.fill(self.session, self.path, files[0])
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.open()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        self.open()

    def event(self, event: QEvent | None) -> bool:
        """Ctrl+V goes to the slot that has the focus, not to the bench."""
        overrides = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride
        if overrides and isinstance(event, QKeyEvent) and event.matches(QKeySequence.StandardKey.Paste):
            event.accept()
            return True
        return super().event(event)

    def paste(self) -> None:
        """Fill it with what the clipboard holds: a file, or words."""
        board = QApplication.clipboard()
        data = board.mimeData() if board is not None else None
        files = [url.toLocalFile() for url in data.urls() if url.isLocalFile()] if data is not None else []
        words = data.text().strip() if data is not None and data.hasText() else ""
        if files:
            front.fill(self.session, self.path, files[0])
        elif words and self.kind is not None and self.kind.fills_plate:
            front.fill(self.session, self.path, f"text:{words}")
        else:
            self.session.message.emit("The clipboard holds nothing that goes in here")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.matches(QKeySequence.StandardKey.Paste):
            self.paste()
        elif event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.open()
        elif event is not None:
            super().keyPressEvent(event)

    # Painted

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        kind = self.kind
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        role = kind.sort if kind is not None else "chalk"
        edge = "chalk" if self.hasFocus() or self._over else role
        painter.setPen(QPen(colour(edge), 2 if self.hasFocus() or self._over else 1.2))
        painter.setBrush(colour("well"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 3, 3)
        room = QRectF(4, 4, PICTURE, self.height() - 8)
        if self.thumb is not None and not self.thumb.isNull():
            painter.drawImage(_inside(room, self.thumb), self.thumb)
        else:
            icon = QRectF(room.center().x() - 8, room.center().y() - 8, 16, 16)
            paint_icon(painter, "file", icon, colour("quiet"))
        name, said = self.words()
        left = room.right() + 7
        wide = self.width() - left - 5
        for text, size, top, role in ((name, 12, 4, "text"), (said, 11, 20, "quiet")):
            painter.setFont(font(size))
            painter.setPen(colour(role))
            short = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(wide))
            painter.drawText(QRectF(left, top, wide, 16), int(Qt.AlignmentFlag.AlignVCenter), short)


def _inside(room: QRectF, image: QImage) -> QRectF:
    """Where a picture lies wholly in a room, in its middle."""
    times = min(room.width() / max(image.width(), 1), room.height() / max(image.height(), 1))
    wide, tall = image.width() * times, image.height() * times
    return QRectF(room.center().x() - wide / 2, room.center().y() - tall / 2, wide, tall)
