"""After all kernels were called once, what people look at first waits for no compiler."""

from __future__ import annotations

import subprocess
import sys

CODE = """
from nimble_quake.kernels.kernel import Kernel
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import Engine, Job
from nimble_quake.samples import sample_path, samples
from nimble_quake.session.warm_up import warm_up
from nimble_quake.shotfile.files import read_shot

warm_up()
own, late = Kernel._made, []

def made(kernel, types):
    late.append((kernel.name, types))
    return own(kernel, types)

Kernel._made = made
for name in samples():
    shot = read_shot(sample_path(name))
    frame_picture(Job(Engine(), shot, shot.length * 2 // 3), 0.5)
print(late)
"""


def test_no_sample_asks_for_a_kernel_that_was_not_called():
    """At half size, as the window shows them, where everything is under way."""
    done = subprocess.run([sys.executable, "-c", CODE], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
