"""Editors of choices, switches and of what is named: maps, plates, faces, files."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QMenu, QPushButton

from nimble_quake.conventions import SHOT_SUFFIX
from nimble_quake.desktop.settings.bound import Bound, motion_of
from nimble_quake.desktop.settings.map_choices import add_map_choices
from nimble_quake.desktop.theme.look import give_icon
from nimble_quake.desktop.widgets.chooser import Chooser, name_entry
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.media import clips, data_file, sound, stills
from nimble_quake.media.drawing.faces import edition, faces
from nimble_quake.media.flipbook import pattern_of
from nimble_quake.params.kinds import (
    BandRef,
    Choice,
    LayerName,
    MapRef,
    MediaFile,
    Param,
    PlateRef,
    SoundRef,
    Toggle,
    Words,
)
from nimble_quake.params.words import Ref
from nimble_quake.session.state import Session
from nimble_quake.shot.paths import id_of, map_path, node_path, plate_path
from nimble_quake.shotfile.layers import layer_names


class ChoiceEditor(Bound):
    """A row of segments, or a list that opens."""

    def __init__(self, session: Session, path: str, param: Choice, region: str) -> None:
        super().__init__(session, path, param, region)
        self.choice = param
        self.segments = (
            Segments([(o.value, o.label) for o in param.options], region, param.label) if param.row else None
        )
        self.box = None if param.row else Chooser(param.label)
        if self.segments is not None:
            self.segments.chosen.connect(self.send)
            self.row.addWidget(self.segments)
            self.setFocusProxy(self.segments)
        elif self.box is not None:
            for option in param.options:
                self.box.addItem(option.label, option.value)
                self.box.setItemData(self.box.count() - 1, option.help, Qt.ItemDataRole.ToolTipRole)
            self.box.activated.connect(
                lambda index: self.send(self.box.itemData(index)) if self.box is not None else None
            )
            self.row.addWidget(self.box)
            self.setFocusProxy(self.box)
        helps = "\n".join(f"{o.label}: {o.help}" for o in param.options if o.help)
        self.setToolTip(f"{param.help}\n{helps}".strip())

    def show_mark(self) -> None:
        super().show_mark()
        if self.segments is not None:
            self.segments.show_motion(motion_of(self.session, self.path))

    def refresh(self) -> None:
        value = str(self.session.shown(self.path))
        if self.segments is not None:
            self.segments.show_value(value)
        elif self.box is not None:
            self.box.setCurrentIndex(max(0, self.box.findData(value)))


class ToggleEditor(Bound):
    """A box to tick."""

    def __init__(self, session: Session, path: str, param: Toggle, region: str) -> None:
        super().__init__(session, path, param, region)
        self.box = QCheckBox()
        self.box.setAccessibleName(param.label)
        self.box.setToolTip(param.help)
        self.box.clicked.connect(self.send)
        self.row.addWidget(self.box)
        self.row.addStretch(1)
        self.setFocusProxy(self.box)

    def refresh(self) -> None:
        self.box.setChecked(bool(self.session.shown(self.path)))


class NameEditor(Bound):
    """A list of names in which one can type. Subclasses say which names there are."""

    def __init__(self, session: Session, path: str, param: Words, region: str) -> None:
        super().__init__(session, path, param, region)
        self.box = Chooser(param.label)
        self.box.setEditable(True)
        name_entry(self.box)
        self.box.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.box.setToolTip(param.help)
        self.box.textActivated.connect(self._chosen)
        self.row.addWidget(self.box)
        self.setFocusProxy(self.box)

    def names(self) -> Sequence[str]:
        """Return the names that are offered."""
        raise NotImplementedError

    def _chosen(self, name: str) -> None:
        if name != self.session.shown(self.path):  # leaving the list chooses what stands there once more
            self.send(name)

    def refresh(self) -> None:
        self.box.setEditText(str(self.session.shown(self.path) or ""))
        line = self.box.lineEdit()
        if line:
            line.setCursorPosition(0)

    def offer(self) -> None:
        """List the names anew; what is shown stays."""
        self.box.clear()
        self.box.addItems(self.names())


class FaceEditor(NameEditor):
    """A searchable list of typefaces."""

    _edition = -1

    def names(self) -> Sequence[str]:
        return faces()

    def refresh(self) -> None:
        if self._edition != edition():  # fonts were taken in
            self._edition = edition()
            self.offer()
        super().refresh()


class LayerEditor(NameEditor):
    """The layers of the file that stands beside it; any other name can be typed, for a file that is not there yet."""

    _file: str | None = None
    _there: tuple[str, ...] = ()

    def __init__(self, session: Session, path: str, param: LayerName, region: str) -> None:
        super().__init__(session, path, param, region)
        self._beside = f"{path.rpartition('/')[0]}/{param.of}"
        self.box.opens.connect(self._look)
        line = self.box.lineEdit()
        if line is not None:
            line.editingFinished.connect(lambda: self._chosen(line.text()))

    def names(self) -> Sequence[str]:
        return NO_LAYER, *self._there

    def _look(self) -> None:
        """List what is in the file now."""
        there = layer_names(self._file or "")
        if there != self._there or not self.box.count():
            self._there = there
            self.offer()
            self._show()

    def _chosen(self, name: str) -> None:
        super()._chosen("" if name == NO_LAYER else name)
        self._show()

    def _show(self) -> None:
        super().refresh()
        if not self.session.shown(self.path):
            self.box.setEditText(NO_LAYER)

    def refresh(self) -> None:
        file = str(self.session.shown(self._beside) or "")
        if file != self._file:  # the disk is not asked with every step of a drag
            self._file = file
            self._look()
        self._show()


NO_LAYER = "The picture"
"""What stands for no name: of a picture the layer without one, of a shot its frames."""
ANOTHER = "\0another"
"""Stands in a list of maps for those that are not there yet; no id can be this."""


class ItemEditor(Bound):
    """A list of the shot's maps or plates."""

    def __init__(self, session: Session, path: str, param: Param, region: str) -> None:
        super().__init__(session, path, param, region)
        self.box = Chooser(param.label)
        self.box.setToolTip(param.help)
        self.box.activated.connect(lambda index: self._take(self.box.itemData(index)))
        self.row.addWidget(self.box)
        self.setFocusProxy(self.box)

    def _take(self, value: str) -> None:
        if value != ANOTHER:
            self.send(value)
            return
        self.refresh()
        menu = QMenu(self)
        add_map_choices(menu, self.session, self.path)
        menu.exec(self.mapToGlobal(self.rect().bottomLeft()))

    def refresh(self) -> None:
        shot = self.session.shot
        items = [(m.id, self.session.name_of(map_path(m.id))) for m in shot.maps]
        if isinstance(self.param, BandRef):
            items = [(b.id, self.session.name_of(f"bands/{b.id}")) for b in shot.bands]
        elif isinstance(self.param, SoundRef):
            items = [(s.id, self.session.name_of(f"sounds/{s.id}")) for s in shot.sounds]
        elif isinstance(self.param, PlateRef):
            own = node_path(self.path)  # a plate that reads itself would be a circle
            others = (plate_path(p.id) for p in shot.plates)
            items = [(id_of(path), self.session.name_of(path)) for path in others if path != own]
        wanted = [("", self.param.none if isinstance(self.param, Ref) else "None"), *items]
        value = str(self.session.shown(self.path) or "")
        if value and value not in dict(wanted):
            wanted.append((value, f"{value} (gone)"))
        if isinstance(self.param, MapRef):
            wanted.append((ANOTHER, "Another map …"))
        if [(self.box.itemData(n), self.box.itemText(n)) for n in range(self.box.count())] != wanted:
            self.box.clear()
            for id, name in wanted:
                self.box.addItem(name, id)
        self.box.setCurrentIndex(max(0, self.box.findData(value)))


