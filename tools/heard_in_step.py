"""Play a shot of clicks with a real sound server and say how far what is heard is from what is seen.

    python tools/heard_in_step.py [SECONDS]

It starts a PulseAudio server of its own with a device that plays into nothing at true pace (package pulseaudio),
records what that device plays, and compares each click with the moment its frame came up in the window.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from fractions import Fraction
from pathlib import Path

import numpy as np

RATE, FPS = 48_000, 24
EVERY = 0.5
"""Seconds between clicks."""
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")


def server(folder: Path) -> None:
    """Start a sound server with one device, and let everything here use it."""
    os.environ["PULSE_SERVER"] = f"unix:{folder}/socket"
    os.environ["XDG_RUNTIME_DIR"] = str(folder)
    start = [
        "pulseaudio",
        "-n",
        "--daemonize=no",
        "--exit-idle-time=-1",
        "--disable-shm=yes",
        "--use-pid-file=no",
        "--log-target=file:" + str(folder / "log"),
        "-L",
        f"module-native-protocol-unix socket={folder}/socket",
        "-L",
        f"module-null-sink sink_name=nothing rate={RATE} channels=2",
    ]
    subprocess.Popen(start, stderr=subprocess.DEVNULL)
    for _ in range(50):
        if (folder / "socket").exists():
            return
        time.sleep(0.1)
    sys.exit("the sound server did not start: " + (folder / "log").read_text()[-300:])


class Recorder:
    """What the device plays, with the moments at which it came."""

    def __init__(self) -> None:
        command = [
            "parec",
            "-d",
            "nothing.monitor",
            "--raw",
            "--format=s16le",
            f"--rate={RATE}",
            "--channels=1",
            "--latency-msec=4",
        ]
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE)
        self.parts: list[np.ndarray] = []
        self.ends: list[tuple[int, float]] = []
        threading.Thread(target=self._read, daemon=True).start()

    def _read(self) -> None:
        assert self.process.stdout is not None
        count = 0
        while data := os.read(self.process.stdout.fileno(), 384):
            self.parts.append(np.frombuffer(data[: len(data) // 2 * 2], "<i2"))
            count += len(self.parts[-1])
            self.ends.append((count, time.perf_counter()))

    def clicks(self) -> list[float]:
        """Return the moments of the clicks."""
        samples = np.concatenate(self.parts).astype(np.float32)
        ends, times = np.array([n for n, _ in self.ends]), np.array([t for _, t in self.ends])
        # a part that came late was held up on its way: the earliest ones tell the pace of the device
        began = float(np.min(times - ends / RATE))
        loud = np.flatnonzero(np.abs(samples) > 8000)
        firsts = loud[np.diff(loud, prepend=-RATE) > RATE * EVERY / 2]
        return [began + n / RATE for n in firsts]


def main(seconds: float) -> None:
    from PyQt6.QtTest import QTest

    from nimble_quake.desktop.app import application, make_window
    from nimble_quake.shot.model import Node, Plate, Shot

    folder = Path(tempfile.mkdtemp(prefix="nimble-quake-heard-"))
    os.environ["NIMBLE_QUAKE_HOME"] = str(folder / "home")
    server(folder)
    clicks = np.zeros(int(RATE * (seconds + 2)), np.float32)
    for at in np.arange(EVERY, seconds + 2, EVERY):
        clicks[int(at * RATE) : int(at * RATE) + 240] = 0.9
    import wave

    with wave.open(str(folder / "clicks.wav"), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes((clicks * 32767).astype("<i2").tobytes())
    app = application("dark")
    window = make_window()
    window.resize(1280, 800)
    window.show()
    plate = Plate(id="p", kind="shape", values={})
    sound = Node(id="s", kind="sound", values={"file": str(folder / "clicks.wav")})
    window.session.take(
        Shot(
            width=640, height=360, rate=Fraction(FPS), length=int(FPS * (seconds + 1)), plates=(plate,), sounds=(sound,)
        )
    )
    QTest.qWait(2500)
    seen: dict[int, float] = {}
    window.frames.arrived.connect(lambda r: seen.setdefault(r.request.frame, time.perf_counter()))
    recorder = Recorder()
    QTest.qWait(500)
    seen.clear()
    window.frames.play()
    QTest.qWait(int(seconds * 1000))
    dropped = window.frames.dropped
    window.frames.stop()
    QTest.qWait(300)
    recorder.process.kill()
    step = int(EVERY * FPS)
    shown = [seen[n] for n in sorted(seen) if n and n % step == 0]
    heard = recorder.clicks()
    apart = [1000 * min((at - frame for at in heard), key=abs) for frame in shown if heard]
    print(f"{len(heard)} clicks heard, {len(shown)} frames of clicks seen, {dropped} frames dropped")
    if apart:
        late = np.array(apart[1:])
        print(f"heard after seen: median {np.median(late):.1f} ms, from {late.min():.1f} to {late.max():.1f} ms")
    window.close()
    del app
    subprocess.run(["pulseaudio", "--kill"], check=False, stderr=subprocess.DEVNULL)
    shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    if not shutil.which("pulseaudio"):
        sys.exit("install pulseaudio and pulseaudio-utils first")
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 10.0)
