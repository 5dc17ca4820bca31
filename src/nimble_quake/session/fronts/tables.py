"""Tables: a row is a shot to be made, its columns are slots and dials. CSV by RFC 4180, or a JSON object a line."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TypeAlias

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.errors import BadInput, NimbleQuakeError, one_of
from nimble_quake.media.pool import file_stamp
from nimble_quake.session.fronts.making import Measures, length_of, made, rate_of, size_of
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.codec import encoded
from nimble_quake.shotfile.files import put_bytes, read_plain, write_whole
from nimble_quake.shotfile.starter_file import files_in

Cell: TypeAlias = Value
"""Words, or a value as JSON holds it."""
MOST_ROWS = 100_000
MOST_BYTES = 256_000_000
SOUND = "sound"
OWN = ("size", "length", "rate", "name", SOUND)
"""Columns that are no slot or dial: the shot's measures, a name for the file, a recording; a slot "sound" is that."""


@dataclass(frozen=True)
class Row:
    """A row of a table. number: from 1, without the head. values: by the names of its columns; empty cells are not."""

    number: int
    values: Mapping[str, Cell]


@dataclass(frozen=True)
class RowOrder:
    """A shot to be made and rendered to a file, or why it cannot be."""

    row: Row
    path: Path
    shot: Shot | None
    wrong: str = ""
    mark: str = ""
    """What tells it from every other: what it is made of, and its files as they are."""


def read_table(path: Path) -> tuple[list[str], list[Row]]:
    """Return the columns and rows of a .csv, or of a file of JSON lines. Raises BadInput with the row."""
    try:
        data = read_plain(path, MOST_BYTES)
    except FileNotFoundError as wrong:
        raise BadInput("the table is not there", where=str(path), cure="check its name") from wrong
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as wrong:
        raise BadInput("the table is no UTF-8", where=str(path), cure="save it as UTF-8") from wrong
    lines = path.suffix.lower() in (".jsonl", ".ndjson", ".json")
    columns, rows = (_json_rows if lines else _csv_rows)(text, path)
    if not rows:
        raise BadInput("the table has no rows", where=str(path), cure="give it a head of names and a row for each shot")
    return columns, rows


def _csv_rows(text: str, path: Path) -> tuple[list[str], list[Row]]:
    try:
        rows = list(csv.reader(io.StringIO(text, newline=""), strict=True))
    except csv.Error as wrong:
        raise BadInput(f"the table cannot be read: {wrong}", where=str(path), cure="see its quotes") from wrong
    if not rows:
        return [], []
    columns = [name.strip() for name in rows[0]]
    _refuse_columns(columns, path)
    _refuse_many(len(rows), path)
    found = []
    for number, cells in enumerate(rows[1:], 1):
        if not any(cell.strip() for cell in cells):
            continue
        if len(cells) != len(columns):
            what = f"row {number} has {len(cells)} cells, the head has {len(columns)}"
            raise BadInput(what, where=str(path), cure="put cells with commas into quotes")
        found.append(Row(number, {name: cell for name, cell in zip(columns, cells, strict=True) if cell != ""}))
    return columns, found


def _json_rows(text: str, path: Path) -> tuple[list[str], list[Row]]:
    columns: dict[str, None] = {}
    found = []
    for number, line in enumerate((line for line in text.splitlines() if line.strip()), 1):
        _refuse_many(number, path)
        try:
            raw = json.loads(line)
        except (ValueError, RecursionError) as wrong:
            raise BadInput(f"row {number} is no JSON: {wrong}", where=str(path), cure="one object a line") from wrong
        if not isinstance(raw, dict):
            raise BadInput(f"row {number} is no object", where=str(path), cure='write {"words": "OPEN"} a line')
        columns |= dict.fromkeys(raw)
        found.append(Row(number, {str(name): cell for name, cell in raw.items() if cell not in (None, "")}))
    return list(columns), found


def _refuse_columns(columns: Sequence[str], path: Path) -> None:
    twice = {name for name in columns if columns.count(name) > 1}
    if twice or "" in columns:
        what = f'the column "{sorted(twice)[0]}" is there twice' if twice - {""} else "a column has no name"
        raise BadInput(what, where=str(path), cure="give every column a name of its own")


def _refuse_many(count: int, path: Path) -> None:
    if count > MOST_ROWS + 1:
        raise BadInput(f"the table has over {MOST_ROWS:,} rows", where=str(path), cure="make several tables of it")


def refuse_unknown_columns(shot: Shot, columns: Sequence[str]) -> None:
    """Raise BadInput where a column is no slot, no dial and no measure."""
    known = _fronts(shot) | set(OWN)
    wrong = [name for name in columns if name.casefold() not in known]
    if wrong:
        cure = one_of([*(node.id for node in shot.front), *OWN], wrong[0])
        raise BadInput(f'"{wrong[0][:60]}" is no slot and no dial', where="the head of the table", cure=cure)


def _fronts(shot: Shot) -> set[str]:
    return {word.casefold() for node in shot.front for word in (node.id, node.name)}


def own_columns(shot: Shot) -> tuple[str, ...]:
    """Return the columns that are no slot or dial of this shot."""
    return tuple(name for name in OWN if name != SOUND or name not in _fronts(shot))


