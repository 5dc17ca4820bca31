"""Starters as one file: a zip of the shot, the media it may carry, what is said of it, and its moving picture.

    starter.json     what it is: name, group, words, author, licence, version, fonts, media
    shot.nquake      the shot, its dials and slots; its media relative to it
    picture.jpg      its moving picture (see `session.starting.moving_pictures`)
    media/…          the files it carries

Nothing in it is run, nothing is written outside the folder it is unpacked into, and what it unpacks to is known before.
"""

from __future__ import annotations

import hashlib
import shutil
import zipfile
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath

import msgspec

from nimble_quake.conventions import SHOT_SUFFIX, Json
from nimble_quake.errors import SaveFailed, ShotError
from nimble_quake.files.unfinished import removed, unfinished_folder
from nimble_quake.media.flipbook import numbered
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Face, shown
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import all_nodes, kind_of, value_path
from nimble_quake.shotfile.files import MOST_BYTES, shot_bytes, shot_from, write_whole

SUFFIX = ".nquake-starter"
ABOUT, SHOT, PICTURE, MEDIA = "starter.json", "shot.nquake", "picture.jpg", "media"
FORMAT = 1
MOST_FILES = 5000
MOST_UNPACKED = 4 << 30
"""Bytes that a starter may unpack to."""
MOST_PICTURE = 20 << 20
_BROKEN: tuple[type[Exception], ...] = (zipfile.BadZipFile, zlib.error, OSError, EOFError, RuntimeError, ValueError)
"""RuntimeError: encrypted, or nested too deep; msgspec and Unicode raise ValueErrors."""
NOT_ONE = "it is no starter, or was cut off; take another copy"


class Carried(msgspec.Struct, frozen=True):
    """A file in a starter: its name there, and its bytes."""

    name: str
    size: int


class About(msgspec.Struct, frozen=True, kw_only=True):
    """What is said of a starter, before it is used."""

    name: str = "Untitled"
    group: str = ""
    """What it is made for: the heading it stands under."""
    words: str = ""
    """Words to find it by, besides its name."""
    author: str = ""
    licence: str = ""
    """Under which it may be used, in words or as an SPDX name."""
    version: int = 1
    fonts: tuple[str, ...] = ()
    media: tuple[Carried, ...] = ()

    @property
    def size(self) -> int:
        """Bytes of its media."""
        return sum(file.size for file in self.media)


def faces_in(shot: Shot) -> tuple[str, ...]:
    """Return the typefaces a shot names."""
    found = []
    for path, node in all_nodes(shot):
        kind = registry().get(kind_of(path), node.kind)
        for name, param in (kind.declared if kind is not None else {}).items():
            if isinstance(param, Face):
                found.append(str(node.values.get(name, param.default)))
    return tuple(sorted(set(found) - {""}))


def files_in(shot: Shot) -> dict[str, list[str]]:
    """Return the files a shot names, each with the paths of the values that name it."""
    found: dict[str, list[str]] = {}
    for path, node in all_nodes(shot):
        kind = registry().get(kind_of(path), node.kind)
        for name in kind.file_names if kind is not None else ():
            file = node.values.get(name)
            if isinstance(file, str) and file:
                found.setdefault(file, []).append(value_path(path, name))
    return found


def weight_of(shot: Shot) -> int:
    """Return how many bytes a shot's media have."""
    return sum(part.stat().st_size for file in files_in(shot) for part in parts_of(file))


def with_media(
    shot: Shot, home: Path, folder_for: Callable[[str, list[Path]], str]
) -> tuple[Shot, list[tuple[str, Path]], list[str]]:
    """Return a shot with its media named as they will lie in its home, their names there and where each lies now, and
    the files that are not there: they stay named as they are.

    folder_for: of a file and all its parts, the folder in the home it will lie in.
    """
    files, missing, moved = list[tuple[str, Path]](), list[str](), shot
    for file, paths in files_in(shot).items():
        parts = parts_of(file)
        if not parts:
            missing.append(file)
            continue
        inner = folder_for(file, parts)
        files += [(f"{inner}/{part.name}", part) for part in parts]
        for value in paths:
            moved = set_value(moved, value, str(home / inner / Path(file).name))
    return moved, files, missing


