"""What worker threads may do with Qt."""

from __future__ import annotations

import subprocess
import sys

RACE = """
import os, sys, threading
import numpy as np
from nimble_quake.desktop.viewers.viewer import image_of
sys.setswitchinterval(1e-6)
wrong = 0
for _ in range(60):
    child = os.fork()
    if child == 0:
        gate, found = threading.Barrier(6), []
        def make():
            gate.wait()
            found.append(image_of(np.zeros((4, 4, 4), np.uint8)).width())
        threads = [threading.Thread(target=make) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        os._exit(0 if found == [4] * 6 else 1)
    wrong += os.waitpid(child, 0)[1] != 0
print(wrong)
"""


def test_the_first_pictures_may_be_made_on_many_threads_at_once():
    """PyQt makes an enumeration when it is first asked for; asked by two threads at once, it made two, and no picture
    was shown any more."""
    done = subprocess.run([sys.executable, "-c", RACE], capture_output=True, text=True, check=True, timeout=120)
    assert done.stdout.strip() == "0"
