"""The installed program under a real X server."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

TOOL = Path(sys.executable).with_name("nimble-quake")


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="make setup installs Xvfb where it may")
def test_demo_under_xvfb(tmp_path):
    """`nimble-quake demo` shows its first frame on an X display and leaves."""
    reader, writer = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writer), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=(writer,),
        stderr=subprocess.DEVNULL,
    )
    try:
        os.close(writer)
        display = os.read(reader, 20).decode().strip()
        environment = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY")}
        environment |= {"DISPLAY": f":{display}", "NIMBLE_QUAKE_QUIT": "frame", "NIMBLE_QUAKE_HOME": str(tmp_path)}
        done = subprocess.run(
            [str(TOOL), "demo"], env=environment, timeout=120, capture_output=True, text=True, check=False
        )
        assert done.returncode == 0, done.stderr
        assert "Traceback" not in done.stderr
    finally:
        os.close(reader)
        server.terminate()
        server.wait(timeout=20)


def test_demo_without_a_display(tmp_path):
    """It renders, saves a picture of the window, says so, and ends well."""
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    environment["NIMBLE_QUAKE_HOME"] = str(tmp_path / "home")
    done = subprocess.run(
        [str(TOOL), "demo", "endless-loop", "--out", str(tmp_path)],
        env=environment,
        timeout=200,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert "no display" in done.stderr
    assert sorted(p.name for p in tmp_path.glob("endless*")) == ["endless-loop-window.png", "endless-loop.mp4"]
