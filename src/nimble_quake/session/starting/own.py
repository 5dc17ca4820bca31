"""Starters of one's own: shots in a folder, each with its moving picture beside it."""

from __future__ import annotations

import contextlib
import os
import re
from pathlib import Path

import msgspec

from nimble_quake.errors import NimbleQuakeError, SaveFailed
from nimble_quake.session.starting.moving_pictures import draw
from nimble_quake.session.starting.starters import OWN, Starter, note_of
from nimble_quake.session.storage.preferences import folder
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import SUFFIX, cure_of, read_shot, write_shot

MOST = 500
TAKEN_BACK = ".removed"
"""The ending of a starter that was removed, until it is brought back or the page is left."""


def own_folder() -> Path:
    """Return the folder of one's own starters."""
    return folder("config") / "starters"


def own_starters() -> tuple[Starter, ...]:
    """Return one's own starters by name; one that cannot be read is there too, and says so."""
    try:
        files = sorted(own_folder() / name for name in os.listdir(own_folder()) if name.endswith(SUFFIX))[:MOST]
    except OSError:
        return ()
    return tuple(_read(file) for file in files)


def _read(file: Path) -> Starter:
    try:
        shot = read_shot(file)
    except NimbleQuakeError as wrong:
        return Starter(file.stem, file.stem, OWN, f"cannot be read: {wrong.what}", file, damaged=True)
    return Starter(file.stem, shot.name, OWN, note_of(shot), file)


def keep(shot: Shot, name: str) -> Path:
    """Keep a shot as a starter under a name that no other has. Raises SaveFailed. Its picture is drawn apart."""
    try:
        own_folder().mkdir(parents=True, exist_ok=True)
    except OSError as wrong:
        what = f"your starters cannot be kept there: {wrong.strerror}"
        raise SaveFailed(what, where=str(own_folder()), cure=cure_of(wrong)) from wrong
    base = re.sub(r"[^\w-]+", "-", name.lower()).strip("-")[:80] or "starter"
    file, number = own_folder() / f"{base}{SUFFIX}", 2
    while file.exists():
        file, number = own_folder() / f"{base}-{number}{SUFFIX}", number + 1
    write_shot(msgspec.structs.replace(shot, name=name, playhead=0), file, backup=False)
    return file


def draw_picture(file: Path) -> Path:
    """Draw the moving picture of a starter, and return where it lies; one that cannot be drawn has none."""
    picture = file.with_suffix(".jpg")
    with contextlib.suppress(NimbleQuakeError, OSError, ArithmeticError, ValueError):
        draw(read_shot(file), picture)
    return picture


def rename(starter: Starter, name: str) -> None:
    """Give one's own starter another name; its file stays. Raises SaveFailed."""
    if not starter.damaged and name.strip():
        write_shot(msgspec.structs.replace(starter.shot, name=name.strip()[:200]), starter.file, backup=False)


def remove(starter: Starter) -> None:
    """Take one's own starter away; `bring_back` has it again until `forget_removed`. Raises SaveFailed."""
    try:
        starter.file.rename(starter.file.with_suffix(SUFFIX + TAKEN_BACK))
    except OSError as wrong:
        what = f"it cannot be removed: {wrong.strerror}"
        raise SaveFailed(what, where=str(starter.file), cure=cure_of(wrong)) from wrong


def bring_back(starter: Starter) -> None:
    """Have a starter again that was removed."""
    aside = starter.file.with_suffix(SUFFIX + TAKEN_BACK)
    if aside.exists() and not starter.file.exists():
        aside.rename(starter.file)


def forget_removed() -> None:
    """Remove for good what was removed."""
    for aside in own_folder().glob(f"*{SUFFIX}{TAKEN_BACK}"):
        picture = aside.with_name(aside.name.removesuffix(SUFFIX + TAKEN_BACK) + ".jpg")
        for file in (aside, picture):
            file.unlink(missing_ok=True)
