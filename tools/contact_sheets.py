"""Draw the two contact sheets of docs/screenshots: every source and every shaper, with their looks.

.venv/bin/python tools/contact_sheets.py
"""

from __future__ import annotations

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from nimble_quake.desktop.app import application
from nimble_quake.desktop.bench.viewer import image_of
from nimble_quake.desktop.boards.entries import kinds
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.render.bench import thumbnail
from nimble_quake.session.state import Session

WIDE, TALL, COLUMNS, GAP, NAME = 200, 113, 6, 8, 20
FRAME = 46


def sheet(family: str, path: Path) -> None:
    """Draw one sheet."""
    session = Session()
    entries = kinds(session, family)
    rows = -(-len(entries) // COLUMNS)
    picture = QImage(GAP + COLUMNS * (WIDE + GAP), GAP + rows * (TALL + NAME + GAP), QImage.Format.Format_RGB32)
    picture.fill(colour("window"))
    painter = QPainter(picture)
    painter.setFont(font(13))
    painter.setPen(colour("text"))
    for n, entry in enumerate(entries):
        x, y = GAP + n % COLUMNS * (WIDE + GAP), GAP + n // COLUMNS * (TALL + NAME + GAP)
        found = thumbnail(session.engine, entry.shot, FRAME, entry.map_id, None, WIDE)
        if found is not None:
            painter.drawImage(QRectF(x, y, WIDE, TALL), image_of(found))
        painter.drawText(QRectF(x, y + TALL, WIDE, NAME), int(Qt.AlignmentFlag.AlignVCenter), entry.title)
    painter.end()
    picture.save(str(path))
    print(f"{path}: {len(entries)}")


if __name__ == "__main__":
    app = application("dark")
    folder = Path(__file__).parents[1] / "docs" / "screenshots"
    sheet("source", folder / "sources.png")
    sheet("shaper", folder / "shapers.png")
