"""Values that ask the rest of the shot: following, levels of a sound, beats, tracked points; spans and fades."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from media.test_sound import write_wav
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Formula, Key, Keys, Rate
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Marker, Node, Plate, Shot
from nimble_quake.shot.spans import faded


def follow(path: str, base: float = 0.0, times: float = 1.0, **settings: object) -> Driven:
    return Driven(base, times, drivers()["follow"]({"path": path, **settings}))


def shot_with(turn_a: object, turn_b: object, **more: object) -> Shot:
    plates = tuple(Plate(id=id, kind="text", values={"turn": turn}) for id, turn in (("a", turn_a), ("b", turn_b)))
    return Shot(width=64, height=48, rate=Fraction(24), length=48, plates=plates, **more)  # type: ignore[arg-type]


def turn_of(shot: Shot, id: str, frame: float) -> float:
    plate = shot.plate(id)
    assert plate is not None
    operator = frame_job(Engine(), shot, frame).operator("plate", plate, f"plates/{id}")
    return operator.values["turn"]  # type: ignore[union-attr]


def test_a_value_follows_another_against_it_and_later():
    keys = Keys((Key(frame=0, value=0.0, after="straight"), Key(frame=40, value=80.0)))
    shot = shot_with(keys, follow("plates/a/turn", 5.0, -1.0, delay=4.0))
    assert turn_of(shot, "b", 20) == 5 - 32
    assert turn_of(set_value(shot, "plates/a/turn", None), "b", 20) == 5


def test_a_chain_of_followers_and_a_formula_among_them():
    shot = shot_with(Rate(0.0, 24.0), follow("plates/a/turn", 0.0, 2.0))
    third = Plate(id="c", kind="text", values={"turn": Formula('value("plates/b/turn") + 1')})
    shot = Shot(width=64, height=48, rate=Fraction(24), length=48, plates=(*shot.plates, third))
    assert turn_of(shot, "c", 10) == pytest.approx(21)


@pytest.mark.parametrize(
    "path", ["plates/b/turn", "plates/gone/turn", "plates/a/words", "plates/a", "", "maps/x/steps/y"]
)
def test_what_cannot_be_followed_is_said_with_its_path(path):
    shot = shot_with(follow("plates/b/turn"), follow("plates/a/turn" if path == "plates/b/turn" else path))
    with pytest.raises(NimbleQuakeError) as caught:
        turn_of(shot, "b", 0)
    line = caught.value.line()
    assert line.startswith("plates/b/turn")
    assert "\n" not in line
    if path == "plates/b/turn":
        assert "plates/a/turn -> plates/b/turn -> plates/a/turn" in line or "-> plates/b/turn" in line


def test_a_loop_through_a_formula_is_refused_too():
    shot = shot_with(Formula('value("plates/b/turn")'), Formula('value("plates/a/turn")'))
    with pytest.raises(NimbleQuakeError, match="follows itself"):
        turn_of(shot, "a", 0)


def asking(depth: int, first: float, second: float) -> Shot:
    """Plates of which each asks the one below at two moments: twice as many values a level."""
    plates = [Plate(id="p0", kind="text", values={"turn": Rate(0.0, 1.0)})]
    for n in range(1, depth):
        below, step = f"plates/p{n - 1}/turn", 3.0**n
        text = f'value("{below}", 0, {first * step}) + value("{below}", 0, {second * step})'
        plates.append(Plate(id=f"p{n}", kind="text", values={"turn": Formula(text)}))
    return Shot(width=64, height=48, rate=Fraction(24), length=48, plates=tuple(plates))


def test_a_value_that_asks_too_many_others_is_one_line():
    """Once it is known to be too many, whoever asks it knows it too: 40 levels are no slower than 12."""
    assert turn_of(asking(6, 1.0, 2.0), "p5", 0) < 0
    shot = asking(40, 1.0, 2.0)
    for id in ("p39", "p38"):
        with pytest.raises(NimbleQuakeError, match="asks for over 2,000 other values"):
            turn_of(shot, id, 0)


def test_the_same_moments_are_asked_once():
    """Sixteen levels that ask two and three frames ago meet at the same moments: 2^15 ways, few values."""
    plates = [Plate(id="p0", kind="text", values={"turn": Rate(0.0, 24.0)})]
    for n in range(1, 16):
        text = f'(value("plates/p{n - 1}/turn", 0, 2) + value("plates/p{n - 1}/turn", 0, 3)) / 2'
        plates.append(Plate(id=f"p{n}", kind="text", values={"turn": Formula(text)}))
    shot = Shot(width=64, height=48, rate=Fraction(24), length=48, plates=tuple(plates))
    assert turn_of(shot, "p15", 40) == pytest.approx(40 - 15 * 2.5)


def test_values_that_follow_one_another_too_deep_are_one_line():
    plates = [Plate(id="p0", kind="text", values={"turn": 5.0})]
    plates += [Plate(id=f"p{n}", kind="text", values={"turn": follow(f"plates/p{n - 1}/turn")}) for n in range(1, 400)]
    shot = Shot(width=64, height=48, rate=Fraction(24), length=48, plates=tuple(plates))
    assert turn_of(shot, "p40", 0) == 5
    with pytest.raises(NimbleQuakeError, match="over 48 deep"):
        turn_of(shot, "p399", 0)


def bursts(tmp_path: Path) -> Path:
    """Two low bursts, at half a second and one and a half, the second half as loud."""
    samples = np.zeros((96_000, 2))
    t = np.arange(9600) / 48_000
    for at, loud in ((0.5, 1.0), (1.5, 0.5)):
        first = round(at * 48_000)
        samples[first : first + 9600] += (loud * 16_000 * np.sin(2 * np.pi * 80 * t))[:, None]
    return write_wav(tmp_path / "bursts.wav", samples)


def test_a_value_goes_as_loud_as_a_band(tmp_path):
    sounds = (Node(id="s", kind="sound", values={"file": str(bursts(tmp_path))}),)
    bands = (
        Node(id="low", kind="band", values={"low": 40.0, "high": 160.0}),
        Node(id="high", kind="band", values={"low": 4000.0, "high": 8000.0}),
    )
    settings = {"band": "low", "attack": 0.0, "release": 0.0}
    motion = Driven(10.0, 100.0, drivers()["sound"](settings))
    shot = shot_with(motion, 0.0, sounds=sounds, bands=bands)
    assert turn_of(shot, "a", 6) == pytest.approx(10, abs=1)
    assert turn_of(shot, "a", 14) == pytest.approx(110, abs=10), "the loudest it gets is all of it"
    assert turn_of(shot, "a", 38) == pytest.approx(60, abs=5), "half as loud"
    later = set_value(shot, "sounds/s/start", 12.0)
    assert turn_of(later, "a", 26) == pytest.approx(110, abs=10)
    muted = Shot(**{n: getattr(shot, n) for n in shot.__struct_fields__ if n != "sounds"})
    assert turn_of(muted, "a", 14) == 10, "a shot without sounds is silent"
    gone = shot_with(Driven(1.0, 1.0, drivers()["sound"]({"band": "none"})), 0.0, sounds=sounds, bands=bands)
    with pytest.raises(NimbleQuakeError, match="no band"):
        turn_of(gone, "a", 0)


def test_a_dragged_band_or_gain_is_never_stale(tmp_path):
    """One engine, many shots: each is answered for itself."""
    engine = Engine()
    sounds = (Node(id="s", kind="sound", values={"file": str(bursts(tmp_path)), "fade_out": 1.2}),)
    bands = (Node(id="low", kind="band", values={"low": 40.0, "high": 160.0}),)
    shot = shot_with(
        Driven(0.0, 1.0, drivers()["sound"]({"band": "low", "attack": 0.0, "release": 0.0})),
        0.0,
        sounds=sounds,
        bands=bands,
    )
    plate = shot.plate("a")
    assert plate is not None
    found = []
    for changed in (shot, set_value(shot, "bands/low/low", 3000.0), set_value(shot, "sounds/s/fade_out", 0.0), shot):
        found.append(frame_job(engine, changed, 38).operator("plate", plate, "plates/a").values["turn"])  # type: ignore[union-attr]
    assert found[0] == found[3]
    assert found[0] < found[2]


def test_beats_and_markers_kick():
    beat = Driven(0.0, 10.0, drivers()["beat"]({"curve": "fall", "lasts": 0.25}))
    marker = Driven(0.0, 10.0, drivers()["beat"]({"curve": "fall", "lasts": 0.25, "of": "markers"}))
    shot = shot_with(beat, marker, beats=(6.0, 18.0), markers=(Marker(frame=20),))
    assert [turn_of(shot, "a", n) for n in (0, 6, 9, 18)] == [0, 10, 5, 10]
    assert [turn_of(shot, "b", n) for n in (18, 20, 23)] == [0, 10, 5]


def test_what_looks_at_other_times_sees_followed_values_there():
    """An echo of a map whose step follows a value elsewhere must change when that value does: nothing stale."""
    recipe = (
        Node(id="g", kind="flat", values={"at_rest": False, "value": follow("plates/a/opacity")}),
        Node(id="e", kind="echo", values={"copies": 3.0}),
    )
    grid, engine = frame_grid(64, 48, 1.0), Engine()

    def shown(opacity: object) -> np.ndarray:
        plate = Plate(id="a", kind="text", values={"opacity": opacity})
        map = Map(id="m", name="M", recipe=recipe)
        shot = Shot(width=64, height=48, rate=Fraction(24), length=48, plates=(plate,), maps=(map,))
        return map_field(frame_job(engine, shot, 30), map, grid).copy()

    ramp = Keys(
        (
            Key(frame=0, value=0.0, after="straight"),
            Key(frame=30, value=0.5, after="straight"),
            Key(frame=40, value=1.0),
        )
    )
    other = Keys((Key(frame=0, value=1.0, after="straight"), Key(frame=30, value=0.5)))
    first, second, again = shown(ramp), shown(other), shown(ramp)
    assert np.array_equal(first, again)
    assert not np.array_equal(first, second)


class TestSpans:
    def shot(self, span: tuple[int, int] | None, fades: tuple[int, int] = (0, 0)) -> Shot:
        flat = Node(id="f", kind="flat", values={"at_rest": False, "value": 1.0})
        push = Node(id="p", kind="push", span=span, fades=fades, values={"map": "m", "reach_x": 20.0, "reach_y": 0.0})
        plate = Plate(id="a", kind="text", values={"words": "AB", "size": 30.0}, effects=(push,))
        return Shot(
            width=96,
            height=48,
            rate=Fraction(24),
            length=48,
            plates=(plate,),
            maps=(Map(id="m", name="M", recipe=(flat,)),),
        )

    def picture(self, shot: Shot, frame: int) -> np.ndarray:
        return frame_picture(frame_job(Engine(), shot, frame), 1.0)

    def test_outside_its_span_an_effect_does_nothing_bit_for_bit(self):
        always, some, none = (self.picture(self.shot(span), 20) for span in (None, (20, 30), (0, 20)))
        unpushed = self.shot(None)
        plain = set_value(unpushed, "plates/a/effects/p/strength", 0.0)
        assert np.array_equal(always, some)
        assert np.array_equal(none, self.picture(plain, 20))
        assert not np.array_equal(always, none)

    def test_in_its_fades_it_moves_less(self):
        """Halfway through a fade of three frames a push of 20 px is one of 10 px."""
        faded_ = self.picture(self.shot((10, 40), (3, 3)), 11)
        half = set_value(self.shot(None), "plates/a/effects/p/strength", 0.5)
        assert np.array_equal(faded_, self.picture(half, 11))

    def test_shares(self):
        node = Node(id="n", kind="push", span=(10, 20), fades=(4, 1))
        assert [faded(node, n, 48) for n in (9, 10, 11, 13, 14, 18, 19, 20)] == [0, 0.2, 0.4, 0.8, 1, 1, 0.5, 0]
        assert faded(Node(id="n", kind="push"), 1e9, 48) == 1
        bar = Plate(id="p", kind="fill", start=10, fades=(4, 1))
        assert [faded(bar, n, 20) for n in (9, 10, 11, 13, 14, 18, 19, 20)] == [0, 0.2, 0.4, 0.8, 1, 1, 0.5, 0]
        assert faded(Plate(id="p", kind="fill", start=10, end=20), 30, 48) == 1, "without fades the bar alone counts"
