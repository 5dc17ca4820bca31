"""Kill a real window many times between edits, saves and autosaves; nothing may be lost: make torture KILLS=200

    python tools/torture.py [KILLS] [SEED]

Each round opens the program offscreen on the same shot, lets it edit, save and autosave as fast as it can, and kills it
(SIGKILL) at a random moment. Then the shot's file must hold the last edit that the program said it had saved, or a later
one, and the lost work the last one it said it had kept, or a later one. At the end the next start sweeps: no leftovers.
"""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

FOLDER = Path(tempfile.mkdtemp(prefix="nimble-quake-torture-"))
os.environ["NIMBLE_QUAKE_HOME"] = str(FOLDER / "home")
os.environ["QT_QPA_PLATFORM"] = "offscreen"

from nimble_quake.files import unfinished
from nimble_quake.samples import sample_path
from nimble_quake.session import leftovers
from nimble_quake.session.storage import recovery
from nimble_quake.session.storage.preferences import Preferences
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import read_shot, write_shot

SHOT = FOLDER / "a.nquake"
VALUE = "plates/title/turn"
LONGEST = 0.6
"""Seconds from the first save to the kill, at most."""

SILENT = 120.0
"""Seconds after which a window that saves nothing is broken."""

CHILD = """
import sys
from pathlib import Path
from PyQt6.QtCore import QTimer
from nimble_quake.desktop import app, window
from nimble_quake.shot.edits.set_value import set_value
number, own = int(sys.argv[2]), window.BenchWindow.show_fitted
def shown(self):
    own(self)
    def work():
        global number
        number += 1
        self.session.edit("turn", set_value(self.session.shot, "plates/title/turn", float(number)))
        if number % 3:
            self.keeping.autosave()
            print("kept", number, flush=True)
        else:
            self.files.save()
            print("saved", number, flush=True)
    self.worker = QTimer(self, interval=0)
    self.worker.timeout.connect(work)
    self.worker.start()
window.BenchWindow.show_fitted = shown
sys.exit(app.start(Path(sys.argv[1])))
"""


def turn_of(shot: Shot) -> float:
    """Return which edit a shot is."""
    plate = shot.plate("title")
    return float(plate.values.get("turn", 0.0)) if plate is not None else -1.0


def round_(number: int, rng: random.Random) -> tuple[int, str]:
    """Open, kill, look. Returns the number of the last edit that was told, and what is wrong; empty for nothing."""
    child = subprocess.Popen(
        [sys.executable, "-c", CHILD, str(SHOT), str(number)],
        stdout=subprocess.PIPE,
        text=True,
        stderr=subprocess.DEVNULL,
    )
    assert child.stdout is not None
    silent = threading.Timer(SILENT, child.kill)
    silent.start()
    told = [child.stdout.readline()]
    silent.cancel()
    if not told[0]:
        return number, f"the window said nothing for {SILENT:.0f} s"
    time.sleep(rng.uniform(0.0, LONGEST))
    child.send_signal(signal.SIGKILL)
    told += child.stdout.readlines()
    child.wait()
    done = [line.split() for line in told if line.endswith("\n") and " " in line]
    saved = max((int(n) for word, n in done if word == "saved"), default=0)
    kept = max((int(n) for _, n in done), default=0)
    on_disk = turn_of(read_shot(SHOT))
    lost = [turn_of(found.shot) for found in recovery.lost_shots()]
    if on_disk < saved:
        return kept, f"saved {saved}, on disk {on_disk}"
    if max([on_disk, *lost]) < kept:
        return kept, f"kept {kept}, on disk {on_disk}, lost work {lost}"
    for found in recovery.lost_shots():
        found.throw_away()
    return max(kept, int(on_disk)) + 3, ""


def main(kills: int, seed: int) -> int:
    """Kill, print what was seen, and return 0 where nothing was lost."""
    rng, number, faults = random.Random(seed), 0, 0
    sample = sample_path()
    assert sample is not None
    write_shot(read_shot(sample), SHOT)
    for turn in range(1, kills + 1):
        number, wrong = round_(number, rng)
        faults += bool(wrong)
        if wrong:
            print(f"kill {turn}: LOST {wrong}", flush=True)
        elif turn % 20 == 0:
            print(f"kill {turn}: all is there, {number} edits", flush=True)
    left = sorted(path.name for path in FOLDER.rglob(".*") if path.is_file())
    time.sleep(unfinished.SETTLED + 0.5)
    leftovers.sweep_all(Preferences(recent=[str(SHOT)]))
    after = sorted(path.name for path in (*FOLDER.rglob(".*"), *FOLDER.rglob("*.lock")) if path.is_file())
    print(
        f"{kills} kills, {number} edits, {faults} lost; {len(left)} unfinished files before the sweep, after it {after}"
    )
    return 1 if faults or after else 0


if __name__ == "__main__":
    words = sys.argv[1:]
    sys.exit(main(int(words[0]) if words else 200, int(words[1]) if len(words) > 1 else 1))
