"""Numbered pictures and animations as clips; speeds and blending of clips."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from helpers import number_in, numbered_frame, rendered, write_clip, write_png
from nimble_quake.errors import MediaError
from nimble_quake.media import flipbook
from nimble_quake.media.pool import MediaPool, sort_of
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import is_shown
from nimble_quake.session.verbs import items
from nimble_quake.shot.model import Map, Node, Plate, Shot

W, H = 64, 48


@pytest.fixture
def sequence(tmp_path) -> str:
    """Pictures 0008 to 0015, 0011 missing."""
    for number in (8, 9, 10, 12, 13, 14, 15):
        write_png(tmp_path / f"plate_{number:04d}.png", numbered_frame(number, W, H))
    return str(tmp_path / "plate_####.png")


def animation(path: Path, lengths: list[int]) -> Path:
    frames = [Image.fromarray(numbered_frame(n, W, H)[..., :3]) for n in range(len(lengths))]
    options: dict[str, Any] = {"lossless": True} if path.suffix == ".webp" else {}
    frames[0].save(path, save_all=True, append_images=frames[1:], duration=lengths, loop=0, **options)
    return path


def shown(file: str, frame: int, start: int | None = None, rate: int = 24, **values: Any) -> int:
    """The number that a clip shows at a frame of a shot."""
    plate = Plate(id="c", kind="clip", start=start, values={"file": file, "fit": "centre", **values})
    shot = Shot(width=W, height=H, rate=Fraction(rate), length=200, plates=(plate,))
    return number_in(rendered(shot, frame=frame, engine=Engine()))


class TestSequences:
    def test_they_are_found_from_one_of_them(self, sequence, tmp_path):
        assert flipbook.pattern_of(str(tmp_path / "plate_0009.png")) == sequence
        assert [number for number, _ in flipbook.numbered(sequence)] == [8, 9, 10, 12, 13, 14, 15]
        assert flipbook.gaps(sequence) == 1
        assert flipbook.pattern_of(str(write_png(tmp_path / "alone_1.png", numbered_frame(1, W, H)))) == ""

    def test_they_play_and_a_gap_shows_the_one_before(self, sequence):
        assert [shown(sequence, frame) for frame in range(8)] == [8, 9, 10, 10, 12, 13, 14, 15]
        assert shown(sequence, 8) == 8  # begins again
        assert shown(sequence, 20, beyond="hold") == 15

    @pytest.mark.parametrize("rate", [12, 25, 30, 60])
    def test_a_picture_a_frame_at_any_rate_of_the_shot(self, sequence, rate):
        assert [shown(sequence, frame, rate=rate) for frame in range(8)] == [8, 9, 10, 10, 12, 13, 14, 15]
        assert shown(sequence, 8, rate=rate) == 8

    def test_as_a_map_they_go_with_the_shot_too(self, sequence):
        step = Node(id="p", kind="picture", values={"file": sequence, "fit": "centre"})
        shot = Shot(width=W, height=H, rate=Fraction(30), length=200, maps=(Map(id="m", recipe=(step,)),))
        engine, grid = Engine(), frame_grid(W, H)
        fields = [map_field(frame_job(engine, shot, frame), shot.maps[0], grid) for frame in range(4)]
        assert [number_in(field) for field in fields] == [8, 9, 10, 10]

    def test_at_a_rate_of_their_own_they_keep_their_seconds(self, sequence):
        assert [shown(sequence, frame, rate=24, pace=12) for frame in range(0, 16, 2)] == [8, 9, 10, 10, 12, 13, 14, 15]
        assert [shown(sequence, frame, rate=12, pace=24) for frame in range(4)] == [8, 10, 12, 14]
        assert shown(sequence, 1, rate=12, pace=24, trim=0.125) == 13  # three pictures skipped, then two gone

    def test_footage_has_no_such_field(self, sequence, tmp_path):
        session = Session()
        path = items.plate_from_file(session, str(tmp_path / "plate_0009.png"))
        items.as_sequence(session, path)
        pace = session.param(f"{path}/pace")
        assert pace is not None
        assert is_shown(session, path, pace)
        session.set(f"{path}/file", str(tmp_path / "footage.mov"))
        assert not is_shown(session, path, pace)
        lines = session.param(f"{path}/fields")
        assert is_shown(session, path, lines)
        session.undo()
        assert not is_shown(session, path, lines)

    def test_a_still_becomes_its_sequence(self, sequence, tmp_path):
        session = Session()
        said: list[str] = []
        session.message.connect(said.append)
        path = items.plate_from_file(session, str(tmp_path / "plate_0009.png"))
        assert "one of several" in said[-1]
        items.as_sequence(session, path)
        assert session.shot.plates[0].kind == "clip"
        assert session.shown(f"{path}/file") == sequence
        assert "7 pictures, 1 missing" in said[-1]
        session.undo()
        assert session.shot.plates[0].kind == "still"

    def test_what_is_not_there_is_told(self, tmp_path):
        with pytest.raises(MediaError, match="no such numbered pictures"):
            MediaPool().open(str(tmp_path / "none_##.png"), "clip")


class TestAnimations:
    @pytest.mark.parametrize("ending", ["gif", "webp", "png"])
    def test_pictures_have_their_own_times(self, tmp_path, ending):
        file = str(animation(tmp_path / f"a.{ending}", [100, 300, 200, 400]))
        assert sort_of(file) == "clip"
        opened = MediaPool().open(file, "clip")
        assert opened.seconds == pytest.approx(1.0)
        found = [number_in(opened.picture(t, W, H)) for t in (0.0, 0.09, 0.1, 0.39, 0.45, 0.7, 0.99)]
        assert found == [0, 0, 1, 1, 2, 3, 3]

    @pytest.mark.parametrize("ending", ["gif", "webp", "png"])
    def test_opening_decodes_one_picture_of_many(self, tmp_path, ending, monkeypatch):
        """And playing on decodes one each: a GIF of 201 pictures of 2000 x 2000 opened after a minute."""
        file = str(animation(tmp_path / f"a.{ending}", [40] * 30))
        decoded: list[int] = []
        own = flipbook.Flipbook.decoded
        monkeypatch.setattr(flipbook.Flipbook, "decoded", lambda self, n: decoded.append(n) or own(self, n))
        loads: list[int] = []
        load = type(Image.open(file)).load
        monkeypatch.setattr(type(Image.open(file)), "load", lambda self: loads.append(self.tell()) or load(self))
        opened = MediaPool().open(file, "clip")
        assert (decoded, max(loads, default=0)) == ([0], 0)
        assert [number_in(opened.picture(0.04 * n, W, H)) for n in range(30)] == list(range(30))
        assert number_in(opened.picture(0.12, W, H)) == 3

    def test_as_a_still_it_is_its_first_picture(self, tmp_path):
        file = str(animation(tmp_path / "a.gif", [100, 100]))
        assert number_in(MediaPool().open(file, "still").picture(0.0, W, H)) == 0

    def test_damaged_ones_are_told(self, tmp_path):
        file = animation(tmp_path / "a.gif", [100, 100, 100])
        data = file.read_bytes()
        file.write_bytes(data[: len(data) // 2])
        try:
            picture = MediaPool().open(str(file)).picture(0.25, W, H)
            assert np.isfinite(picture).all()
        except MediaError as wrong:
            assert str(file) in wrong.line()


class TestSpeed:
    @pytest.fixture
    def clip(self, tmp_path) -> str:
        frames = [numbered_frame(n, W, H) for n in range(60)]
        return str(write_clip(tmp_path / "c.mkv", frames, Fraction(24), "ffv1", "bgr0"))

    @pytest.mark.parametrize(("speed", "wanted"), [(1.0, 20), (0.5, 10), (2.0, 40), (0.0, 0)])
    def test_still_speeds(self, clip, speed, wanted):
        assert shown(clip, 20, speed=speed) == wanted
        assert shown(clip, 50, start=30, speed=speed) == wanted  # counted from where the plate begins

    def test_it_slows_down_stands_and_turns_back(self, clip):
        """The frame shown is the integral of the speed: 1 for 24 frames, then 0, then -1."""
        keys = Keys(
            (
                Key(frame=0.0, value=1.0, after="hold"),
                Key(frame=24.0, value=0.0, after="hold"),
                Key(frame=48.0, value=-1.0, after="hold"),
            )
        )
        assert [shown(clip, frame, speed=keys) for frame in (10, 24, 36, 48, 60)] == [10, 24, 24, 24, 12]

    def test_between_frames_is_their_mix(self, clip):
        def frame(number: int, **values: Any) -> np.ndarray:
            plate = Plate(id="c", kind="clip", values={"file": clip, "fit": "centre", **values})
            return rendered(Shot(width=W, height=H, rate=Fraction(24), length=100, plates=(plate,)), frame=number)

        mixed = frame(5, speed=0.5, between="blend")
        assert np.abs(mixed - (frame(2) + frame(3)) / 2).max() < 0.005
        assert np.array_equal(frame(4, speed=0.5, between="blend"), frame(2))
