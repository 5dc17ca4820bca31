"""`nimble-quake make STARTER -o OUT`: a starter filled, turned and rendered; or one render for each row of a table."""

from __future__ import annotations

import csv
import json
import sys
from pathlib import Path
from typing import Annotated

from nimble_quake.cli import outputs as take
from nimble_quake.cli.options import in_folder, range_of, refuse_what_is_there, render_shown
from nimble_quake.cli.words import Argument, Option
from nimble_quake.errors import BadInput, NimbleQuakeError
from nimble_quake.farm.where import Where
from nimble_quake.session.fronts.making import SHAPES, TIMES, Measures, length_of, made, rate_of, size_of
from nimble_quake.session.fronts.tables import Made, RowOrder, jobs, only, read_table, refuse_unknown_columns
from nimble_quake.session.starting.finding import find_starter
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import SUFFIX, write_shot, write_whole


def run(
    starter: Annotated[str, Argument("A starter's name, or its file: see nimble-quake list starter")],
    out: Annotated[
        str, Option("-o", "--out", help="As of render; .nquake writes the shot; with --table {column} stands for it")
    ],
    slot: Annotated[tuple[str, ...], Option(help="NAME=FILE or NAME=words, once for each slot")] = (),
    dial: Annotated[tuple[str, ...], Option(help="NAME=VALUE, once for each dial: 40, 40%, 1,2, #ffcc00")] = (),
    table: Annotated[Path | None, Option(help="A render for each row of a .csv or .jsonl")] = None,
    size: Annotated[str, Option(help="Width and height, such as 1080x1350")] = "",
    length: Annotated[str, Option(help="Seconds, or: sound, as long as its sound")] = "",
    sound: Annotated[str, Option(help="A recording that it gets, from its start")] = "",
    rate: Annotated[str, Option(help="Frames a second, such as 25 or 24000/1001")] = "",
    times: Annotated[str, Option(help="With --length: stretch what happens, or keep its seconds")] = "stretch",
    shape: Annotated[str, Option(help="In another shape of frame: fit, fill, or keep its size")] = "fit",
    scale: Annotated[str, Option(help="Share of that size that is rendered, such as 50%")] = "100%",
    frames: take.FRAMES = "",
    quality: take.QUALITY = "good",
    rows: Annotated[str, Option("--only", help="Rows of the table, such as 3-7 or 2,5")] = "",
    dry: Annotated[bool, Option("--dry-run", help="Say what would be made, and what is wrong")] = False,
    report: Annotated[Path | None, Option(help="Write what became of each row to this .csv")] = None,
    on: Annotated[str, Option(help="Let machines render it, as of render")] = "",
    workers: Annotated[int, Option(help="Let so many processes here render it")] = 0,
    keys: Annotated[Path | None, Option(help="The folder of keys for tls, see farm-keys")] = None,
    threads: take.THREADS = 0,
    json_: take.JSON = False,
    progress: take.PROGRESS = "",
    quiet: take.QUIET = False,
    no_clobber: take.NO_CLOBBER = False,
) -> int:
    """Fill a starter and render it. Example: nimble-quake make shockwave -o a.mp4 --slot words=BOOM --dial reach=9"""
    take.on_threads(threads)
    if times not in TIMES or shape not in SHAPES:
        raise BadInput(f'"{times if times not in TIMES else shape}" is no way', cure="see nimble-quake make --help")
    found = find_starter(starter).shot
    wide = size_of(size) if size else None
    seconds, by_sound = length_of(length) if length else (None, False)
    measures = Measures(wide, rate_of(rate) if rate else None, seconds, times, shape, sound, by_sound)
    given = {**_pairs(slot, "--slot"), **_pairs(dial, "--dial")}
    where = Where(on, workers, keys.absolute() if keys else None) if on or workers else None
    said = progress or ("none" if quiet else "")
    if table is None:
        shot = made(found, given, measures)
        files = _written(shot, Path(out), (frames, take.Written(scale, quality=quality)), where, said, no_clobber)
        _say(files, json_=json_, quiet=quiet)
        return 0
    batch = _Batch(made(found, given, Measures()) if given else found, table, out, measures, rows)
    if dry:
        return batch.said_dry()
    return batch.render((frames, take.Written(scale, quality=quality)), where, said, report, json_=json_, quiet=quiet)


