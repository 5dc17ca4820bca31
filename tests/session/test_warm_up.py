"""What people look at waits for no compiler: all that operators and samples ask for is in the list of kernels.

A seed draws a part of them; `make test-all` walks all, and finds what the list names for nobody.
"""

from __future__ import annotations

import subprocess
import sys

from conftest import ALL, SEED
from nimble_quake.kernels import known
from nimble_quake.kernels.kernel import Kernel

CODE = """
import random, sys
from nimble_quake.kernels.known import known
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.samples import sample_path, samples
from nimble_quake.session.warm_up import asked_for, works
from nimble_quake.shotfile.files import read_shot

def under_way(name):
    shot = read_shot(sample_path(name))
    frame_picture(frame_job(Engine(), shot, shot.length * 2 // 3), 0.5)

walks = [*works(), *(lambda name=name: under_way(name) for name in samples())]
part = float(sys.argv[1])
drawn = random.Random(sys.argv[2]).sample(walks, round(part * len(walks)))
with asked_for() as found:
    for walk in drawn:
        walk()
asked = {kernel.line(types) for kernel, types in found}
print(len(asked))
print(sorted(asked - set(known())))
print(sorted(set(known()) - asked - set(known(demo=True))) if part == 1 else [])
"""


def test_the_list_names_all_that_is_asked_for_and_nothing_else():
    """Samples at half size, as the window shows them, where everything is under way; in a process of its own.

    `python tools/list_kernels.py` makes the list anew.
    """
    words = ["1", "all"] if ALL else ["0.2", SEED]
    done = subprocess.run([sys.executable, "-c", CODE, *words], capture_output=True, text=True, check=True)
    asked, missing, unneeded = done.stdout.splitlines()
    assert int(asked) > 50
    assert missing == "[]"
    assert unneeded == "[]"


def test_every_line_is_a_kernel():
    for line in known.known():
        found = known.kernel_of(line)
        assert found is not None
        assert isinstance(found[0], Kernel)
        assert found[0].line(found[1]) == line
    assert 0 < len(known.known(demo=True)) < len(known.known()) / 4


def test_a_line_that_no_longer_fits_is_passed_over(monkeypatch):
    assert known.kernel_of("raster.nowhere._gone f2C") is None
    assert known.kernel_of("raster.rows.in_bands f2C") is None
    known.compile_line("raster.nowhere._gone f2C")
    known.compile_line("raster.blend._over nonsense")