def jobs(shot: Shot, rows: Sequence[Row], pattern: str, measures: Measures) -> Iterator[RowOrder]:
    """Return what a table asks for, a job a row and size; a row that cannot be made says why.

    pattern: of the files, such as "out/{name}-{size}.mp4"; {row} is the row's number, any column may stand in it.
    """
    taken: dict[Path, int] = {}
    columns = own_columns(shot)
    for row in rows:
        own = {name.casefold(): cell for name, cell in row.values.items() if name.casefold() in columns}
        for sized in _sizes(own, measures):
            path = Path("?")
            try:
                path = _path(pattern, row, sized, shot)
                if path in taken:
                    what = f"row {taken[path]} writes {path.name} too"
                    raise BadInput(what, where="-o", cure="let {row} or a column tell them apart")
                taken[path] = row.number
                done = made(shot, {k: v for k, v in row.values.items() if k.casefold() not in own}, sized)
                yield RowOrder(row, path, done, mark=_mark(done))
            except NimbleQuakeError as wrong:
                yield RowOrder(row, path, None, wrong.line())


def _sizes(own: Mapping[str, Cell], measures: Measures) -> list[Measures]:
    """A row's measures, one for each of its sizes; what cannot be read is left to `made` to refuse."""
    try:
        if SOUND in own:
            measures = replace(measures, sound=str(own[SOUND]))
        if "length" in own:
            seconds, by_sound = length_of(str(own["length"]))
            measures = replace(measures, length=seconds, by_sound=by_sound)
        if "rate" in own:
            measures = replace(measures, rate=rate_of(str(own["rate"])))
        sizes = re.split(r"[;,\s]+", str(own["size"]).strip()) if "size" in own else []
        return [replace(measures, size=size_of(size)) for size in sizes] or [measures]
    except (ValueError, NimbleQuakeError):
        return [replace(measures, length=-1.0)]


def _path(pattern: str, row: Row, measures: Measures, shot: Shot) -> Path:
    """The file of a row. Raises BadInput where the pattern names what is not there."""
    size = measures.size or (shot.width, shot.height)
    words = {"row": f"{row.number:04d}", "size": f"{size[0]}x{size[1]}", "name": f"{row.number:04d}"}
    words |= {name.casefold(): _plain(cell) for name, cell in row.values.items() if name.casefold() != "size"}

    def word(found: re.Match[str]) -> str:
        name = found.group(1).strip().casefold()
        if name not in words:
            raise BadInput(f"{{{found.group(1)}}} is no column", where="-o", cure=one_of(list(words), name))
        return words[name]

    return Path(re.sub(r"\{([^{}]*)\}", word, pattern))


def _plain(cell: Cell) -> str:
    """A cell as a part of a file's name: no folders, no dots at its start."""
    found = re.sub(r"[^\w.+-]+", "-", str(cell)).strip("-.")[:80]
    return found or "empty"


def _mark(shot: Shot) -> str:
    """What a shot is made of: itself, and its files as they are."""
    files = sorted(files_in(shot))
    content = msgspec.json.encode([encoded(shot), [(file, file_stamp(file)) for file in files]])
    return hashlib.sha256(content).hexdigest()[:24]


# What was made before


class Made:
    """What a batch has finished, kept beside its files: a second run renders nothing twice."""

    NAME = ".nimble-quake-made.json"

    def __init__(self) -> None:
        self._known: dict[Path, dict[str, list[str]]] = {}

    def has(self, job: RowOrder, way: str) -> bool:
        """Return whether a job's files are there, made of the same. way: how they are rendered."""
        mark, *files = self._of(job.path.parent).get(job.path.name, [""])
        return mark == f"{job.mark} {way}" and all((job.path.parent / file).exists() for file in files)

    def finished(self, job: RowOrder, way: str, files: Sequence[Path]) -> None:
        """Remember that a job is done. What cannot be kept is rendered again the next time."""
        folder = job.path.parent
        known = self._of(folder)
        known[job.path.name] = [f"{job.mark} {way}", *(file.name for file in files)]
        try:
            write_whole(folder / self.NAME, lambda target: put_bytes(target, msgspec.json.encode(known)), flush=False)
        except NimbleQuakeError:
            return

    def _of(self, folder: Path) -> dict[str, list[str]]:
        if folder not in self._known:
            try:
                raw = msgspec.json.decode(read_plain(folder / self.NAME, 64_000_000), type=dict[str, list[str]])
            except (OSError, NimbleQuakeError, ValueError):
                raw = {}
            self._known[folder] = {name: entry for name, entry in raw.items() if entry}
        return self._known[folder]


def only(rows: Sequence[Row], text: str) -> list[Row]:
    """Return the rows of "3-7,12". Raises BadInput."""
    wanted: set[int] = set()
    for part in text.split(","):
        found = re.fullmatch(r"\s*(\d+)\s*(?:-\s*(\d+)\s*)?", part)
        if not found:
            raise BadInput(f'"{text[:40]}" names no rows', where="--only", cure="write it as 3-7 or 2,5,9")
        first, last = int(found.group(1)), int(found.group(2) or found.group(1))
        wanted |= {row.number for row in rows if first <= row.number <= last}
    return [row for row in rows if row.number in wanted]
