"""Copy, cut and paste: what has the focus says of what. The clipboard holds a piece of a shot, as text too."""

from __future__ import annotations

from PyQt6.QtCore import QMimeData
from PyQt6.QtWidgets import QApplication, QMessageBox, QWidget

from nimble_quake.desktop.bays.map_bay import MapBay
from nimble_quake.desktop.time.strip import TimeStrip
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.state import Session
from nimble_quake.session.storage.preferences import Preferences
from nimble_quake.session.verbs import carry
from nimble_quake.shot.fragment import Fragment
from nimble_quake.shot.paths import kind_of
from nimble_quake.shotfile.fragments import fragment_from, fragment_text

MIME = "application/x-nimble-quake-fragment+json"


def put_on_clipboard(fragment: Fragment) -> None:
    """Put a piece of a shot on the clipboard, in a type of ours and as text."""
    board, text = QApplication.clipboard(), fragment_text(fragment)
    data = QMimeData()
    data.setData(MIME, text.encode())
    data.setText(text)
    if board is not None:
        board.setMimeData(data)


def from_clipboard() -> Fragment:
    """Return the piece of a shot on the clipboard. Raises ShotError."""
    board = QApplication.clipboard()
    data = board.mimeData() if board is not None else None
    if data is not None and data.hasFormat(MIME):
        return fragment_from(data.data(MIME).data().decode("utf-8", "replace"))
    return fragment_from(board.text() if board is not None else "")


class Carrying:
    """The clipboard of the bench."""

    def __init__(
        self, window: QWidget, session: Session, preferences: Preferences, map_bay: MapBay, time: TimeStrip
    ) -> None:
        self.window, self.session, self.preferences = window, session, preferences
        self.map_bay, self.time = map_bay, time

    def do(self, what: str, path: str) -> None:
        """Do what a row's menu asks: "copy" or "cut" it, "paste" after it."""
        if what == "paste":
            self.session.select(**{kind_of(path): path})
            self.paste()
        elif what == "cut":
            self.cut(path)
        else:
            self.copy(path)

    def _path(self) -> str:
        """What is meant: a step where the map bay has the focus, else what of the stack was chosen last."""
        focus, chosen = QApplication.focusWidget(), self.session.selection
        if focus is not None and self.map_bay.isAncestorOf(focus):
            return chosen.step or chosen.map
        return chosen.aimed or chosen.plate

    def _in_time(self) -> bool:
        focus = QApplication.focusWidget()
        return focus is not None and self.time.isAncestorOf(focus)

    def copy(self, path: str = "") -> bool:
        """Copy pins where the time strip has the focus, else what is selected. Returns whether anything was."""
        if not path and self._in_time() and self.time.lanes.chosen:
            self.time.copy()
            return True
        fragment = carry.taken(self.session, path or self._path())
        if fragment is None:
            self.session.message.emit("Select something first, then copy it")
            return False
        put_on_clipboard(fragment)
        self.time.copied_pins = []
        self.session.message.emit(f"{carry.counted(fragment.picked).capitalize()} copied, with all that it needs")
        return True

    def cut(self, path: str = "") -> None:
        """Copy, and take it out."""
        fragment = carry.taken(self.session, path or self._path())
        if fragment is not None and self.copy(path or self._path()):
            carry.cut_out(self.session, fragment)

    def paste(self, *, links: bool = False) -> None:
        """Paste pins where they were copied last, else what the clipboard holds, where the selection says."""
        if self.time.copied_pins:
            self.time.paste()
            return
        fragment = self._on_clipboard()
        if fragment is not None:
            carry.lay(self.session, fragment, links=links, later=self._later(fragment))

    def paste_values(self) -> None:
        """Give the selected item the values of the one that was copied."""
        fragment = self._on_clipboard()
        if fragment is not None:
            carry.lay_values(self.session, fragment)

    def _on_clipboard(self) -> Fragment | None:
        try:
            return from_clipboard()
        except NimbleQuakeError as wrong:
            self.session.message.emit(wrong.line())
            return None

    def _later(self, fragment: Fragment) -> int:
        """By how many frames pins and spans move: asked once, and remembered."""
        if not carry.moves(self.session, fragment):
            return 0
        if not self.preferences.pasted_pins:
            box = QMessageBox(self.window)
            box.setWindowTitle("Paste")
            box.setText("Where do its pins and spans go?")
            box.setInformativeText("You are asked once; the preferences change it.")
            keep = box.addButton("Keep their frames", QMessageBox.ButtonRole.AcceptRole)
            box.addButton("Move with the playhead", QMessageBox.ButtonRole.AcceptRole)
            box.setDefaultButton(keep)
            box.exec()
            self.preferences.pasted_pins = "keep" if box.clickedButton() is keep else "move"
        return self.session.frame - fragment.frame if self.preferences.pasted_pins == "move" else 0
