"""The exceptions of a live copy: values of its original that are other ones in it."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QToolButton, QVBoxLayout, QWidget

from nimble_quake.desktop.motions.picking import Picking
from nimble_quake.desktop.motions.plain_fields import plain_field
from nimble_quake.desktop.settings.bound import Bound
from nimble_quake.desktop.theme.look import font, give_icon, tone
from nimble_quake.motion.files import as_text, from_text
from nimble_quake.params.kinds import Exceptions
from nimble_quake.params.words import Ref
from nimble_quake.render.values.exceptions import param_at
from nimble_quake.session.state import Session
from nimble_quake.shot.groups import holders_of
from nimble_quake.shot.paths import kind_of, node_path, owner_id, owner_path, plate_path, value_path

ASKED = "Click on a value of the original: in the copy it can be another one. Escape leaves all as it is"


class ExceptionsEditor(Bound):
    """A row for each exception, with a field of its own; and a button that takes the next value that is clicked."""

    def __init__(self, session: Session, path: str, param: Exceptions, region: str) -> None:
        super().__init__(session, path, param, region)
        self.list = QVBoxLayout()
        self.list.setSpacing(3)
        self._shown: tuple[str, ...] | None = None
        self.add = QPushButton("Other value …")
        self.add.setProperty("row", True)
        self.add.setFixedHeight(20)
        self.add.setAccessibleName("Add an exception")
        self.add.setToolTip("Then select the original and click a value of it: here it can be another one")
        self.add.clicked.connect(self.pick)
        column = QVBoxLayout()
        column.setSpacing(3)
        column.addLayout(self.list)
        column.addWidget(self.add)
        self.row.addLayout(column)
        self.setFocusProxy(self.add)

    def _original(self) -> str:
        """The path of the plate or map it is a copy of; empty where it is of none."""
        assert isinstance(self.param, Exceptions)
        named = value_path(node_path(self.path), self.param.of)
        id, param = self.session.shown(named), self.session.param(named)
        return param.path_of(id) if id and isinstance(param, Ref) else ""

    def value(self) -> tuple[tuple[str, str], ...]:
        """Return the exceptions now."""
        return tuple(self.session.shown(self.path) or ())

    def refresh(self) -> None:
        """Show a row for each; rows that are there already stay, so that typing in one is not disturbed."""
        paths = tuple(path for path, _ in self.value())
        if paths == self._shown:
            return
        self._shown = paths
        while (item := self.list.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        for path, text in self.value():
            self.list.addWidget(self._line(path, text))

    def _line(self, path: str, text: str) -> QWidget:
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        param = param_at(self.session.shot, path)
        own = kind_of(path) == "plate" and node_path(path) == self._original()
        whole = self.session.label_of(path) if param is not None else f"{path} (gone)"
        label = QLabel(param.label if own and param is not None else whole)
        label.setToolTip(whole)
        label.setFont(font(11))
        tone(label, "quiet")
        label.setMinimumWidth(30)
        line.addWidget(label, 1)
        if param is not None:
            value = from_text(param, text)
            line.addWidget(plain_field(self.session, param, value, self.region, partial(self._change, path)), 2)
        close = QToolButton()
        close.setProperty("bare", "true")
        give_icon(close, "close")
        close.setFixedSize(20, 20)
        close.setToolTip("Let it be as in the original")
        close.setAccessibleName(f"As in the original: {whole}")
        close.clicked.connect(partial(self._drop, path))
        line.addWidget(close)
        return holder

    def _change(self, path: str, value: object) -> None:
        param = param_at(self.session.shot, path)
        if param is not None:
            text = as_text(param, value)
            self.send(tuple((p, text if p == path else old) for p, old in self.value()))

    def _drop(self, path: str) -> None:
        self.send(tuple((p, text) for p, text in self.value() if p != path))

    def pick(self) -> None:
        """Take the next value that is clicked."""
        original = self._original()
        if not original:
            self.session.message.emit("Choose what it is a copy of first")
            return
        window = self.window() or self  # what is selected next takes these settings away
        self.session.select(**({"map": original} if kind_of(original) == "map" else {"plate": original, "quake": ""}))
        Picking(window, partial(self.take, original), self.session.message.emit, ASKED)

    def take(self, original: str, path: str) -> None:
        """Make an exception of a value of the original, or of what lies in it."""
        param = param_at(self.session.shot, path)
        if param is None or original not in self._holders(path):
            self.session.message.emit("That is no value of the original; nothing was changed")
            return
        value = self.session.raw(path)
        text = as_text(param, value if value is not None else self.session.shown(path))
        others = tuple((p, old) for p, old in self.value() if p != path)
        self.session.set(self.path, (*others, (path, text)), f"Exception: {self.session.label_of(path)}")
        mine = node_path(self.path)
        if kind_of(mine) == "plate":
            self.session.select(plate=mine, quake="")
        else:
            self.session.select(map=owner_path(mine), step=mine)

    def _holders(self, path: str) -> list[str]:
        """What a value belongs to: its plate and the groups round it, or its map."""
        plate = self.session.shot.plate(owner_id(path))
        if kind_of(path) == "step":
            return [owner_path(path)]
        if plate is None:
            return []
        return [plate_path(each.id) for each in (plate, *holders_of(self.session.shot.plates, plate))]