def _pairs(given: tuple[str, ...], option: str) -> dict[str, str]:
    found = {}
    for text in given:
        name, equals, value = text.partition("=")
        if not equals or not name.strip():
            raise BadInput(f'"{text[:60]}" names nothing', where=option, cure="write it as NAME=VALUE")
        found[name.strip()] = value
    return found


Destination = tuple[str, take.Written]
"""Frames, and how they are written."""


def _written(shot: Shot, out: Path, look: Destination, where: Where | None, said: str, no_clobber: bool) -> list[Path]:
    """Render a shot that was made, or write it as a shot file. Returns its files. Raises NimbleQuakeError."""
    if out.suffix == SUFFIX:
        write_shot(shot, in_folder(out))
        return [out]
    frames, written = look
    order = written.order(shot, out, *range_of(frames, shot.length))
    if no_clobber:
        refuse_what_is_there(order)
    return render_shown(order, where=where, progress=said).files


def _say(files: list[Path], *, json_: bool, quiet: bool) -> None:
    if json_:
        print(json.dumps({"files": [str(file) for file in files]}))
    elif not quiet:
        print(take.in_words(files))


class _Batch:
    """A table, row by row: what is finished is left alone, what goes wrong is a line of the report."""

    def __init__(self, shot: Shot, table: Path, out: str, measures: Measures, rows: str) -> None:
        columns, found = read_table(table)
        refuse_unknown_columns(shot, columns)
        self.shot, self.out, self.measures = shot, out, measures
        self.rows = only(found, rows) if rows else found
        self.results: list[tuple[int, str, str]] = []

    def said_dry(self) -> int:
        """Say what would be made. Returns 2 where a row cannot be."""
        wrong = 0
        for job in jobs(self.shot, self.rows, self.out, self.measures):
            wrong += bool(job.wrong)
            if job.shot is None:
                print(f"row {job.row.number}: {job.wrong}")
            else:
                size, seconds = f"{job.shot.width}x{job.shot.height}", job.shot.length / float(job.shot.rate)
                print(f"row {job.row.number}: {job.path}  {size}, {seconds:g} s")
        return 2 if wrong else 0

    def render(
        self, look: Destination, where: Where | None, said: str, report: Path | None, *, json_: bool, quiet: bool
    ) -> int:
        """Render all rows. Returns 1 where one could not be."""
        before, files, way = Made(), list[str](), f"{look}"
        for count, job in enumerate(jobs(self.shot, self.rows, self.out, self.measures), 1):
            state, wrong = "made", job.wrong
            if job.shot is not None and before.has(job, way):
                state = "there already"
            elif job.shot is not None:
                done, wrong = self._rendered(job, look, where, said)
                if not wrong:
                    before.finished(job, way, done)
                    files += [str(file) for file in done]
            state = "wrong" if wrong else state
            self.results.append((job.row.number, str(job.path), wrong or state))
            if not quiet and not json_:
                print(
                    f"{count} of {self._count()}: row {job.row.number}, {job.path.name}: {wrong or state}", flush=True
                )
            if wrong and (quiet or json_):
                print(f"row {job.row.number}: {wrong}", file=sys.stderr)
        failed = [each for each in self.results if each[2] not in ("made", "there already")]
        if report is not None:
            self._report(report)
        if json_:
            print(
                json.dumps({"files": files, "rows": [dict(zip(HEAD, result, strict=True)) for result in self.results]})
            )
        return 1 if failed else 0

    def _count(self) -> int:
        return max(len(self.rows), len(self.results))

    def _rendered(self, job: RowOrder, look: Destination, where: Where | None, said: str) -> tuple[list[Path], str]:
        """Render a job. Returns its files, and what went wrong; empty for nothing."""
        assert job.shot is not None
        try:
            job.path.parent.mkdir(parents=True, exist_ok=True)
            return _written(job.shot, job.path, look, where, said, no_clobber=False), ""
        except NimbleQuakeError as wrong:
            return [], wrong.line()
        except OSError as wrong:
            return [], f"{job.path.parent}: {wrong.strerror}"

    def _report(self, path: Path) -> None:
        write_whole(path, self._put_report)

    def _put_report(self, target: Path) -> None:
        with target.open("w", newline="", encoding="utf-8") as file:
            writer = csv.writer(file)
            writer.writerow(HEAD)
            writer.writerows(self.results)


HEAD = ("row", "file", "result")
