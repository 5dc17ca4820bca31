"""What is said of a starter: asked when one is kept, shown before somebody else's is used."""

from __future__ import annotations

from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.desktop.theme.look import tone
from nimble_quake.desktop.widgets.chooser import name_entry
from nimble_quake.desktop.widgets.parts import heading, quiet
from nimble_quake.session.starting.starters import SORTS
from nimble_quake.shotfile.starter_file import About

LICENCES = ("", "CC0-1.0", "CC-BY-4.0", "CC-BY-SA-4.0", "All rights reserved")


def weight(size: int) -> str:
    """Return how large something is, in words: "2.1 MB"."""
    return f"{size / 1e6:.1f} MB" if size >= 100_000 else f"{max(1, round(size / 1000))} kB"


class KeepDialog(QDialog):
    """Asks for a starter's name and what is said of it."""

    def __init__(self, name: str, media: int, parent: QWidget | None = None) -> None:
        """media: bytes of the files it may carry."""
        super().__init__(parent)
        self.setWindowTitle("Keep as a starter")
        self.setMinimumWidth(400)
        self.name = QLineEdit(name)
        self.group = QComboBox()
        self.group.setEditable(True)
        self.group.setAccessibleName("Group")
        name_entry(self.group)
        self.group.addItems(["", *SORTS, "Backgrounds", "Glitches", "Lenses"])
        self.words, self.author = QLineEdit(), QLineEdit()
        self.words.setPlaceholderText("what it looks like, what it is for")
        self.licence = QComboBox()
        self.licence.setEditable(True)
        self.licence.setAccessibleName("Licence")
        name_entry(self.licence)
        self.licence.addItems(LICENCES)
        self.carries = QCheckBox(f"Its pictures, clips and sounds come along ({weight(media)})")
        self.carries.setChecked(True)
        for field, tip in (
            (self.name, "Its name on the board"),
            (self.group, "The heading it stands under"),
            (self.words, "Words to find it by, besides its name"),
            (self.author, "Who made it; seen by whoever is given it"),
            (self.licence, "Under which its media and it may be used"),
            (self.carries, "Else they stay where they are, and are missing on another machine"),
        ):
            field.setToolTip(tip)
            field.setAccessibleName(tip)
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("Group", self.group)
        form.addRow("Found by", self.words)
        form.addRow("Made by", self.author)
        form.addRow("Licence", self.licence)
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.carries)
        self.carries.setVisible(media > 0)  # once it lies in the dialog: else it is a window of its own
        column.addWidget(quiet("What is at its front can be filled and turned by whoever uses it.", 11))
        column.addWidget(self.buttons)
        self.name.textChanged.connect(lambda text: self._allow(bool(text.strip())))
        self.name.selectAll()
        self._allow(bool(name.strip()))

    def _allow(self, good: bool) -> None:
        ok = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        if ok is not None:
            ok.setEnabled(good)

    def about(self) -> About:
        """Return what was typed."""
        return About(
            name=self.name.text().strip()[:200],
            group=self.group.currentText().strip()[:60],
            words=self.words.text().strip()[:500],
            author=self.author.text().strip()[:200],
            licence=self.licence.currentText().strip()[:200],
        )


class TakeDialog(QDialog):
    """Says who made a starter, under which licence, and what it brings, before it is taken."""

    def __init__(self, about: About, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("A starter")
        self.setMinimumWidth(380)
        column = QVBoxLayout(self)
        column.addWidget(heading(about.name))
        media = f"{len(about.media)} files, {weight(about.size)}" if about.media else "none"
        for label, words in (
            ("Made by", about.author or "not said"),
            ("Licence", about.licence or "not said: ask before you publish it"),
            ("Typefaces", ", ".join(about.fonts) or "none"),
            ("Media", media),
            ("Version", str(about.version)),
        ):
            line = QLabel(f"{label}: {words}")
            line.setWordWrap(True)
            tone(line, "text")
            column.addWidget(line)
        buttons = QDialogButtonBox.StandardButton
        box = QDialogButtonBox(buttons.Cancel)
        keep = box.addButton("Keep it", QDialogButtonBox.ButtonRole.AcceptRole)
        if keep is not None:
            keep.setToolTip("It stands among your starters then")
        box.accepted.connect(self.accept)
        box.rejected.connect(self.reject)
        column.addWidget(box)
