"""Draw the contact sheets of docs/screenshots: every source, every shaper, every quake, every finish, the samples.

.venv/bin/python tools/contact_sheets.py
"""

from __future__ import annotations

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from nimble_quake.desktop.app import application
from nimble_quake.desktop.boards.entries import Entry, effect_entries, kinds, sample_shots
from nimble_quake.desktop.boards.source_board import picture_of
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import image_of
from nimble_quake.samples import sample_path
from nimble_quake.session.state import Session

WIDE, TALL, COLUMNS, GAP, NAME = 200, 113, 6, 8, 20
FRAME = 46


def entries_of(family: str, session: Session) -> list[Entry]:
    """The choices of a sheet; effects on the title of the first sample."""
    if family == "samples":
        return sample_shots()
    if family in ("quake", "finish"):
        path = sample_path("lantern-row")
        assert path is not None
        session.open(path)
        session.select(plate="plates/lanterns", quake="")
        return effect_entries(session, family)
    return kinds(session, family)


def sheet(family: str, path: Path) -> None:
    """Draw one sheet."""
    session = Session()
    entries = entries_of(family, session)
    rows = -(-len(entries) // COLUMNS)
    picture = QImage(GAP + COLUMNS * (WIDE + GAP), GAP + rows * (TALL + NAME + GAP), QImage.Format.Format_RGB32)
    picture.fill(colour("window"))
    painter = QPainter(picture)
    painter.setFont(font(13))
    painter.setPen(colour("text"))
    for n, entry in enumerate(entries):
        x, y = GAP + n % COLUMNS * (WIDE + GAP), GAP + n // COLUMNS * (TALL + NAME + GAP)
        frame = entry.shot.playhead if entry.whole else FRAME
        found = picture_of(session.engine, entry, frame, WIDE)
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
    sheet("quake", folder / "quakes.png")
    sheet("finish", folder / "finishes.png")
    sheet("samples", folder / "samples.png")
