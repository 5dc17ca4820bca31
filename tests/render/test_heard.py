"""Clips' own sounds: they lie where their bars lie, cross-fade over crossings, and go along with bars."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
import pytest

from helpers import write_clip
from media.test_sound import noise, write_wav
from nimble_quake.analysis.bands import HOP_RATE
from nimble_quake.export.order import Order
from nimble_quake.export.rendering import render
from nimble_quake.media.clips import announced
from nimble_quake.media.sound import Recording, Recordings
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.render.engine import Engine
from nimble_quake.render.heard import Ramp, placed
from nimble_quake.render.mixing import Levels, mixed
from nimble_quake.session.crossings import laying
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import bars, sounds
from nimble_quake.session.work import Work
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot, write_shot

RATE = 24_000
"""A thousand samples a frame."""
RECORDING = Recording(noise(3 * RATE).astype(np.float32) / np.float32(32768), RATE)


def clip(id: str, start: int, end: int | None, **values: object) -> Plate:
    values = {"file": f"{id}.mp4", "heard": True, "beyond": "hold", **values}
    return Plate(id=id, kind="clip", name=id, start=start, end=end, values=values)


def shot_of(*plates: Plate, length: int = 72) -> Shot:
    return Shot(width=64, height=36, rate=Fraction(24), length=length, plates=plates)


def mix(shot: Shot) -> np.ndarray:
    return mixed(placed(shot, lambda file: RECORDING), RATE, 0, shot.length * 1000)


def test_it_is_heard_along_its_bar_sample_for_sample():
    got, own = mix(shot_of(clip("a", 10, 40, trim=0.5))), RECORDING.samples
    assert (got[10_000:40_000] == own[12_000:42_000]).all()
    assert not got[:10_000].any()
    assert not got[40_000:].any()


def test_it_ends_with_its_recording_or_begins_again():
    for beyond, twice in (("hold", False), ("empty", False), ("loop", True)):
        got = mix(shot_of(clip("a", 0, None, trim=2.0, beyond=beyond)))
        assert (got[:24_000] == RECORDING.samples[48_000:]).all()
        assert (got[24_000:48_000] == (RECORDING.samples[48_000:] if twice else 0)).all()


def test_twice_as_fast_it_is_an_octave_higher():
    t = np.arange(3 * RATE) / RATE
    tone = Recording(np.repeat(np.sin(2 * np.pi * 400 * t)[:, None], 2, 1).astype(np.float32), RATE)
    got = mixed(placed(shot_of(clip("a", 0, 24, speed=2.0)), lambda file: tone), RATE, 0, RATE)
    assert np.argmax(np.abs(np.fft.rfft(got[:, 0]))) == 800
    np.testing.assert_allclose(got[100:-100, 0], np.sin(2 * np.pi * 800 * (t[100:23_900] + 0.25 / RATE)), atol=0.02)


MOVING = Keys((Key(frame=0.0, value=0.5), Key(frame=40.0, value=2.0)))


@pytest.mark.parametrize("values", [{"heard": False}, {"speed": -1.0}, {"speed": 0.0}, {"speed": MOVING}])
def test_what_is_silent(values):
    assert placed(shot_of(clip("a", 0, 24, **values)), lambda file: RECORDING) == []


def test_what_is_off_or_lies_in_a_group_that_is_off_is_silent():
    group = Plate(id="g", kind="group", on=False)
    inside = msgspec.structs.replace(clip("a", 0, 24), inside="g")
    off = msgspec.structs.replace(clip("b", 0, 24), on=False)
    assert placed(shot_of(group, inside, off), lambda file: RECORDING) == []


def crossed(**values: object) -> Shot:
    """Two clips with a crossing from frame 30 to 42."""
    plates = (clip("b", 30, 72), clip("a", 0, 42))
    crossing = Plate(id="x", kind="crossing", start=30, end=42, values={"before": "a", "after": "b", **values})
    return shot_of(crossing, *plates)


def test_over_a_crossing_it_is_as_loud_throughout():
    """Equal power: cos² + sin² = 1 (trigonometry); half way each is 3.01 dB down (common practice, no source)."""
    at = np.linspace(1.0, 2.0, 101)[:-1]
    goes, comes = (Ramp(1.0, 2.0, comes=side, crosses=True).weights(at) for side in (False, True))
    np.testing.assert_allclose(goes**2 + comes**2, 1, atol=1e-12)
    assert 20 * np.log10(goes[50]) == pytest.approx(-3.01, abs=0.01)
    assert (goes[0], comes[0]) == (1, 0)
    assert Ramp(1.0, 2.0, comes=True, crosses=True).weights(np.array([0.9, 2.0])).tolist() == [1, 1]


def test_outside_a_crossing_it_is_bit_identical():
    shot = crossed()
    without = shot_of(*shot.plates[1:])
    got, plain = mix(shot), mix(without)
    assert (got[:30_000] == plain[:30_000]).all()
    assert (got[42_000:] == plain[42_000:]).all()
    assert np.abs(got[30_000:42_000] - plain[30_000:42_000]).max() > 0.01
    assert (mix(crossed(sound="none")) == plain).all()
    off = set_field(shot, "plates/x", on=False)
    assert (mix(off) == plain).all()


def test_clips_in_a_group_cross_with_it():
    shot = crossed(before="g")
    group = Plate(id="g", kind="group", end=42)
    inside = tuple(msgspec.structs.replace(p, inside="g") if p.id == "a" else p for p in shot.plates)
    np.testing.assert_array_equal(mix(shot_of(*inside[:2], group, *inside[2:])), mix(crossed()))


def test_a_band_listens_to_clips_too():
    levels = Levels(Recordings()).of(shot_of(clip("a", 24, 48)), "", 20.0, 11_000.0, lambda file: RECORDING)
    begins, ends = (int(seconds * HOP_RATE) for seconds in (1, 2))
    assert levels[: begins - 2].max() == 0
    assert levels[begins + 10 : ends - 2].min() > 0.1
    assert levels[ends + 2 :].max() == 0


@pytest.fixture
def session() -> Session:
    session = Session()
    session.take(crossed())
    session.select(plate="plates/a")
    return session


def test_a_cut_is_not_heard(session):
    before = mix(session.shot)
    session.set_frame(20)
    assert bars.cut_here(session, "plates/a")
    np.testing.assert_allclose(mix(session.shot), before, atol=1e-6)


def test_it_goes_along_when_a_gap_is_closed():
    session = Session()
    session.take(shot_of(clip("a", 0, 20), clip("b", 30, 50)))
    before = mix(session.shot)
    bars.close_gap(session, "plates/b")
    got = mix(session.shot)
    assert (got[20_000:40_000] == before[30_000:50_000]).all()
    assert not got[40_000:].any()


def test_a_slid_crossing_takes_it_along(session):
    """Its ends are those of its plates' bars."""
    session.edit("", set_field(session.shot, "plates/x", start=34, end=46))
    got = mix(session.shot)
    assert (got[:34_000] == RECORDING.samples[:34_000]).all()
    assert [round(p.begins * 24) for p, _ in placed(session.shot, lambda file: RECORDING)] == [34, 0]


