"""A shot is collected: it, its media and what was tracked in them, in one folder or zip."""

from __future__ import annotations

from pathlib import Path

from nimble_quake.analysis.side_files import content_name
from nimble_quake.session.verbs.tracking import track_folders
from nimble_quake.session.work import Work
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.collected import Collection, collect, collection
from nimble_quake.shotfile.names import file_stem
from nimble_quake.shotfile.starter_file import files_in


def needed_by(shot: Shot, home: Path | None) -> Collection:
    """Return what a shot needs. home: its file, beside which its tracks lie."""
    name = home.stem if home is not None else file_stem(shot.name)
    return collection(shot, name, _tracks(shot, home))


def _tracks(shot: Shot, home: Path | None) -> list[Path]:
    """What was tracked in its clips; each is kept by what is in the clip, wherever that lies."""
    found: dict[str, Path] = {}
    for folder in track_folders(home):
        if folder.is_dir():
            for file in files_in(shot):
                if Path(file).is_file():
                    path = folder / f"{content_name(file)}.npz"
                    if path.name not in found and path.is_file():
                        found[path.name] = path
    return list(found.values())


def collect_all(what: Collection, to: Path, work: Work) -> Path:
    """Copy all of it; `work` counts thousands of bytes. Raises BadInput, SaveFailed, Cancelled."""
    work.total = max(1, what.size // 1000)
    done = 0

    def step(more: int) -> bool:
        nonlocal done
        done += more
        work.done = min(work.total, done // 1000)
        return not work.stopped

    return collect(what, to, step)
