"""Fonts of one's own: where they lie, and how a font file is taken in."""

from __future__ import annotations

import shutil
from pathlib import Path

from nimble_quake.errors import BadInput, SaveFailed
from nimble_quake.files.unfinished import finished, removed, unfinished_file
from nimble_quake.media.drawing import faces
from nimble_quake.params.kinds import Face
from nimble_quake.session.state import Session
from nimble_quake.session.storage.preferences import folder
from nimble_quake.shot.paths import value_path

BESIDE = "fonts"
"""The folder beside a shot in which its fonts may lie; they may lie right beside it, too."""


def own_fonts() -> Path:
    """Return the folder of the person's own fonts."""
    return folder("config") / "fonts"


def fonts_for(path: Path | None) -> tuple[Path, ...]:
    """Return where fonts for a shot lie: in its folder, and among one's own."""
    beside = () if path is None else (path.absolute().parent / BESIDE, path.absolute().parent)
    return (*beside, own_fonts())


def take_font(session: Session, file: Path) -> None:
    """Take a font file in: it is copied to one's own, and a selected plate that is set in type is set in it.

    Raises BadInput where it is no font, SaveFailed.
    """
    read = faces.read_font(file) if faces.may_be_read(file) else []
    if not read:
        raise BadInput("this is no font that can be read", where=str(file), cure="use a TrueType or OpenType font")
    _copied(file)
    faces.look_in(own_fonts())
    faces.look_again()
    family, path = read[0].getFamilyName(), _face_of(session)
    if path and session.shown(path) != family:
        session.set(path, family, f"Set in {family}")
    session.message.emit(
        f"{family} is among your fonts" + ("" if path else ": select a text and choose it as its face")
    )


def _face_of(session: Session) -> str:
    """The path of the selected plate's face; empty where it is not set in type."""
    plate = session.selection.plate
    kind = session.operator(plate) if plate else None
    names = [name for name, param in (kind.declared if kind is not None else {}).items() if isinstance(param, Face)]
    return value_path(plate, names[0]) if names else ""


def _copied(file: Path) -> None:
    target = own_fonts() / file.name
    try:
        if target.exists() and target.samefile(file):
            return
        target.parent.mkdir(parents=True, exist_ok=True)
        beside = unfinished_file(target)
        try:
            shutil.copyfile(file, beside)
            finished(beside, target)
        finally:
            removed(beside)
    except OSError as wrong:
        raise SaveFailed(f"the font cannot be kept: {wrong.strerror}", where=str(target)) from wrong
