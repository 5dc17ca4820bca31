"""After all kernels were called once, what people look at first waits for no compiler; the list of them is right."""

from __future__ import annotations

import subprocess
import sys

import pytest

from nimble_quake.kernels import known
from nimble_quake.kernels.kernel import Kernel

CODE = """
from nimble_quake.kernels.known import known, line_of
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import Engine, Job
from nimble_quake.samples import sample_path, samples
from nimble_quake.session.warm_up import asked_for, warm_up
from nimble_quake.shotfile.files import read_shot

with asked_for() as before:
    warm_up()
with asked_for() as later:
    for name in samples():
        shot = read_shot(sample_path(name))
        frame_picture(Job(Engine(), shot, shot.length * 2 // 3), 0.5)
print(sorted(line_of(*each) for each in later if each not in before))
print(sorted(set(line_of(*each) for each in before) - set(known())))
print(sorted(set(known()) - set(line_of(*each) for each in (*before, *later)) - set(known(demo=True))))
"""


@pytest.fixture(scope="module")
def said() -> list[str]:
    """What a walk over all operators and samples asks for, beside what was expected, in a process of its own."""
    done = subprocess.run([sys.executable, "-c", CODE], capture_output=True, text=True, check=True)
    return done.stdout.splitlines()


def test_no_sample_asks_for_a_kernel_that_was_not_called(said):
    """At half size, as the window shows them, where everything is under way."""
    assert said[0] == "[]"


def test_the_list_names_all_and_nothing_else(said):
    """`python tools/list_kernels.py` makes it anew."""
    assert said[1:] == ["[]", "[]"]


def test_every_line_is_a_kernel():
    for line in known.known():
        found = known.kernel_of(line)
        assert found is not None
        assert isinstance(found[0], Kernel)
        assert known.line_of(*found) == line
    assert 0 < len(known.known(demo=True)) < len(known.known()) / 4


def test_a_line_that_no_longer_fits_is_passed_over(monkeypatch):
    assert known.kernel_of("raster.nowhere._gone f2C") is None
    assert known.kernel_of("raster.rows.in_bands f2C") is None
    known.compile_line("raster.nowhere._gone f2C")
    known.compile_line("raster.blend._over nonsense")
