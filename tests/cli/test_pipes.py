"""Pictures and clips through pipes, as other programs send and take them."""

from __future__ import annotations

import subprocess
import sys
from fractions import Fraction

import cv2
import numpy as np
import pytest

from helpers import coded, numbered_frame, write_png
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.media.clips import Clip
from nimble_quake.render.engine import Engine
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shotfile.files import write_shot


def piped(*words: object, data: bytes = b"") -> subprocess.CompletedProcess[bytes]:
    line = [sys.executable, "-m", "nimble_quake", *(str(word) for word in words)]
    return subprocess.run(line, input=data, capture_output=True, timeout=120, check=False)


@pytest.fixture
def files(tmp_path):
    white = np.full((60, 100, 4), 255, np.uint8)
    return write_png(tmp_path / "p.png", coded(100, 60)), write_png(tmp_path / "m.png", white)


def stream(tmp_path, count=6):
    """A Y4M stream whose frames hold their numbers, by our own writer."""
    for n in range(count):
        frame = numbered_frame(n)
        alpha = np.full((*frame.shape[:2], 1), 255, np.uint8)
        write_png(tmp_path / f"n_{n:02d}.png", np.concatenate([frame[..., :3], alpha], axis=2))
    plate = Plate(id="c", kind="clip", values={"file": str(tmp_path / "n_##.png"), "fit": "centre"})
    shot = Shot(width=64, height=48, rate=Fraction(24000, 1001), length=count, plates=(plate,))
    order = Order(shot, tmp_path / "n.y4m", 0, count - 1, format=format_named("y4m"))
    return render(order, Engine()).files[0]


def number_of(frame):
    return sum(1 << bit for bit in range(8) if frame[24, bit * 8 + 4, 0] > 0.5)


def test_a_picture_through_displace(files, tmp_path):
    """The same as from file to file, whichever of the two comes through the pipe."""
    picture, map = files
    words = ("--reach", "10", "--edge", "hold")
    assert piped("displace", picture, map, "-o", tmp_path / "o.png", *words).returncode == 0
    wanted = cv2.imread(str(tmp_path / "o.png"), cv2.IMREAD_UNCHANGED)
    for names, data in ((("-", map), picture.read_bytes()), ((picture, "-"), map.read_bytes())):
        found = piped("displace", *names, "-o", "-", *words, data=data)
        assert (found.returncode, found.stderr) == (0, b"")
        got = cv2.imdecode(np.frombuffer(found.stdout, np.uint8), cv2.IMREAD_UNCHANGED)
        assert np.array_equal(got, wanted)


def test_a_clip_through_displace(files, tmp_path):
    """YUV4MPEG2 in and out; nothing moves, so each frame is the one that came."""
    clip = stream(tmp_path)
    grey = write_png(tmp_path / "grey.png", np.full((48, 64, 4), (128, 128, 128, 255), np.uint8))
    found = piped("displace", "-", grey, "-o", "-", "--reach", "10", data=clip.read_bytes())
    assert found.returncode == 0
    (tmp_path / "out.y4m").write_bytes(found.stdout)
    out = Clip(tmp_path / "out.y4m")
    assert (out.frames, out.rate) == (6, Fraction(24000, 1001))


def test_y4m_is_a_clip_as_others_are(tmp_path):
    """Each frame is found by its number, whatever the order."""
    clip = Clip(stream(tmp_path))
    assert (clip.frames, clip.rate, clip.width, clip.height) == (6, Fraction(24000, 1001), 64, 48)
    for n in (4, 0, 5, 2):
        assert number_of(clip.picture(clip.seconds_of(n), 64, 48)) == n


def test_a_frame_into_a_pipe(tmp_path):
    """8 bits, or 16 with --deep; the same as in a file."""
    write_shot(Shot(width=40, height=30, length=2, plates=(Plate(id="f", kind="fill"),)), tmp_path / "s.nquake")
    for words, kind in (((), np.uint8), (("--deep",), np.uint16)):
        found = piped("frame", tmp_path / "s.nquake", "1", "-o", "-", *words)
        got = cv2.imdecode(np.frombuffer(found.stdout, np.uint8), cv2.IMREAD_UNCHANGED)
        assert got.shape == (30, 40, 4)
        assert got.dtype == np.dtype(kind)


@pytest.mark.parametrize(("data", "said"), [(b"", "nothing came"), (b"hello there", "neither PNG nor YUV4MPEG2")])
def test_what_cannot_be_read_from_a_pipe_is_one_line(files, tmp_path, data, said):
    found = piped("displace", "-", files[1], "-o", tmp_path / "o.png", "--reach", "3", data=data)
    assert found.returncode == 2
    assert len(found.stderr.splitlines()) == 1
    assert said in found.stderr.decode()
    assert not (tmp_path / "o.png").exists()
    assert piped("displace", "-", "-", "-o", tmp_path / "o.png", "--reach", "3").returncode == 2
