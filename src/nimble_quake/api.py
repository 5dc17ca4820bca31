"""What scripts may rely on: `import nimble_quake as nq`. The names are listed in `nimble_quake.__init__`.

Pictures go in and come out with straight colours, as image files hold them, 0...1 or 8 or 16 bits, BT.709 transfer,
origin left top: (H, W), (H, W, 3) or (H, W, 4), uint8, uint16 or float. A frame of a shot is (H, W, 4) float32. What is
not as it should be, though the work goes on, comes as a Python warning.
"""

from __future__ import annotations

import os
import tempfile
import warnings
from collections.abc import Callable, Iterable, Mapping
from fractions import Fraction
from functools import cache
from itertools import count
from pathlib import Path
from typing import Any, TypeAlias, overload

import msgspec
import numpy as np

from nimble_quake.conventions import Field, Picture, Value
from nimble_quake.declared.described import described
from nimble_quake.errors import BadInput, NimbleQuakeError, one_of
from nimble_quake.export.data import data_of, map_named, refuse_unknown
from nimble_quake.export.formats import format_of
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import Progress, render
from nimble_quake.export.shown import ClipShown, StillShown
from nimble_quake.farm.where import Where
from nimble_quake.media.drawing import faces
from nimble_quake.media.held import ArrayPool, clip_of, held
from nimble_quake.media.source import MediaSource
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.registry import registry
from nimble_quake.raster.colour.clear import has_clear, unweighted
from nimble_quake.raster.colour.convert import to_rgba8, to_rgba16
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import Problem
from nimble_quake.render.services import frame_job
from nimble_quake.session.fronts.chosen import Chosen
from nimble_quake.session.fronts.making import Measures, made
from nimble_quake.session.fronts.tables import Row, jobs, refuse_unknown_columns
from nimble_quake.session.in_step import in_step
from nimble_quake.session.limits import clamped as within_limits
from nimble_quake.session.starting.finding import find_starter
from nimble_quake.session.storage.fonts import fonts_for
from nimble_quake.session.verbs.collecting import needed_by
from nimble_quake.shot.edits import add, set_value
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, kind_of, node_path, value_name
from nimble_quake.shotfile.collected import collect as collect_files
from nimble_quake.shotfile.files import read_shot, shot_bytes, shot_from, write_shot
from nimble_quake.shotfile.starter_file import About, write_starter

PathLike = str | os.PathLike[str]
Array: TypeAlias = np.ndarray
"""A picture or a map of any of the types that go in: uint8, uint16, floats."""
Maps: TypeAlias = Array | list[Array] | None
ROUNDED = 1e-3
"""An alpha so near 1 is 1: what is sampled between pixels is a sum of weights."""
PICTURE, MAP = "<picture>", "<map>"


def open_shot(path: PathLike) -> Shot:
    """Return the shot in a .nquake file. What had to be mended in it is warned of. Raises BadInput and its like."""
    notes: list[str] = []
    shot = read_shot(Path(path), notes)
    faces.look_in(*fonts_for(Path(path)))
    for note in notes:
        warnings.warn(note, stacklevel=2)
    return shot


def new_shot(width: int = 1280, height: int = 720, *, rate: Fraction | float = 24, length: int = 120) -> Shot:
    """Return an empty shot. width, height: px. rate: frames a second. length: frames. Raises BadInput."""
    made = Shot(width=width, height=height, rate=Fraction(rate).limit_denominator(100_000), length=length)
    return shot_from(shot_bytes(made, None), Path("the new shot"))


def save_shot(shot: Shot, path: PathLike) -> None:
    """Write a shot to a .nquake file, whole or not at all; what stood there becomes its backup. Raises SaveFailed."""
    write_shot(within_limits(Shot(), shot), Path(path))


def add_plate(shot: Shot, kind: str, name: str = "", **values: object) -> tuple[Shot, str]:
    """Return the shot with a plate on top of its stack, and the plate's path. values: see docs/operators.md."""
    return add.add_plate(shot, Plate(id=name or kind, kind=kind, name=name, values=_checked("plate", kind, values)))


def add_map(shot: Shot, name: str) -> tuple[Shot, str]:
    """Return the shot with an empty map, and the map's path."""
    return add.add_map(shot, Map(id=name, name=name))


def add_step(shot: Shot, map_path: str, kind: str, **values: object) -> tuple[Shot, str]:
    """Return the shot with a source or shaper at the end of a map's recipe, and the step's path."""
    return add.add_step(shot, map_path, Node(id=kind, kind=kind, values=_checked("step", kind, values)))


