"""Where an order is rendered: by this program, by workers here, or on other machines."""

from __future__ import annotations

import importlib.util
import os
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QHBoxLayout, QLineEdit, QPushButton, QSpinBox, QWidget

from nimble_quake.errors import BadInput
from nimble_quake.farm.where import Where

HERE, WORKERS, OTHERS = "here", "workers", "others"
TITLES = {HERE: "This program", WORKERS: "Workers on this machine", OTHERS: "Other machines"}
NEEDED = "Needs an extra: pip install nimble-quake[farm]"


class MachineFields(QWidget):
    """One row: which machines, and how many workers, or their address and keys."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.keys: Path | None = None
        self.by, self.workers, self.address = QComboBox(), QSpinBox(), QLineEdit()
        for key, title in TITLES.items():
            self.by.addItem(title, key)
        self.by.setAccessibleName("Rendered by")
        self.by.setFixedWidth(190)
        self.workers.setRange(1, 256)
        self.workers.setValue(max(1, os.cpu_count() or 1))
        self.workers.setAccessibleName("Workers")
        self.workers.setToolTip("How many processes render, each a part of the frames")
        self.address.setPlaceholderText("tls://render-room:8786")
        self.address.setAccessibleName("Address")
        self.address.setToolTip(
            "The address of a scheduler of dask.distributed that the machines are joined to, or the file it wrote"
        )
        self.key_button = QPushButton("Keys …")
        self.key_button.setToolTip("The folder that nimble-quake farm-keys made, for a connection nobody else can read")
        self.key_button.clicked.connect(self._choose_keys)
        self.plain = QCheckBox("Unencrypted")
        self.plain.setToolTip("Allow a connection that others can read")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        for widget in (self.by, self.workers, self.address, self.key_button, self.plain):
            widget.setMinimumHeight(24)
            row.addWidget(widget, 1 if widget is self.address else 0)
        row.addStretch(0)
        if importlib.util.find_spec("distributed") is None:
            self.by.setEnabled(False)
            self.by.setToolTip(NEEDED)
        self.by.currentIndexChanged.connect(self._choose)
        self._choose()

    def where(self) -> Where | None:
        """Return which machines render; None for this program. Raises BadInput where no address is given."""
        kind = self.by.currentData()
        if kind == HERE:
            return None
        if kind == WORKERS:
            return Where(workers=self.workers.value())
        address = self.address.text().strip()
        if not address:
            raise BadInput("Other machines need an address", cure="type that of their scheduler, like tls://room:8786")
        return Where(address, 0, self.keys, self.plain.isChecked())

    def _choose(self) -> None:
        kind = self.by.currentData()
        self.workers.setVisible(kind == WORKERS)
        for widget in (self.address, self.key_button, self.plain):
            widget.setVisible(kind == OTHERS)
        self.changed.emit()

    def _choose_keys(self) -> None:
        found = QFileDialog.getExistingDirectory(self, "The folder with the keys", str(self.keys or Path.home()))
        if found:
            self.keys = Path(found)
            self.key_button.setText(f"Keys: {self.keys.name}")
