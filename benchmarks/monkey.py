"""What a careless person does to the window: types, pastes, drops files, opens damaged shots, sets formulas, pins and
drivers, takes every dialog to its end. The moves of `benchmarks.soak`, each by the program's own ways in.
"""

from __future__ import annotations

import json
import os
import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from PyQt6 import QtTest
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QKeyEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSpinBox,
    QApplication,
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QWidget,
)

from nimble_quake.desktop.window import BenchWindow
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Formula, Key, Keys, Rate
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Number
from nimble_quake.samples import FOLDER, samples
from nimble_quake.session.storage import library
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.paths import all_nodes, kind_of, map_path

TEXTS = (
    "12",
    "-5",
    "1920/3",
    "1e9",
    "((",
    "sin(",
    "Nachtmarkt 夜市",
    "\u202e",
    "0.5,0.5",
    "a" * 400,
    "#ff8800",
    "  ",
    "٣",
)
FORMULAS = (
    "t * 40",
    "sin(t * tau) * 30",
    "random(frame) * 90",
    "1 / (frame - 20)",
    'value("plates/title/turn") + 1',
    'level("low") * 50',
    "beats() * 10",
    'value("gone/x")',
    "wander(t) * 20",
    "progress ** 400",
)

QTest: Any = QtTest.QTest
"""Its stubs declare its static functions as methods."""
KEYS = (Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Tab)
NEVER = ("quit",)
"""Actions that end the window."""


class Files:
    """Good and bad files to drop, open and save to."""

    def __init__(self, folder: Path, rng: random.Random) -> None:
        self.folder, self.random = folder, rng
        noise = np.random.Generator(np.random.PCG64(5)).integers(0, 255, (90, 160, 3), np.uint8)
        cv2.imwrite(str(folder / "good.png"), noise)
        (folder / "cut.png").write_bytes((folder / "good.png").read_bytes()[:900])
        (folder / "empty.mp4").touch()
        (folder / "no.wav").write_bytes(b"RIFF nonsense")
        (folder / "bomb.svg").write_text("<svg>" * 3000)
        os.mkfifo(folder / "pipe.png")
        (folder / "folder.nquake").mkdir()
        self.good = [folder / "good.png", *sorted((FOLDER / "media").iterdir())]
        self.bad = [folder / name for name in ("cut.png", "empty.mp4", "no.wav", "bomb.svg", "pipe.png", "gone.png")]

    def any(self) -> Path:
        """A file, good or bad."""
        return self.random.choice(self.good if self.random.random() < 0.6 else self.bad)

    def damaged_shot(self) -> Path:
        """A sample with something else in it: bytes, or a value."""
        source = FOLDER / f"{self.random.choice(samples())}.nquake"
        path = self.folder / f"damaged-{self.random.randrange(3)}.nquake"
        data = bytearray(source.read_bytes())
        if self.random.random() < 0.4:
            for _ in range(self.random.randrange(1, 9)):
                data[self.random.randrange(len(data))] = self.random.randrange(256)
            path.write_bytes(data)
        else:
            raw = json.loads(data)
            self._twist(raw)
            path.write_text(json.dumps(raw))
        return path

    def _twist(self, raw: Any) -> None:
        """Put something else in the place of one value, somewhere."""
        where = raw
        while isinstance(where, dict | list) and len(where):
            keys = list(where) if isinstance(where, dict) else list(range(len(where)))
            key = self.random.choice(keys)
            if not isinstance(where[key], dict | list) or self.random.random() < 0.15:
                other = [None, -1, 1e300, "x", [], {}, {"formula": "1/0"}, "\ud800", True, [[1] * 9] * 9]
                where[key] = self.random.choice(other)
                return
            where = where[key]