def add_effect(shot: Shot, plate_path: str, kind: str, **values: object) -> tuple[Shot, str]:
    """Return the shot with a quake or finish after a plate's others, and its path."""
    return add.add_effect(shot, plate_path, Node(id=kind, kind=kind, values=_checked("effect", kind, values)))


_ARRAYS: dict[str, MediaSource] = {}
"""What scripts hold, by the names that stand for it."""
_numbers = count(1)
"""No name stands for two pictures: what was made of the first may still be remembered."""


def hold(pictures: Array | list[Array], *, rate: Fraction | float = 24) -> str:
    """Return a name that stands, wherever a shot takes a file, for a picture or a clip that the script holds.

    `nq.add_plate(shot, "still", file=nq.hold(sign))`; a list of arrays is a clip of so many pictures a second, for
    plates of the kind "clip" and steps of the kind "picture". What is saved keeps the name, not the picture. `nq.drop`
    forgets it. Raises BadInput.
    """
    exact = Fraction(rate).limit_denominator(100_000)
    if not 0 < exact <= 1000:
        raise BadInput(f"a rate of {rate}", cure="use the pictures a second, such as 24")
    name = f"<array {next(_numbers)}>"
    said = name.strip("<>")
    _ARRAYS[name] = clip_of(pictures, exact, said) if isinstance(pictures, list) else held(pictures, said)
    return name


def drop(name: str) -> None:
    """Forget what a name from `hold` stands for. Raises BadInput where it stands for nothing."""
    if _ARRAYS.pop(name, None) is None:
        raise BadInput(f'nothing is held as "{name[:60]}"', cure="give what nq.hold returned")


@cache
def _engine() -> Engine:
    """One for all calls: frame after frame a clip is read on, and what stands still is made once."""
    return Engine(media=ArrayPool(_ARRAYS))


def set_number(shot: Shot, path: str, value: object) -> Shot:
    """Return the shot with a value set: `nq.set(shot, "plates/title/size", 180.0)`; None goes back to the default.

    A motion (Keys, Rate, Formula) makes it move. Raises BadInput where the path or the value is none.
    """
    node = find(shot, node_path(path))
    if node is None:
        raise BadInput("there is nothing here", where=path, cure="look at the paths in docs/python.md")
    values = {value_name(path): value} if value is not None else {}
    checked = _checked(kind_of(node_path(path)), getattr(node, "kind", ""), values)
    return in_step(shot, set_value.set_value(shot, path, checked.get(value_name(path))))


def _checked(role: str, kind: str, values: dict[str, object]) -> dict[str, object]:
    operator = registry().get(role, kind)
    if operator is None:
        known = sorted({op.kind for op in registry().playing(role)})
        raise BadInput(f'there is no {role} "{kind}"', cure=one_of(known, kind))
    found = {}
    for name, value in values.items():
        if name not in operator.declared:
            raise BadInput(f'{kind} has no "{name}"', cure=one_of(list(operator.declared), name))
        plain = isinstance(value, str | bool | int | float | tuple | list | np.number)
        param = operator.declared[name]
        if isinstance(value, Motion) and value.clamped(param) is None:
            raise BadInput(f"{name} of {kind} cannot move so", cure="use keys with values that it takes")
        try:
            found[name] = param.check(value) if plain else value.clamped(param) if isinstance(value, Motion) else value
        except NimbleQuakeError as wrong:
            raise BadInput(f"{name} of {kind}: {wrong.what}", cure=wrong.cure) from wrong
    return found


def picture(shot: Shot, frame: float = 0, *, scale: float = 1.0) -> Picture:
    """Return a frame of a shot, (H, W, 4) float32, straight colours, as the window shows it."""
    return _as_given(_frame(shot, frame, scale), np.dtype(np.float32))


def _frame(shot: Shot, frame: float, scale: float) -> Picture:
    """A frame, premultiplied; what is not as it should be is warned of."""
    job = frame_job(_engine(), shot, frame)
    found = frame_picture(job, scale)
    _warn(job.problems.values())
    return found


def show(shot: Shot, frame: float = 0, *, scale: float = 0.5) -> StillShown:
    """Return a frame for a notebook, which shows it in its place: `nq.show(shot, 24)`."""
    return StillShown(to_rgba8(_frame(shot, frame, scale)))


def play(shot: Shot, *, frames: tuple[int, int] | None = None, scale: float = 0.5) -> ClipShown:
    """Return a clip for a notebook, which plays it in its place; it holds the clip itself, H.264."""
    with tempfile.TemporaryDirectory() as folder:
        (file,) = render_to(shot, Path(folder) / "shown.mp4", frames=frames, scale=scale)
        return ClipShown(file.read_bytes())