def test_clips_in_a_row_bring_their_sound_and_it_is_saved(tmp_path: Path):
    """The files are made by our own encoders and read back by FFmpeg's decoders (PyAV)."""
    grey = np.zeros((32, 32, 4), np.uint8)
    silent = write_clip(tmp_path / "silent.mp4", [grey] * 9, Fraction(24), "libx264", "yuv420p")
    wav = write_wav(tmp_path / "n.wav", noise(48_000), 48_000)
    node = Node(id="s", kind="sound", values={"file": str(wav)})
    loud = tmp_path / "loud.mp4"
    render(Order(Shot(width=64, height=48, length=12, sounds=(node,)), loud, 0, 11), Engine())
    assert announced(loud).sound
    assert not announced(silent).sound
    session = Session()
    session.take(Shot(width=64, height=48, length=24))
    bars.in_a_row(session, [silent, loud])
    assert [plate.values.get("heard") for plate in session.shot.plates] == [True, None]
    assert sounds.sounds_missing(session) == [str(loud)]
    path = tmp_path / "s.nquake"
    write_shot(session.shot, path)
    assert read_shot(path).plates == session.shot.plates
    out = tmp_path / "out.mkv"
    render(Order(session.shot, out, 0, session.shot.length - 1), Engine())
    assert announced(out).sound


