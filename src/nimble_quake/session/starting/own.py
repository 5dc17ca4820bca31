"""Starters of one's own: files in a folder, which can be given away; their moving pictures and unpacked media aside."""

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
from nimble_quake.shotfile import starter_file
from nimble_quake.shotfile.files import SUFFIX, cure_of, put_bytes, read_shot, write_whole
from nimble_quake.shotfile.starter_file import About

MOST = 500
ENDINGS = (starter_file.SUFFIX, SUFFIX)
"""A plain shot in the folder is a starter too, without words about it."""
TAKEN_BACK = ".removed"
"""The ending of a starter that was removed, until it is brought back or the page is left."""


def own_folder() -> Path:
    """Return the folder of one's own starters."""
    return folder("config") / "starters"


def own_starters() -> tuple[Starter, ...]:
    """Return one's own starters by name; one that cannot be read is there too, and says so."""
    try:
        files = sorted(own_folder() / name for name in os.listdir(own_folder()) if name.endswith(ENDINGS))[:MOST]
    except OSError:
        return ()
    return tuple(starter_in(file) for file in files)


def starter_in(file: Path) -> Starter:
    """Return the starter in a file; one that cannot be read says so."""
    try:
        if file.name.endswith(starter_file.SUFFIX):
            about, shot = starter_file.about_of(file), starter_file.shot_in(file)
        else:
            shot = read_shot(file)
            about = About(name=shot.name)
    except NimbleQuakeError as wrong:
        return Starter(file.stem, file.stem, OWN, f"cannot be read: {wrong.what}", file, damaged=True)
    note = f"{about.group} · {note_of(shot)}" if about.group else note_of(shot)
    return Starter(file.stem, about.name, OWN, note, file, about=about)


def keep(shot: Shot, name: str, about: About | None = None, *, carries: bool = True) -> Path:
    """Keep a shot as a starter under a name that no other has. Raises SaveFailed. Its picture is drawn apart."""
    _make_folder()
    file = _free(name)
    described = msgspec.structs.replace(about or About(), name=name)
    starter_file.write_starter(file, _named(shot, name), described, carries=carries)
    return file


def take_in(source: Path) -> Path:
    """Copy a starter that somebody else has made into one's own folder. Raises ShotError, SaveFailed."""
    about = starter_file.about_of(source)
    starter_file.shot_in(source)  # one that cannot be opened is not taken in
    picture = starter_file.picture_in(source)
    _make_folder()
    file = _free(about.name)
    write_whole(file, lambda target: put_bytes(target, source.read_bytes()))
    if picture:
        put_picture(file, picture)
    return file


def give_away(starter: Starter, target: Path) -> None:
    """Write a starter with its media and its moving picture to a file elsewhere. Raises ShotError, SaveFailed."""
    picture = starter.picture.read_bytes() if starter.picture.is_file() else b""
    about = starter.about or About(name=starter.title, group=starter.sort)
    starter_file.write_starter(target, starter.shot, about, picture)


def update(starter: Starter, shot: Shot) -> None:
    """Put a changed shot in the place of a starter's, as its next version. Raises SaveFailed."""
    about = starter.about or About(name=starter.title)
    described = msgspec.structs.replace(about, version=about.version + 1)
    starter_file.write_starter(_as_starter(starter.file), _named(shot, about.name), described)
    if not starter.file.name.endswith(starter_file.SUFFIX):
        starter.file.unlink(missing_ok=True)


def rename(starter: Starter, name: str, group: str | None = None) -> None:
    """Give one's own starter another name, or another group; its file stays. Raises SaveFailed, ShotError."""
    name = name.strip()[:200]
    if starter.damaged or not name:
        return
    about = starter.about or About()
    described = msgspec.structs.replace(about, name=name, group=about.group if group is None else group[:60])
    picture = starter.picture.read_bytes() if starter.picture.is_file() else b""
    target = _as_starter(starter.file)
    starter_file.write_starter(target, _named(starter.shot, name), described)
    if target != starter.file:
        starter.file.unlink(missing_ok=True)
    if picture:
        put_picture(target, picture)


def put_picture(file: Path, picture: bytes) -> None:
    """Keep the moving picture of a starter, where it is looked for."""
    target = starter_in(file).picture
    with contextlib.suppress(NimbleQuakeError, OSError):
        target.parent.mkdir(parents=True, exist_ok=True)
        write_whole(target, lambda beside: put_bytes(beside, picture), flush=False)


def draw_picture(file: Path) -> Path:
    """Draw the moving picture of a starter, and return where it lies; one that cannot be drawn has none."""
    starter = starter_in(file)
    with contextlib.suppress(NimbleQuakeError, OSError, ArithmeticError, ValueError):
        starter.picture.parent.mkdir(parents=True, exist_ok=True)
        draw(starter.shot, starter.picture)
    return starter.picture


def remove(starter: Starter) -> None:
    """Take one's own starter away; `bring_back` has it again until `forget_removed`. Raises SaveFailed."""
    try:
        starter.file.rename(starter.file.with_name(starter.file.name + TAKEN_BACK))
    except OSError as wrong:
        what = f"it cannot be removed: {wrong.strerror}"
        raise SaveFailed(what, where=str(starter.file), cure=cure_of(wrong)) from wrong


def bring_back(starter: Starter) -> None:
    """Have a starter again that was removed."""
    aside = starter.file.with_name(starter.file.name + TAKEN_BACK)
    if aside.exists() and not starter.file.exists():
        aside.rename(starter.file)


def forget_removed() -> None:
    """Remove for good what was removed. Its unpacked media stay: shots may show them."""
    for aside in own_folder().glob(f"*{TAKEN_BACK}"):
        picture = starter_in(aside.with_name(aside.name.removesuffix(TAKEN_BACK))).picture
        for file in (aside, picture):
            file.unlink(missing_ok=True)


def _named(shot: Shot, name: str) -> Shot:
    return msgspec.structs.replace(shot, name=name, playhead=0)


def _make_folder() -> None:
    try:
        own_folder().mkdir(parents=True, exist_ok=True)
    except OSError as wrong:
        what = f"your starters cannot be kept there: {wrong.strerror}"
        raise SaveFailed(what, where=str(own_folder()), cure=cure_of(wrong)) from wrong


def _free(name: str) -> Path:
    """A file of this name that is not there yet."""
    base = re.sub(r"[^\w-]+", "-", name.lower()).strip("-")[:80] or "starter"
    file, number = own_folder() / f"{base}{starter_file.SUFFIX}", 2
    while file.exists():
        file, number = own_folder() / f"{base}-{number}{starter_file.SUFFIX}", number + 1
    return file


def _as_starter(file: Path) -> Path:
    """A plain shot that is written again becomes a starter file."""
    return file if file.name.endswith(starter_file.SUFFIX) else file.with_suffix(starter_file.SUFFIX)