def write_starter(path: Path, shot: Shot, about: About, picture: bytes = b"", *, carries: bool = True) -> None:
    """Write a starter, whole or not at all. Raises SaveFailed.

    carries: its media go along; else they stay where they are. A file that is not there stays named, to be found.
    """
    inner = [file for file in files_in(shot) if file.endswith(SHOT_SUFFIX)]
    if carries and inner:
        raise SaveFailed("a starter carries no shot files", where=inner[0], cure="render it to a clip, and use that")
    numbers = {file: f"{MEDIA}/{number:03d}" for number, file in enumerate(files_in(shot), 1)}
    moved, carried, _ = with_media(shot, _HERE, lambda file, _: numbers[file]) if carries else (shot, [], [])
    media = tuple(Carried(name, part.stat().st_size) for name, part in carried)
    described = msgspec.structs.replace(about, fonts=faces_in(shot), media=media)
    data = msgspec.json.format(
        msgspec.json.encode({"nimble_quake_starter": FORMAT, **msgspec.to_builtins(described)}), indent=1
    )

    def put(target: Path) -> None:
        with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as out:
            out.writestr(_entry(ABOUT), data)
            out.writestr(_entry(SHOT), shot_bytes(moved, _HERE))
            if picture:
                out.writestr(_entry(PICTURE), picture, zipfile.ZIP_STORED)
            for name, part in carried:
                with part.open("rb") as source, out.open(_entry(name), "w") as inside:
                    shutil.copyfileobj(source, inside, 1 << 20)

    write_whole(path, put)


_HERE = Path("/nimble-quake-starter")
"""Stands for the folder a starter's shot lies in, while it is written."""


def _entry(name: str) -> zipfile.ZipInfo:
    """An entry without the time it was made: the same starter is the same file."""
    return zipfile.ZipInfo(name, (2020, 1, 1, 0, 0, 0))


def parts_of(file: str) -> list[Path]:
    """Return the files behind a name: one, or all of a numbered sequence; none where they are gone."""
    if "#" in Path(file).name:
        return [Path(part) for _, part in numbered(file)]
    return [Path(file)] if Path(file).is_file() else []


# Read


def about_of(path: Path) -> About:
    """Return what is said of a starter. Raises ShotError."""
    with _opened(path) as packed:
        return _about(packed, path)


def picture_in(path: Path) -> bytes:
    """Return the moving picture of a starter; nothing where it has none. Raises ShotError."""
    with _opened(path) as packed:
        if PICTURE not in packed.namelist() or packed.getinfo(PICTURE).file_size > MOST_PICTURE:
            return b""
        return packed.read(PICTURE)


def shot_in(path: Path) -> Shot:
    """Return the shot of a starter whose media are not unpacked: to be looked at. Raises ShotError."""
    with _opened(path) as packed:
        return shot_from(_shot_bytes(packed, path), path)


def mark_of(path: Path) -> str:
    """Return what tells a starter from all others, by what is in it. Raises ShotError."""
    with _opened(path) as packed:
        content = repr([(info.filename, info.CRC, info.file_size) for info in packed.infolist()])
    return hashlib.sha256(content.encode("utf-8", "surrogateescape")).hexdigest()[:24]


def unpacked(path: Path, folder: Path) -> Shot:
    """Unpack a starter's media into a folder, all or none, and return its shot. Raises ShotError.

    A folder that is there was unpacked from the same starter: nothing is written again.
    """
    with _opened(path) as packed:
        _about(packed, path)
        data = _shot_bytes(packed, path)
        if not folder.is_dir():
            _unpack(packed, path, folder)
    return shot_from(data, folder / SHOT)


