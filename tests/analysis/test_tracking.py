"""Tracking against known motion and OpenCV's own tracker; side files; pins and marks."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import cv2
import msgspec
import numpy as np
import pytest

from helpers import rendered, write_clip
from nimble_quake.analysis.side_files import content_name
from nimble_quake.analysis.store import TrackStore
from nimble_quake.analysis.tracking import Settings, Tracks, track
from nimble_quake.media.clips import Clip
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.plan.groups import plate_operator
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.services import frame_job
from nimble_quake.session.verbs.tracking import track_file
from nimble_quake.session.work import Work
from nimble_quake.shot.model import Map, Node, Plate, Shot

W, H = 320, 180


def texture(width: int, height: int) -> np.ndarray:
    rough = np.random.Generator(np.random.PCG64(5)).random((height, width)).astype(np.float32)
    soft = cv2.GaussianBlur(rough, (0, 0), 2.2)
    return np.asarray((soft - soft.min()) / (soft.max() - soft.min()))


GROUND = texture(900, 600)


def moved_by(frame: int) -> tuple[float, float]:
    """How far the window over the texture has gone, pixels."""
    return 180 + 1.3 * frame, 140 + 0.7 * frame + 6 * np.sin(frame / 9)


def seen(frame: int, width: int = W, height: int = H) -> np.ndarray:
    """A frame of the texture seen through a moving window, exactly resampled (cubic)."""
    x, y = moved_by(frame)
    moved = np.array([[1, 0, x], [0, 1, y]], np.float64)
    flags = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    return np.clip(np.rint(cv2.warpAffine(GROUND, moved, (width, height), flags=flags) * 255), 0, 255).astype(np.uint8)


def frames(count: int) -> Iterator[np.ndarray]:
    return (seen(frame) for frame in range(count))


def misses(tracks: Tracks) -> tuple[np.ndarray, np.ndarray]:
    """How far points are from where they should be, and those seen from first to last at the end."""
    all_, drift = [], []
    for n in range(tracks.places.shape[1]):
        there = np.flatnonzero(np.isfinite(tracks.places[:, n, 0]))
        start = tracks.places[there[0], n] + moved_by(there[0])
        for frame in there[1:]:
            miss = float(np.hypot(*(tracks.places[frame, n] + moved_by(frame) - start)))
            all_.append(miss)
            if frame == len(tracks.places) - 1 and there[0] == 0:
                drift.append(miss)
    return np.array(all_), np.array(drift)


class TestTracker:
    def test_known_motion_within_a_tenth_of_a_pixel_and_no_drift(self):
        """The motion is ours: a window that slides over a texture."""
        found, drift = misses(track(frames(60), 1.0, Settings(150, 10.0)))
        assert np.median(found) <= 0.1
        assert len(drift) > 20
        assert np.median(drift) <= 0.2
        assert np.quantile(drift, 0.95) <= 0.5

    def test_against_opencv_step_by_step(self):
        """OpenCV's pyramidal Lucas-Kanade alone, from frame to frame, gives the same paths but for its drift."""
        tracks = track(frames(12), 1.0, Settings(80, 12.0))
        whole = np.flatnonzero(np.isfinite(tracks.places[:, :, 0]).all(axis=0))
        start = np.ascontiguousarray((tracks.places[0, whole] - 0.5).reshape(-1, 1, 2))
        before = seen(0)
        for frame in range(1, 12):
            now = seen(frame)
            start, good, _ = cv2.calcOpticalFlowPyrLK(before, now, start, start.copy(), winSize=(21, 21), maxLevel=3)
            before = now
        apart = np.hypot(*(start.reshape(-1, 2) - (tracks.places[11, whole] - 0.5)).T)
        assert np.median(apart[good.reshape(-1) > 0]) < 0.1

    def test_new_points_are_picked_where_old_ones_leave(self):
        tracks = track(frames(60), 1.0, Settings(150, 10.0))
        counts = np.isfinite(tracks.places[..., 0]).sum(axis=1)
        assert counts.min() > 100
        assert tracks.places.shape[1] > 160  # some left, others came

    def test_more_points_when_thorough_and_no_two_too_close(self):
        plain, more = (track(frames(4), 1.0, Settings(60, 9.0, thorough)) for thorough in (False, True))
        assert more.places.shape[1] > plain.places.shape[1]
        first = plain.places[0][np.isfinite(plain.places[0, :, 0])]
        apart = np.hypot(*(first[:, None] - first[None]).transpose(2, 0, 1)) + np.eye(len(first)) * 100
        assert apart.min() > 5  # corners are put right by up to 3 pixels

    def test_a_picture_without_corners_has_no_points(self):
        assert track((np.full((90, 160), 80, np.uint8) for _ in range(5)), 1.0, Settings()).places.shape == (5, 0, 2)