def describe(kind: str) -> Mapping[str, object]:
    """Return what is known of an operator: its title, its help, and each of its values with limits, unit and choices.

    kind: as in `nq.add_effect(shot, plate, kind)`. Raises BadInput that names the nearest.
    """
    known = {operator.kind: operator for operator in registry().all()}
    if kind not in known:
        raise BadInput(f'there is no "{kind}"', cure=one_of(sorted(known), kind))
    return described(known[kind], known[kind].family)


def map_values(shot: Shot, name: str, frame: float = 0, *, scale: float = 1.0) -> Field:
    """Return a map's values at a frame, (H, W, C) float32; C: 1 grey, 2 a vector, 4 colours. name: its name or id."""
    job = frame_job(_engine(), shot, frame)
    found = map_field(job, map_named(shot, name), frame_grid(shot.width, shot.height, scale))
    _warn(job.problems.values())
    return found


def data(shot: Shot, what: str, frame: float = 0, *, scale: float = 1.0) -> Picture:
    """Return what a shot knows, (H, W, 4) float32. what: "moves:PLATE" (px), "st:PLATE", "normal:MAP" and the like."""
    refuse_unknown(shot, what)
    job = frame_job(_engine(), shot, frame)
    found = data_of(job, scale, what)
    _warn(job.problems.values())
    return found


def render_to(
    shot: Shot,
    out: PathLike,
    *,
    frames: tuple[int, int] | None = None,
    scale: float = 1.0,
    what: str = "picture",
    format: str = "",
    quality: str = "good",
    every: int = 1,
    deep: bool = False,
    alpha: str = "",
    dither: bool = False,
    limit: bool = False,
    overscan: int = 0,
    sound_rate: int = 0,
    workers: int = 0,
    progress: Callable[[Progress], None] = lambda _: None,
) -> list[Path]:
    """Render a shot to a clip or to numbered pictures, by the ending of `out`, and return its files.

    frames: the first and the last. format: a key such as "exr-float", where an ending has several. quality: best, good
    or small. deep: PNG with 16 bits. alpha: "straight" or "premultiplied"; empty: as the format has it. dither: soften
    the steps of soft gradients in 8 bits. limit: keep colours within 16-235. overscan: pixels beyond the frame on every
    side, OpenEXR only. sound_rate: a second, such as 48000; 0: as recorded. workers: so many processes render it.
    progress: is called after each frame; what it raises stops the render. Nothing half-written is left.
    """
    kind = format_of(Path(out), deep=deep, key=format)
    first, last = frames or (0, shot.length - 1)
    chosen, look = kind.quality_named(quality), (alpha, dither, limit, overscan, sound_rate)
    order = Order(shot, Path(out), first, last, scale, what, kind, chosen, every, *look)
    if workers:
        from nimble_quake.farm.connecting import connected

        with connected(Where(workers=workers), _engine()) as farm:
            done = render(order, _engine(), progress, by=farm)
    else:
        done = render(order, _engine(), progress)
    _warn(done.problems)
    return done.files


def collect(shot: Shot | PathLike, out: PathLike) -> Path:
    """Copy a shot with all its media into a new folder, or a .zip. Raises BadInput, SaveFailed, ShotError."""
    home = None if isinstance(shot, Shot) else Path(shot)
    found = shot if isinstance(shot, Shot) else read_shot(Path(shot))
    return collect_files(needed_by(found, home), Path(out).absolute())


def starter(name: PathLike) -> Chosen:
    """Return a starter by its name or its file, to be filled and turned: `nimble-quake list starter` lists them."""
    return Chosen(find_starter(os.fspath(name)).shot)


def save_starter(shot: Shot, path: PathLike, **about: str) -> None:
    """Write a shot as a starter file, with its media. about: name, group, words, author, licence. Raises SaveFailed."""
    wrong = sorted(set(about) - {"name", "group", "words", "author", "licence"})
    if wrong:
        raise BadInput(f'nothing is said of "{wrong[0]}"', cure="use name, group, words, author or licence")
    write_starter(Path(path), within_limits(Shot(), shot), msgspec.convert({"name": shot.name, **about}, About))


def make(chosen: Chosen, rows: Iterable[Mapping[str, Value]], out: str, **options: Any) -> list[Path]:
    """Render a starter once for each row, and return the files.

    rows: values by the names of slots and dials; size, length, rate and name too. out: a pattern such as
    "out/{name}.mp4". options: as of `render_to`. Raises NimbleQuakeError that names the row; what was made stays.
    """
    found = [Row(number, dict(row)) for number, row in enumerate(rows, 1)]
    refuse_unknown_columns(chosen.origin, list(dict.fromkeys(name for row in found for name in row.values)))
    start = made(chosen.origin, chosen.values, Measures())
    files: list[Path] = []
    for job in jobs(start, found, out, chosen.measures):
        if job.shot is None:
            raise BadInput(f"row {job.row.number}: {job.wrong}")
        job.path.parent.mkdir(parents=True, exist_ok=True)
        files += render_to(job.shot, job.path, **options)
    return files