def _unpack(packed: zipfile.ZipFile, path: Path, folder: Path) -> None:
    names = [info for info in packed.infolist() if info.filename.startswith(f"{MEDIA}/") and not info.is_dir()]
    beside = unfinished_folder(folder)
    try:
        for info in names:
            target = beside / PurePosixPath(info.filename)
            target.parent.mkdir(parents=True, exist_ok=True)
            with packed.open(info) as source, target.open("wb") as out:
                shutil.copyfileobj(source, out, 1 << 20)
        beside.rename(folder)
    except _BROKEN as wrong:
        if folder.is_dir():
            return  # another thread, or another window, was faster: it unpacked the same
        why = (wrong.strerror if isinstance(wrong, OSError) else "") or str(wrong)
        raise ShotError(f"its media cannot be unpacked: {why}", where=str(path), cure="free some room") from wrong
    finally:
        removed(beside)


@contextmanager
def _opened(path: Path) -> Iterator[zipfile.ZipFile]:
    """A starter's zip, looked at before anything of it is read: what it unpacks to, and where. Raises ShotError."""
    try:
        packed = zipfile.ZipFile(path)
    except FileNotFoundError as wrong:
        raise ShotError("the file is not there", where=str(path), cure="check its name") from wrong
    except (OSError, zipfile.BadZipFile, ValueError, NotImplementedError) as wrong:
        raise ShotError(f"the file cannot be read: {wrong}", where=str(path), cure=NOT_ONE) from wrong
    with packed:
        _refuse(packed, path)
        yield packed


def _refuse(packed: zipfile.ZipFile, path: Path) -> None:
    """Refuse what climbs out, what is there twice, what is more than a starter has. Raises ShotError."""
    infos = packed.infolist()
    names = [info.filename for info in infos]
    if len(names) > MOST_FILES or sum(info.file_size for info in infos) > MOST_UNPACKED:
        what = f"it holds over {MOST_FILES:,} files, or unpacks to over {MOST_UNPACKED >> 30} GB"
        raise ShotError(what, where=str(path), cure="is it one of ours?")
    for info in infos:
        parts = PurePosixPath(info.filename).parts
        climbs = ".." in parts or info.filename.startswith("/") or "\\" in info.filename or ":" in info.filename
        linked = (info.external_attr >> 16) & 0o170000 == 0o120000
        if climbs or linked or "\0" in info.filename:
            raise ShotError(f"it holds {shown(info.filename)}, which leads out of it", where=str(path), cure=NOT_ONE)
    if len(set(names)) < len(names) or ABOUT not in names or SHOT not in names:
        raise ShotError("it holds no starter, or one twice", where=str(path), cure=NOT_ONE)
    if packed.getinfo(ABOUT).file_size > 1_000_000 or packed.getinfo(SHOT).file_size > MOST_BYTES:
        raise ShotError("its shot is larger than we open", where=str(path), cure="is it one of ours?")


def _about(packed: zipfile.ZipFile, path: Path) -> About:
    raw = _json(packed, path)
    format = raw.get("nimble_quake_starter")
    if not isinstance(format, int) or isinstance(format, bool) or not 1 <= format <= FORMAT:
        what = f"its format is {shown(format)}, we read up to {FORMAT}"
        raise ShotError(what, where=str(path), cure="open it with a newer version")
    try:
        found = msgspec.convert({key: value for key, value in raw.items() if key in About.__struct_fields__}, About)
    except msgspec.ValidationError as wrong:
        raise ShotError(f"what is said of it cannot be read: {wrong}", where=str(path), cure=NOT_ONE) from wrong
    return msgspec.structs.replace(found, name=found.name[:200], group=found.group[:60], words=found.words[:500])


def _json(packed: zipfile.ZipFile, path: Path) -> dict[str, Json]:
    try:
        raw = msgspec.json.decode(packed.read(ABOUT))
    except _BROKEN as wrong:
        raise ShotError(f"what is said of it cannot be read: {wrong}", where=str(path), cure=NOT_ONE) from wrong
    if not isinstance(raw, dict):
        raise ShotError("what is said of it cannot be read", where=str(path), cure=NOT_ONE)
    return raw


def _shot_bytes(packed: zipfile.ZipFile, path: Path) -> bytes:
    try:
        return packed.read(SHOT)
    except _BROKEN as wrong:
        raise ShotError(f"its shot cannot be read: {wrong}", where=str(path), cure=NOT_ONE) from wrong
