"""What an installed package adds by one file each: an operator, a driver and a format, with their rows in the docs."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest

from nimble_quake.declared.discovery import classes_in

DOCS = Path(__file__).parents[2] / "docs"
FILES = {
    "lanterns-1.0.dist-info/METADATA": "Metadata-Version: 2.1\nName: lanterns\nVersion: 1.0\n",
    "lanterns-1.0.dist-info/entry_points.txt": """
[nimble_quake.operators]
halved = lanterns.halved:Halved
[nimble_quake.drivers]
steps = lanterns.steps:Steps
[nimble_quake.formats]
ppm = lanterns.ppm:FORMAT
""",
    "lanterns/__init__.py": "",
    "lanterns/halved.py": '''
from nimble_quake.operators.steps import PointShaper
from nimble_quake.params.kinds import Number
from nimble_quake.raster.colour.pointwise import LINEAR, op


class Halved(PointShaper):
    """Brings a map nearer to black."""

    title = "Halved"
    help = "Brings a map nearer to black"
    much = Number(label="Much", help="What is left", default=0.5, hard=(0, 1))

    def ops(self, rest):
        return (op(LINEAR, self.much),)
''',
    "lanterns/steps.py": '''
from nimble_quake.motion.driver import Driver
from nimble_quake.params.kinds import Number


class Paced(Driver):
    """Inherited parameters count too."""

    pace = Number(label="Pace", help="Frames to a step", default=4, hard=(1, 100))


class Steps(Paced):
    """Goes up by one every so many frames."""

    title = "Steps"
    help = "Goes up by one every so many frames"

    def course(self, moment, number, size):
        return float(moment.frame // self.pace)
''',
    "lanterns/ppm.py": """
import numpy as np

from nimble_quake.export.encoders.stills import pictures
from nimble_quake.raster.colour.convert import to_rgba8


def pack(picture, target):
    rgb = np.ascontiguousarray(to_rgba8(picture)[..., :3])
    return b"P6 %d %d 255 " % (rgb.shape[1], rgb.shape[0]) + rgb.tobytes()


FORMAT = pictures("ppm", "PPM pictures", ".ppm", "plain bytes", pack)
""",
}
CODE = """
import sys
from pathlib import Path
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven
from nimble_quake.render.engine import Engine
from nimble_quake.session.reference import reference, with_formats
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot, write_shot

folder = Path(sys.argv[1])
moving = Driven(0.1, 0.1, drivers()["steps"]({"pace": 2.0}))
flat = Node(id="f", kind="flat", values={"at_rest": False, "value": 1.0})
recipe = (flat, Node(id="h", kind="halved", values={"much": moving}))
plate = Plate(id="p", kind="pattern", values={"map": "m", "colours": "own"})
shot = Shot(width=4, height=2, length=5, plates=(plate,), maps=(Map(id="m", name="", recipe=recipe),))
write_shot(shot, folder / "s.nquake")
assert read_shot(folder / "s.nquake") == shot
for file in render(Order(shot, folder / "o.ppm", 0, 4, format=format_named("ppm")), Engine()).files:
    print(file.read_bytes()[11:12].hex())
page = reference()
for row in ("### Halved (`halved`", "| `much` ~ | Much |", "### Steps (`steps`, version 1)", "| `pace` ~ |"):
    assert row in page, row
assert "| `ppm` | .ppm | PPM pictures: plain bytes |" in with_formats((Path(sys.argv[2]) / "formats.md").read_text())
"""


def test_an_operator_a_driver_and_a_format_are_one_file_each(tmp_path: Path) -> None:
    """Kept in a file, rendered, and described; nothing else was edited."""
    for name, text in FILES.items():
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_text(text)
    environment = {**os.environ, "PYTHONPATH": str(tmp_path)}
    line = [sys.executable, "-c", CODE, str(tmp_path), str(DOCS)]
    done = subprocess.run(line, env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert [int(code, 16) for code in done.stdout.split()] == [26, 26, 51, 51, 77]


@pytest.mark.parametrize("text", ["", "class A(Base): pass\nclass B(Base): pass"])
def test_a_module_with_none_or_two_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, text: str) -> None:
    (tmp_path / "theirs").mkdir()
    (tmp_path / "theirs" / "__init__.py").write_text("class Base: pass\n")
    (tmp_path / "theirs" / "one.py").write_text("from theirs import Base\n" + text)
    monkeypatch.syspath_prepend(str(tmp_path))
    theirs = __import__("theirs")
    try:
        with pytest.raises(TypeError, match=r"theirs\.one must define exactly one Base"):
            classes_in("theirs", theirs.Base)
    finally:
        for name in ("theirs", "theirs.one"):
            sys.modules.pop(name, None)
