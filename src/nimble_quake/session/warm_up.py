"""Compile kernels beforehand, so that no window ever waits for a compiler: `python -m nimble_quake.session.warm_up`.

Without words it compiles all that are known, on all cores; with --demo those of the demo's first pictures. With --all
it walks every operator and every sample, which finds those too that no list names. With --low it gives way to all else
on the machine, and prints how far it is: "done total", a line each time. With --ship FOLDER it compiles for the
processors of the last ten years, into a folder that goes into the package.
"""

from __future__ import annotations

import contextlib
import os
import sys
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

import numpy as np

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.kernels import store
from nimble_quake.kernels.kernel import Kernel, Native
from nimble_quake.kernels.known import compile_known
from nimble_quake.operators.base import Operator
from nimble_quake.operators.registry import registry
from nimble_quake.raster.colour.blend import blend_onto, flat
from nimble_quake.raster.colour.convert import premultiplied, to_rgba8, to_screen
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.noise.gradient_noise import noise3
from nimble_quake.raster.sampling.sample import FILTERS, fetch
from nimble_quake.raster.shapes.gradient import looked_up
from nimble_quake.raster.warps.offsets import scaled_offsets
from nimble_quake.render.chain.combine import combined
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples import FOLDER, crossing_path, crossings, samples
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot


def warm_up() -> None:
    """Call each kernel with the kinds of array it meets."""
    for work in works():
        work()
    store.set_complete()


def works() -> list[Callable[[], None]]:
    """Return what asks for all kernels: one for each operator, setting, sample and crossing."""
    first: list[Callable[[], None]] = [_samplers, *_map_kernels(), _converters, *_pictures()]
    return [*first, *(partial(_sampled, name) for name in samples()), *(partial(_crossed, n) for n in crossings())]


@contextlib.contextmanager
def asked_for() -> Iterator[list[tuple[Kernel, tuple[str, ...]]]]:
    """Note which kernels are asked for, with which types, in the order they come first."""
    found: dict[tuple[Kernel, tuple[str, ...]], None] = {}
    noted: list[tuple[Kernel, tuple[str, ...]]] = []
    own = Kernel.native

    def native(kernel: Kernel, types: tuple[str, ...]) -> Native:
        if (kernel, types) not in found:
            found[kernel, types] = None
            noted.append((kernel, types))
        return own(kernel, types)

    Kernel.native = native  # type: ignore[method-assign,assignment]  # only while it is looked at
    try:
        yield noted
    finally:
        Kernel.native = own  # type: ignore[method-assign]  # as it was


def _samplers() -> None:
    """What every frame needs."""
    grid = frame_grid(48, 48)
    noise3(0.1, 0.2, 0.3)
    picture = flat(grid.shape, (0.1, 0.2, 0.3, 1.0))
    for mode in ("normal", "screen"):
        blend_onto(picture, picture[:40, :40].copy(), mode=mode)
        blend_onto(picture, picture[4:40, 4:40], mode=mode)
    warp = np.zeros((2, *grid.shape), np.float32)
    for filter in FILTERS:
        for moves in (None, warp):
            fetch(picture, grid, affine.IDENTITY, moves, filter=filter)
            fetch(picture[4:, 4:], grid, affine.IDENTITY, moves, filter=filter)
            fetch(picture, grid, affine.stretch(0.5, 0.5), moves, filter=filter)
    to_screen(picture)
    to_screen(picture[4:, 4:])
    to_rgba8(picture)


def _converters() -> None:
    """What reads pictures."""
    for kind in (np.uint8, np.uint16):
        premultiplied(np.zeros((48, 48, 4), kind))


def _map_kernels() -> Iterator[Callable[[], None]]:
    """The kernels of maps, on the kinds of array a recipe hands them."""
    yield _planes
    for operator in registry().all("source") + registry().all("shaper"):
        settings = [{}, {"turn": 30.0}, *(values for _, _, values in operator.looks)]
        for values in settings:
            known = {name: value for name, value in values.items() if name in operator.declared}
            yield partial(_recipe, operator, known)
        if operator.family == "shaper":
            yield partial(_recipe, operator, {}, before="colour_ramp")


def _planes() -> None:
    """Arrays that are whole, and cut out of larger ones."""
    grid = frame_grid(48, 48)
    values = np.zeros((*grid.shape, 4), np.float32)
    table = np.zeros((9, 1), np.float32)
    t = np.zeros(grid.shape, np.float32)
    for channels in (1, 4):
        looked_up(np.repeat(table, channels, axis=1), t)
        field = np.ascontiguousarray(values[..., :channels])
        combined(field, field, "add", 0.5)
    for plane in (t, values[..., 0]):
        for other in (t, values[..., 0]):
            scaled_offsets(plane, other, 0.5, 1.0, 1.0)


def _recipe(operator: type[Operator], values: dict[str, object], before: str = "noise") -> None:
    """A small map that ends in an operator."""
    step = Node(id="s", kind=operator.kind, values=values)
    first = () if operator.family == "source" else (Node(id="b", kind="noise"), Node(id="c", kind=before))
    map = Map(id="m", name="", recipe=(*first, step))
    shot = Shot(width=96, height=72, maps=(map,))
    map_field(frame_job(Engine(), shot, 3), map, frame_grid(96, 72))


def _pictures() -> Iterator[Callable[[], None]]:
    """The kernels of plates and of what is done to them."""
    for kind in registry().all("plate"):
        yield partial(_picture, Plate(id="p", kind=kind.kind))
    for family in ("quake", "finish", "shaper"):
        for effect in registry().all(family):
            lively = effect.lively
            values = {name: value for name, value in lively.items() if name in effect.declared}
            node = Node(id="e", kind=effect.kind, values=values)
            yield partial(_picture, Plate(id="p", kind="pattern", values={"map": "m"}, effects=(node,)))
            yield partial(_picture, Plate(id="p", kind="shape", effects=(node,)))


def _picture(plate: Plate) -> None:
    """A small picture of a plate, at full and at half size."""
    map = Map(id="m", name="", recipe=(Node(id="n", kind="noise"),))
    shot = Shot(width=96, height=72, maps=(map,), plates=(plate, Plate(id="below", kind="fill")))
    _looked_at(shot, (1.0, 0.5))


def _sampled(name: str) -> None:
    """What the sample shots ask for, clips and sounds too: near their beginning, and when things are on their way."""
    shot = read_shot(FOLDER / f"{name}.nquake")
    _looked_at(shot, (0.1,), (3, shot.length // 4))
    _looked_at(shot, (0.5,), (shot.length // 2,))


def _crossed(name: str) -> None:
    """What a crossing asks for before and after its middle."""
    shot = read_shot(crossing_path(name))
    _looked_at(shot, (0.5,), (shot.length * 2 // 5, shot.length * 3 // 5))


def _looked_at(shot: Shot, scales: tuple[float, ...], frames: tuple[int, ...] = (3,)) -> None:
    engine = Engine()
    for frame in frames:
        for scale in scales:
            with contextlib.suppress(NimbleQuakeError):  # a plate without its file shows nothing
                frame_picture(frame_job(engine, shot, frame), scale)


def main(words: list[str]) -> None:
    """Compile as the words after the command say."""
    if "--ship" in words:
        store.compile_to_ship(Path(words[words.index("--ship") + 1]))
    if "--low" in words:
        with contextlib.suppress(OSError):
            os.nice(10)
        compile_known(notify=lambda done, total: print(done, total, flush=True))
    elif "--ship" in words or "--all" in words:
        warm_up()
    else:
        compile_known(demo="--demo" in words)


if __name__ == "__main__":
    main(sys.argv[1:])