def push(picture: Array, map: Array, reach: float, reach_y: float | None = None, **values: Value) -> Array:
    """Return a picture pushed by a map, exactly as the window does it: `nq.push(sign, noise, reach=30, edge="hold")`.

    reach: how far white pushes, px; grey rests. More values: those of the coupling "push", see docs/operators.md.
    """
    down = reach if reach_y is None else reach_y
    return couple("push", picture, map, **{"reach_x": reach, "reach_y": down, **values})


@overload
def couple(kind: str, picture: Array, map: Array | None = None, *, frame: float = 0, **values: Value) -> Array: ...
@overload
def couple(kind: str, picture: list[Array], map: Maps = None, *, frame: float = 0, **values: Value) -> list[Array]: ...
def couple(
    kind: str, picture: Array | list[Array], map: Maps = None, *, frame: float = 0, **values: Value
) -> Array | list[Array]:
    """Return a picture after one effect: a quake of any kind, or a finish.

    picture, map: see the head of this module; a map of another size is stretched over the picture. frame: of 24 a
    second, for what moves by itself. Returns straight colours of the picture's own dtype and channels; with an alpha
    where the effect made clear parts. A list of pictures is a clip from that frame on, its map may be one too; then a
    list is returned. Raises BadInput.
    """
    if isinstance(picture, list):
        maps = map if isinstance(map, list) else [map] * len(picture)
        if len(maps) != len(picture):
            raise BadInput(
                f"{len(picture)} pictures have {len(maps)} maps", cure="give one map, or one for each picture"
            )
        pairs = enumerate(zip(picture, maps, strict=True))
        return [couple(kind, one, own, frame=frame + n, **values) for n, (one, own) in pairs]
    if isinstance(map, list):
        raise BadInput("one picture has a list of maps", cure="give one map, or a list of pictures")
    source = held(picture, "picture")
    pool = ArrayPool({PICTURE: source} if map is None else {PICTURE: source, MAP: held(map, "map")})
    operator = registry().get("effect", kind)
    if map is not None and operator is not None:
        reads = next((name for name in ("map", "mask") if name in operator.declared), "")
        values = {reads: "map", **values} if reads else values
    step = Node(id="file", kind="picture", values={"file": MAP, "take": "colour", "fit": "stretch"})
    effect = Node(id="effect", kind=kind, values=_checked("effect", kind, values))
    plate = Plate(id="picture", kind="still", values={"file": PICTURE, "fit": "centre"}, effects=(effect,))
    shot = Shot(
        width=source.width,
        height=source.height,
        length=max(1, int(frame) + 1),
        plates=(plate,),
        maps=() if map is None else (Map(id="map", name="map", recipe=(step,)),),
        ground=(0.0, 0.0, 0.0, 0.0),
    )
    job = frame_job(Engine(media=pool), shot, frame)
    found = frame_picture(job)
    _warn(job.problems.values())
    return _like(_as_given(found, np.asarray(picture).dtype), np.asarray(picture))


def _like(made: Array, given: Array) -> Array:
    """A picture with the channels of another, where nothing of it is clear; grey stays grey where it is."""
    floats = np.issubdtype(made.dtype, np.floating)
    opaque = 1 - ROUNDED if floats else np.iinfo(made.dtype).max
    if (given.ndim == 3 and given.shape[2] == 4) or made[..., 3].min() < opaque:
        return made
    if given.ndim == 3 and given.shape[2] == 3:
        return made[..., :3].copy()
    if (made[..., 0] == made[..., 1]).all() and (made[..., 1] == made[..., 2]).all():
        return made[..., :1].reshape(given.shape).copy()
    return made[..., :3].copy()


def _as_given(picture: Picture, dtype: np.dtype) -> Array:
    """Straight colours of a dtype."""
    if dtype == np.uint8:
        return to_rgba8(picture)
    if dtype == np.uint16:
        return to_rgba16(picture)
    straight = unweighted(picture, 0.0) if has_clear(picture) else picture
    return np.array(straight, dtype if np.issubdtype(dtype, np.floating) else np.float32)


def _warn(problems: Iterable[Problem]) -> None:
    for problem in problems:
        warnings.warn(problem.line(), stacklevel=3)