class Monkey:
    """The moves beside clicks, drags and keys. note: is told what is done, for the report of a fault."""

    def __init__(
        self, window: Callable[[], BenchWindow], rng: random.Random, folder: Path, note: Callable[[str], None]
    ) -> None:
        self._window, self.random, self.note = window, rng, note
        self.files = Files(folder, rng)
        for name, give in (
            ("getOpenFileName", self._one),
            ("getSaveFileName", self._to),
            ("getOpenFileNames", self._few),
        ):
            setattr(QFileDialog, name, give)
        QFileDialog.getExistingDirectory = lambda *_, **__: str(folder)  # type: ignore[method-assign]

    @property
    def window(self) -> BenchWindow:
        """The window there is now."""
        return self._window()

    def _one(self, *_: Any, **__: Any) -> tuple[str, str]:
        return (str(self.random.choice((self.files.any(), self.files.damaged_shot()))), "")

    def _few(self, *_: Any, **__: Any) -> tuple[list[str], str]:
        return ([str(self.files.any()) for _ in range(self.random.randrange(3))], "")

    def _to(self, *_: Any, **__: Any) -> tuple[str, str]:
        names = ("saved.nquake", "saved", "no/such/folder/x.nquake", "", "folder.nquake")
        name = self.random.choice(names)
        return (str(self.files.folder / name) if name else "", "")

    def moves(self) -> list[tuple[int, Callable[[], None]]]:
        """Return the moves, each with how often it is made."""
        return [
            (6, self.type),
            (2, self.paste),
            (2, self.drop),
            (1, self.open_damaged),
            (4, self.motion),
            (2, self.dialog),
            (1, self.play),
            (1, self.save),
        ]

    def type(self) -> None:
        """Type something into whatever has the keyboard."""
        focused, text = QApplication.focusWidget(), self.random.choice(TEXTS)
        if focused is None:
            return
        self.note(f"type {text[:20]!r} into {type(focused).__name__} {focused.accessibleName()}")
        for letter in text[:60]:
            focused = QApplication.focusWidget()
            if focused is not None:  # any letter, as an input method may send it
                for sort in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                    key = Qt.Key(ord(letter.upper())) if letter.isascii() and letter.isalnum() else Qt.Key.Key_unknown
                    QApplication.sendEvent(focused, QKeyEvent(sort, key, Qt.KeyboardModifier.NoModifier, letter))
        focused = QApplication.focusWidget()
        if focused is not None:
            QTest.keyClick(focused, self.random.choice(KEYS))

    def paste(self) -> None:
        """Put something on the clipboard and take it."""
        session, board = self.window.session, QApplication.clipboard()
        maps = [library.map_text(session, map_path(map.id)) for map in session.shot.maps[:3]]
        text = self.random.choice((*maps, "", "{", '{"nimble_quake_recipe": 9}', "x" * 100_000, "\x00\x01", "[]"))
        assert board is not None
        board.setText(text)
        self.note(f"paste {text[:30]!r}")
        self.window.files.maps.paste()
        focused = QApplication.focusWidget()
        if focused is not None:
            QTest.keyClick(focused, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)

    def drop(self) -> None:
        """Drop files on the window."""
        data = QMimeData()
        names = [self.files.any() for _ in range(self.random.randrange(1, 3))]
        data.setUrls([QUrl.fromLocalFile(str(name)) for name in names])
        self.note(f"drop {[name.name for name in names]}")
        copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        self.window.dragEnterEvent(QDragEnterEvent(QPoint(600, 300), copy, data, left, none))
        self.window.dropEvent(QDropEvent(QPointF(600, 300), copy, data, left, none, QEvent.Type.Drop))
        while len(self.window.session.shot.plates) > 30:  # a shot that only grows is another test
            self.window.session.undo()
            if not self.window.session.history.past:
                return

    def open_damaged(self) -> None:
        """Open a shot that is not as we write them."""
        path = self.files.damaged_shot()
        self.note(f"open {path.name}")
        self.window.files.open_path(path)

    def motion(self) -> None:
        """Let a number move somehow."""
        session = self.window.session
        path, node = self.random.choice(list(all_nodes(session.shot)) or [("", None)])
        operator = registry().get(kind_of(path), node.kind) if node is not None else None
        numbers = [param for param in operator.declared.values() if isinstance(param, Number)] if operator else []
        if not numbers:
            return
        param = self.random.choice(numbers)
        low, high = param.usual
        driver = self.random.choice(list(drivers().values()))
        base, amount, settings = driver.begun(param.clamp(low), param.usual, 1)
        values = [param.clamp(self.random.uniform(low, high)) for _ in range(3)]
        keys = tuple(Key(frame=frame, value=value) for frame, value in zip((3.0, 20.0, 44.0), values, strict=True))
        value = self.random.choice(
            (
                Formula(self.random.choice(FORMULAS)),
                Keys(keys),
                Rate(low, (high - low) / 4),
                Driven(base, amount, driver(settings)),
            )
        )
        self.note(f"move {path}/{param.name} by {value!r}"[:160])
        session.edit("Let move", set_value(session.shot, f"{path}/{param.name}", value))

    def play(self) -> None:
        """Play for a moment."""
        self.window.frames.play()
        QTest.qWait(400)
        self.window.frames.stop()

    def save(self) -> None:
        """Save under a name that may not work."""
        self.note("save as")
        self.window.files.save_as()

    def dialog(self) -> None:
        """Open one of the dialogs; what is open is used to its end by `use_what_waits`."""
        from nimble_quake.session.actions import ACTIONS

        action = self.random.choice([a for a in ACTIONS if a.title.endswith("…") and a.id not in NEVER])
        self.note(f"dialog {action.id}")
        if action.enabled(self.window):
            action.run(self.window)
        for found in self.window.findChildren(QDialog):
            if found.isVisible() and not found.isModal():
                self.use(found)
                found.close()

    def use_what_waits(self) -> None:
        """Take a menu or dialog that waits for an answer to its end: some fields changed, then one of its buttons."""
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()
        modal = QApplication.activeModalWidget()
        if isinstance(modal, QDialog):
            if self.random.random() < 0.5:
                self.use(modal)
            modal.accept() if self.random.random() < 0.5 else modal.reject()

    def use(self, dialog: QWidget) -> None:
        """Change some fields of a dialog and press one of its buttons."""
        for field in self.random.sample(found := _fields(dialog), min(3, len(found))):
            if isinstance(field, QLineEdit) and not field.isReadOnly():
                field.setText(self.random.choice(TEXTS))
            elif isinstance(field, QComboBox) and field.count():
                field.setCurrentIndex(self.random.randrange(field.count()))
            elif isinstance(field, QAbstractSpinBox):
                field.stepBy(self.random.choice((-5, 1, 40)))
            elif isinstance(field, QCheckBox):
                field.toggle()
        buttons = [b for b in dialog.findChildren(QAbstractButton) if b.isVisible() and b.isEnabled()]
        if buttons and self.random.random() < 0.6:
            button = self.random.choice(buttons)
            self.note(f"press {button.text() or button.accessibleName()} in {type(dialog).__name__}")
            button.click()


def _fields(dialog: QWidget) -> list[QWidget]:
    kinds = (QLineEdit, QComboBox, QAbstractSpinBox, QCheckBox)
    return [w for w in dialog.findChildren(QWidget) if isinstance(w, kinds) and w.isVisible() and w.isEnabled()]