@pytest.fixture(scope="module")
def tracked(tmp_path_factory) -> Path:
    """A folder with a clip and its tracks, which take a second to find: each test has a copy."""
    folder = tmp_path_factory.mktemp("tracked")
    pictures = [cv2.cvtColor(seen(frame), cv2.COLOR_GRAY2RGBA) for frame in range(24)]
    clip = write_clip(folder / "street.mkv", pictures, Fraction(24), "ffv1", "bgra")
    store = TrackStore()
    store.look_in(folder / "kept")
    track_file(str(clip), Settings(120, 10.0), Work("", 24), store)
    return folder


@pytest.fixture
def clip(tmp_path, tracked) -> Path:
    return Path(shutil.copy(tracked / "street.mkv", tmp_path))


@pytest.fixture
def engine(tmp_path, clip, tracked) -> Engine:
    engine = Engine()
    shutil.copytree(tracked / "kept", tmp_path / "kept")
    engine.tracks.look_in(tmp_path / "kept")
    assert engine.tracks.find(str(clip)) is not None
    return engine


class TestStore:
    def test_tracks_are_kept_and_found_wherever_the_clip_lies(self, clip, engine, tmp_path):
        again = TrackStore()
        again.look_in(tmp_path / "kept")
        found, first = again.find(str(clip)), engine.tracks.find(str(clip))
        assert found is not None
        assert first is not None
        assert np.array_equal(found.places, first.places, equal_nan=True)
        elsewhere = tmp_path / "elsewhere.mkv"
        elsewhere.write_bytes(clip.read_bytes())
        assert again.find(str(elsewhere)) is not None

    @pytest.mark.parametrize("damage", [b"", b"PK\x03\x04 nothing", b"\x00" * 4000])
    def test_damaged_files_are_no_tracks_and_told(self, clip, engine, tmp_path, damage):
        (tmp_path / "kept" / f"{content_name(str(clip))}.npz").write_bytes(damage)
        again = TrackStore()
        again.look_in(tmp_path / "kept")
        assert again.find(str(clip)) is None
        assert "damaged" in again.faults[str(clip)]

    def test_files_that_hold_something_else_are_refused(self, clip, tmp_path, engine):
        path = tmp_path / "kept" / f"{content_name(str(clip))}.npz"
        places = np.zeros((3, 4, 2), np.float32)
        good: dict[str, Any] = {
            "version": np.int64(1),
            "size": np.array((4, 4)),
            "places": places,
            "errors": np.zeros(4, np.float32),
            "thrown": np.zeros(4, bool),
        }
        for wrong in (
            {"version": np.int64(9)},
            {"places": places + np.inf},
            {"places": places[0]},
            {"thrown": places},
            {"errors": np.array([{}], object)},
        ):
            np.savez(path, **{**good, **wrong}, allow_pickle=True)
            again = TrackStore()
            again.look_in(tmp_path / "kept")
            assert again.find(str(clip)) is None

    def test_a_clip_that_changed_has_none(self, clip, engine):
        clip.write_bytes(clip.read_bytes() + b"more")
        assert engine.tracks.find(str(clip)) is None

    def test_stopped_work_keeps_nothing(self, clip, tmp_path):
        store, work = TrackStore(), Work("", 24)
        store.look_in(tmp_path / "none")
        work.stop()
        assert track_file(str(clip), Settings(), work, store) is None
        assert store.find(str(clip)) is None


def street(clip: Path, *plates: Plate, maps: tuple[Map, ...] = (), **values: Any) -> Shot:
    base = Plate(id="street", kind="clip", values={"file": str(clip), "fit": "centre", **values})
    return Shot(width=W, height=H, rate=Fraction(24), length=24, plates=(*plates, base), maps=maps)