class FileEditor(Bound):
    """The name of a file, and a button to find one."""

    def __init__(self, session: Session, path: str, param: MediaFile, region: str) -> None:
        super().__init__(session, path, param, region)
        self.button = QPushButton()
        give_icon(self.button, "file")
        self.button.setProperty("row", True)
        self.button.setFixedHeight(20)
        self.button.setObjectName("file")
        self.button.setAccessibleName(param.label)
        self.button.clicked.connect(self.ask)
        self.row.addWidget(self.button)
        self.setFocusProxy(self.button)

    def ask(self) -> None:
        """Ask for a file."""
        picture, clip = (" ".join(f"*{ending}" for ending in endings) for endings in (stills.SUFFIXES, clips.SUFFIXES))
        sounds = " ".join(f"*{ending}" for ending in (*sound.SUFFIXES, *clips.SUFFIXES))
        shots = f"*{SHOT_SUFFIX}"
        data = " ".join(f"*{ending}" for ending in data_file.SUFFIXES)
        sort = getattr(self.param, "sort", "")
        wanted = {"still": picture, "clip": f"{clip} {shots}", "artwork": "*.svg", "sound": sounds, "data": data}.get(
            sort, f"{picture} {clip} *.svg {shots}"
        )
        start = str(Path(str(self.session.shown(self.path) or "")).parent)
        name, _ = QFileDialog.getOpenFileName(self, f"Find: {self.param.label}", start, f"Files ({wanted})")
        if name:
            self.send((pattern_of(name) or name) if sort == "data" else name)

    def refresh(self) -> None:
        value = str(self.session.shown(self.path) or "")
        found = not value or self.session.engine.media.there(value)
        name = Path(value).name if value else "Choose …"
        metrics = self.button.fontMetrics()
        text = name if found else f"Find {name}"
        self.button.setText(metrics.elidedText(text, Qt.TextElideMode.ElideMiddle, max(60, self.width() - 38)))
        give_icon(self.button, "file" if found else "warning", "text" if found else "fault_text")
        self.button.setToolTip(f"{self.param.help}\n{value}" if found else f"This file is not there; find it\n{value}")
