"""Files of a shot that are not where they were: found again, all of them, by one folder."""

from __future__ import annotations

import os
from pathlib import Path

from nimble_quake.media.flipbook import numbered
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.paths import all_nodes, kind_of, value_path

MOST_FILES = 100_000
"""Files that are looked at in a folder and all that is in it."""


def missing_files(session: Session) -> dict[str, list[str]]:
    """Return the files that are not there, and the paths of the values that name each."""
    found: dict[str, list[str]] = {}
    for path, node in all_nodes(session.shot):
        kind = session.engine.operators.get(kind_of(path), node.kind)
        for name in kind.file_names if kind is not None else ():
            file = node.values.get(name)
            if isinstance(file, str) and file and not session.engine.media.there(file):
                found.setdefault(file, []).append(value_path(path, name))
    return found


def find_in(session: Session, folder: Path) -> tuple[int, int]:
    """Name missing files that lie in a folder, or in one inside it, anew, as one step. Returns how many, of how many.

    Of several of one name the one whose folders are most alike is taken.
    """
    missing = missing_files(session)
    places = _places(folder, {Path(file).name for file in missing})
    shot, done = session.shot, 0
    for file, paths in missing.items():
        there = max(places.get(Path(file).name, ()), key=lambda place: _alike(Path(file), place), default=None)
        if there is None:
            continue
        done += 1
        for path in paths:
            shot = set_value(shot, path, str(there))
    if done:
        session.edit(f"Find {done} {'file' if done == 1 else 'files'}", shot)
    return done, len(missing)


def _places(folder: Path, names: set[str]) -> dict[str, list[Path]]:
    """Where files of these names lie; numbered pictures by their pattern."""
    found: dict[str, list[Path]] = {}
    seen = 0
    for root, _, files in os.walk(folder):
        seen += len(files)
        if seen > MOST_FILES:
            break
        here = set(files)
        for name in names:
            path = Path(root) / name
            if name in here or ("#" in name and numbered(str(path))):
                found.setdefault(name, []).append(path)
    return found


def _alike(one: Path, other: Path) -> int:
    """How many folders at the end of two names are the same."""
    count = 0
    for a, b in zip(reversed(one.parts), reversed(other.parts), strict=False):
        if a != b:
            break
        count += 1
    return count