def middle(engine: Engine, shot: Shot, frame: int, id: str) -> tuple[float, float]:
    """Where a plate's middle lies at a frame."""
    job, plate = frame_job(engine, shot, frame), shot.plate(id)
    assert plate is not None
    operator = plate_operator(job, plate)
    assert operator is not None
    lies = placement_of(job, plate, operator)
    a, b, c, d, e, f = lies.place
    x, y = lies.box[0] / 2, lies.box[1] / 2
    return a * x + b * y + c, d * x + e * y + f


class TestPins:
    def test_a_pinned_plate_goes_with_the_picture(self, clip, engine):
        tracks = engine.tracks.find(str(clip))
        assert tracks is not None
        ids = np.flatnonzero(np.isfinite(tracks.places[:, :, 0]).all(axis=0))[:3]
        for points, takes in ((ids[:1], "all"), (ids[:2], "all"), (ids, "place")):
            values = {
                "pin": "street",
                "pin_points": " ".join(map(str, points)),
                "pin_as": takes,
                "width": 40.0,
                "height": 40.0,
                "pin_from": 4.0,
                "position": (150.0, 90.0),
            }
            shot = street(clip, Plate(id="mark", kind="shape", values=values))
            assert middle(engine, shot, 4, "mark") == pytest.approx((150, 90), abs=1e-6)
            wanted = np.array((150, 90)) + moved_by(4) - np.array(moved_by(20))
            assert middle(engine, shot, 20, "mark") == pytest.approx(tuple(wanted), abs=0.3)

    def test_it_follows_a_clip_that_is_scaled(self, clip, engine):
        tracks = engine.tracks.find(str(clip))
        assert tracks is not None
        id = int(np.flatnonzero(np.isfinite(tracks.places[:, :, 0]).all(axis=0))[0])
        values = {"pin": "street", "pin_points": str(id), "position": (100.0, 80.0)}
        shot = street(clip, Plate(id="mark", kind="shape", values=values), scale_x=2.0, scale_y=2.0)
        wanted = np.array((100, 80)) + 2 * (np.array(moved_by(0)) - moved_by(20))
        assert middle(engine, shot, 20, "mark") == pytest.approx(tuple(wanted), abs=0.6)

    def test_a_clip_pinned_to_itself_is_steady(self, clip, engine):
        tracks = engine.tracks.find(str(clip))
        assert tracks is not None
        ids = np.flatnonzero(np.isfinite(tracks.places[:, :, 0]).all(axis=0))[:4]
        pin: dict[str, Any] = {"pin": "street", "pin_points": " ".join(map(str, ids)), "pin_way": "steady"}
        shot = street(clip, **pin)
        core = (slice(60, 120), slice(120, 200))
        shaky = [frame_picture(frame_job(engine, street(clip), frame))[core] for frame in (0, 12)]
        steady = [frame_picture(frame_job(engine, shot, frame))[core] for frame in (0, 12)]
        assert np.abs(shaky[0] - shaky[1]).mean() > 0.05
        assert np.abs(steady[0] - steady[1]).mean() < 0.02

    def test_without_tracks_it_stays_and_that_is_told(self, clip):
        shot = street(clip, Plate(id="mark", kind="shape", values={"pin": "street", "pin_points": "0"}))
        job = frame_job(Engine(), shot, 10)
        frame_picture(job)
        assert any("is not tracked" in problem.line() for problem in job.problems.values())
        assert middle(Engine(), shot, 10, "mark") == (160, 90)

    def test_while_it_is_tracked_that_alone_is_said(self, clip):
        shot, engine = (
            street(clip, Plate(id="mark", kind="shape", values={"pin": "street", "pin_points": "0"})),
            Engine(),
        )

        def said() -> str:
            job = frame_job(engine, shot, 10)
            frame_picture(job)
            return " ".join(problem.line() for problem in job.problems.values())

        assert "is not tracked" in said()
        engine.tracks.begin(str(clip))
        assert "is being tracked" in said()
        assert "is not tracked" not in said()
        engine.tracks.end(str(clip))
        assert "is not tracked" in said()