def test_a_clip_is_heard_and_silenced_and_its_sound_taken_out_is_not_heard_twice(session):
    laying.new_crossing(session)
    session.select(plate="plates/a")
    sounds.hear_clips(session)
    assert session.shot.plate("a").values["heard"] is False
    sounds.hear_clips(session)
    assert session.shot.plate("a").values["heard"] is True
    sounds.add_clip_sound(session, "plates/a")
    assert "heard" not in session.shot.plate("a").values
    assert len(session.shot.sounds) == 1
    session.undo()
    assert session.shot.plate("a").values["heard"] is True
    assert session.shot.sounds == ()


def test_beats_are_found_in_a_clip_that_runs_faster():
    """Clicks half a second apart are a quarter apart at twice the speed: 12, then 6 frames."""
    samples = np.zeros((4 * RATE, 2), np.float32)
    for n in range(8):
        samples[n * RATE // 2 : n * RATE // 2 + 200] = 0.8
    clicks = Recording(samples, RATE)
    for speed, apart in ((1.0, 12.0), (2.0, 6.0)):
        session = Session()
        session.take(shot_of(clip("a", 0, None, speed=speed)))
        session.engine.recordings.read = lambda file: clicks  # type: ignore[method-assign,assignment]
        found = sounds.find_beats(session, session.shot, "", "", Work("x", sounds.STEPS))
        assert found is not None
        assert np.median(np.diff(found.hits)) == pytest.approx(apart, abs=0.3)


def test_a_clip_that_crosses_into_itself_stays_as_loud():
    """Both sides are in step: their weights add up to 1. By equal power the middle would be 3 dB louder."""
    whole = mix(shot_of(clip("a", 0, 72)))
    crossing = Plate(id="x", kind="crossing", start=30, end=42, values={"before": "a", "after": "b"})
    goes_on = shot_of(crossing, clip("b", 30, 72, trim=30 / 24, file="a.mp4"), clip("a", 0, 42))
    np.testing.assert_allclose(mix(goes_on), whole, atol=2e-6)
    faster = shot_of(crossing, clip("b", 30, 72, trim=60 / 24, speed=2.0, file="a.mp4"), clip("a", 0, 42, speed=2.0))
    np.testing.assert_allclose(mix(faster), mix(shot_of(clip("a", 0, 72, speed=2.0))), atol=2e-3)
    elsewhere = mix(shot_of(crossing, clip("b", 30, 72, trim=1.0, file="a.mp4"), clip("a", 0, 42)))
    assert np.abs(elsewhere[30_000:42_000] - whole[30_000:42_000]).max() > 0.05


def test_a_band_whose_limits_move_listens_where_it_is_at_the_playhead():
    """A click in each second, and a deep tone that hides nothing: a band that is moved up hears the clicks alone."""
    at = np.arange(4 * RATE) / RATE
    samples = np.repeat((0.3 * np.sin(2 * np.pi * 60 * at))[:, None], 2, axis=1).astype(np.float32)
    rng = np.random.default_rng(2)
    for n in range(1, 8):
        samples[n * RATE // 2 : n * RATE // 2 + 300] += 0.5 * rng.standard_normal((300, 2)).astype(np.float32)
    session = Session()
    limits = {
        name: Keys((Key(frame=0, value=low), Key(frame=40, value=high)))
        for name, low, high in (("low", 40.0, 3000.0), ("high", 120.0, 8000.0))
    }
    band = Node(id="b", kind="band", values=limits)
    session.take(msgspec.structs.replace(shot_of(clip("a", 0, None), length=96), bands=(band,)))
    session.engine.recordings.read = lambda file: Recording(samples, RATE)  # type: ignore[method-assign,assignment]
    session.set_frame(40)
    found = sounds.find_beats(session, session.shot, "", "b", Work("x", sounds.STEPS))
    assert found is not None
    assert np.median(np.diff(found.hits)) == pytest.approx(12.0, abs=0.3)