class TestMarks:
    @pytest.mark.parametrize("form", ["square", "dot", "cross", "lines"])
    def test_marks_stick_to_the_picture(self, clip, engine, form):
        step = Node(
            id="t",
            kind="tracked_points",
            values={"plate": "street", "form": form, "size": 8.0, "grows": 0.0, "vary": 0.0, "reach": 60.0},
        )
        map = Map(id="m", name="", recipe=(step,))
        shot = street(clip, maps=(map,))
        fields = [map_field(frame_job(engine, shot, frame), map, frame_grid(W, H))[..., 0] for frame in (5, 6)]
        assert (np.abs(fields[0] - 0.5) > 0.05).mean() > 0.02
        x, y = np.array(moved_by(6)) - moved_by(5)
        back = cv2.warpAffine(fields[1], np.array([[1, 0, x], [0, 1, y]]), (W, H), flags=cv2.INTER_LINEAR)
        inner = (slice(30, 150), slice(30, 290))
        assert np.abs(back - fields[0])[inner].mean() < 0.25 * np.abs(fields[1] - fields[0])[inner].mean()

    def test_thrown_out_points_are_not_marked(self, clip, engine):
        map = Map(id="m", name="", recipe=(Node(id="t", kind="tracked_points", values={"plate": "street"}),))
        shot = street(clip, maps=(map,))
        tracks = engine.tracks.find(str(clip))
        assert tracks is not None
        before = map_field(frame_job(engine, shot, 5), map, frame_grid(W, H)).copy()
        engine.tracks.keep(str(clip), replace(tracks, thrown=np.ones_like(tracks.thrown)))
        after = map_field(frame_job(engine, shot, 5), map, frame_grid(W, H))
        assert (before[..., :3] != 0.5).any()
        assert (after[..., :3] == 0.5).all()


def test_a_clips_frames_are_found_by_their_times(clip):
    opened = Clip(clip)
    assert [opened.frame_at(opened.seconds_of(n)) for n in range(opened.frames)] == list(range(24))
    assert rendered(street(clip)).max() > 0.5


class TestLabels:
    def test_labels_ride_on_points(self, clip, engine):
        """The middle of all ink moves as the picture does."""
        values = {
            "form": "own",
            "signs": "8",
            "often": 0.0,
            "labels": 3.0,
            "rides": "street",
            "size": 12.0,
            "digits": 2.0,
        }

        def middle(frame: int) -> np.ndarray:
            plate = Plate(id="n", kind="number", values=values)
            base = street(clip, plate)
            alone = labels_alone(base)
            alpha = frame_picture(frame_job(engine, alone, frame))[..., 3]
            ys, xs = np.mgrid[:H, :W]
            return np.array([(xs * alpha).sum(), (ys * alpha).sum()]) / alpha.sum()

        apart = middle(9) - middle(6)
        assert apart == pytest.approx(tuple(np.array(moved_by(6)) - moved_by(9)), abs=0.7)  # whole samples


def labels_alone(shot: Shot) -> Shot:
    """The shot with its clip switched off: it is tracked all the same."""
    off = msgspec.structs.replace(shot.plates[-1], on=False)
    return msgspec.structs.replace(shot, ground=(0, 0, 0, 0), plates=(*shot.plates[:-1], off))


class TestMotion:
    def test_flow_against_a_known_shift(self, clip):
        """The window slides over the texture, so the picture moves against it by as much each frame."""
        map = Map(id="m", name="", recipe=(Node(id="f", kind="motion", values={"plate": "street", "full": 8.0}),))
        shot = street(clip, maps=(map,))
        for frame in (3, 11):
            field = map_field(frame_job(Engine(), shot, frame), map, frame_grid(W, H))
            found = (np.median(field[20:-20, 20:-20].reshape(-1, 2), axis=0) - 0.5) * 16
            wanted = np.array(moved_by(frame - 1)) - moved_by(frame)
            assert found == pytest.approx(tuple(wanted), abs=0.15)

    def test_what_stands_still_rests(self, clip):
        for shows, rest in (("ways", 0.5), ("speed", 0.0)):
            step = Node(id="f", kind="motion", values={"plate": "still", "shows": shows})
            map = Map(id="m", name="", recipe=(step,))
            still = Plate(id="still", kind="text", values={"size": 60.0})
            shot = Shot(width=W, height=H, rate=Fraction(24), length=24, plates=(still,), maps=(map,))
            field = map_field(frame_job(Engine(), shot, 5), map, frame_grid(W, H))
            assert np.abs(field - rest).max() < 0.01
