"""What each source promises, seen in the maps it makes."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import msgspec
import numpy as np
import pytest

from nimble_quake.errors import FormulaError, ShotError
from nimble_quake.motion.kinds import Formula, Key, Keys, Rate
from nimble_quake.operators.hits import living, on_frames
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Stop
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.sources.gradient import spread_evenly

SIZE = (320, 180)
GRID = frame_grid(*SIZE)


def made(kind: str, frame: Any = 20, grid: Any = GRID, others: Any = (), **values: Any) -> np.ndarray:
    """The values of a map with one source."""
    title = Plate(id="title", kind="text", values={"size": 90.0, "words": "ROW"})
    map = Map(id="map", name="", recipe=(Node(id="s", kind=kind, values=values),))
    shot = Shot(width=SIZE[0], height=SIZE[1], length=900, plates=(title,), maps=(map, *others))
    return map_field(frame_job(Engine(), shot, frame), map, grid)


@pytest.mark.parametrize("fills", [False, True])
@pytest.mark.parametrize("effects", [False, True])
def test_the_alpha_of_a_plate_is_that_of_its_colours(fills, effects):
    """Taken alone it is what the channel "alpha" of all its colours is, beyond the frame and with effects too."""
    title = Plate(
        id="title",
        kind="fill" if fills else "text",
        values={} if fills else {"size": 90.0, "words": "ROW", "position": (40.0, 60.0)},
        effects=(Node(id="p", kind="push", values={"map": "noise", "reach_x": 40.0}), Node(id="o", kind="outline")),
    )
    noise = Map(id="noise", name="", recipe=(Node(id="n", kind="noise", values={"size_x": 60.0}),))

    def field(grid, *recipe):
        map = Map(id="map", name="", recipe=recipe)
        shot = Shot(width=SIZE[0], height=SIZE[1], length=90, plates=(title,), maps=(map, noise))
        return map_field(frame_job(Engine(), shot, 20), map, grid)

    reads = {"plate": "title", "with_quakes": effects}
    alone = Node(id="s", kind="picture", values={**reads, "take": "alpha"})
    whole = Node(id="s", kind="picture", values={**reads, "take": "colour"})
    channel = Node(id="c", kind="channel", values={"which": "alpha"})
    for grid in (GRID, GRID.grown(24), GRID.part(100, 40, 90, 70), GRID.part(-30, 20, 60, 50)):
        got = field(grid, alone)
        assert got.shape == (*grid.shape, 1)
        assert got == pytest.approx(field(grid, whole, channel), abs=1e-6)
    assert field(GRID, alone).max() == 1


class TestSmallThings:
    def test_a_patterns_shift_lays_it_aside(self):
        """By a whole cell it is the same; in rings a cell outwards too."""
        still = {"form": "dots", "size_x": 40.0, "size_y": 30.0}
        assert np.abs(made("pattern", shift=(40.0, 30.0), **still) - made("pattern", **still)).max() < 1e-5
        moved = made("pattern", shift=(10.0, 0.0), **still)
        assert np.abs(moved[:, 10:] - made("pattern", **still)[:, :-10]).max() < 1e-5
        ring = {**still, "rings": True, "count": 12.0}
        assert np.abs(made("pattern", shift=(0.0, 30.0), **ring) - made("pattern", **ring)).max() < 1e-3

    def test_particles_differ_in_opacity_and_cover_half_of_it_less_on_average(self):
        still = {"rate": 300.0, "speed": 0.0, "size": 3.0, "size_end": 3.0, "size_spread": 0.0, "fade_in": 0.0,
                 "fade_out": 0.0, "life_spread": 0.0, "width": 300.0, "height": 170.0, "soft": 0.0,
                 "last": (1.0, 1.0, 1.0, 1.0)}  # fmt: skip
        full, spread = (made("particles", 60, opacity_spread=s, **still)[..., 0] - 0.5 for s in (0.0, 0.8))
        assert spread.sum() / full.sum() == pytest.approx(1 - 0.8 / 2, abs=0.06)

    def test_a_line_as_wide_as_the_frame_reaches_both_borders(self):
        values = {"emitter": "line", "across": True, "rate": 900.0, "speed": 0.0, "size": 4.0, "size_end": 4.0}
        got = made("particles", 60, **values)[..., 0]
        columns = np.flatnonzero(np.abs(got - 0.5).max(axis=0) > 0.02)
        assert columns.min() <= 2
        assert columns.max() >= SIZE[0] - 3


class TestGradient:
    def test_four_stops_spread_evenly(self):
        """Common practice, no source: white-black-white-black spread evenly lie at 0, 1/3, 2/3 and 1."""
        stops = tuple(Stop(at, (v, v, v, 1.0)) for at, v in ((0.0, 1.0), (0.1, 0.0), (0.2, 1.0), (0.9, 0.0)))
        assert [stop.at for stop in spread_evenly(stops)] == pytest.approx([0, 1 / 3, 2 / 3, 1])
        row = made("gradient", stops=stops, even=True, start=(0.0, 90.0), end=(320.0, 90.0))[90, :, 0]
        assert row[[0, 107, 213, 319]] == pytest.approx([1, 0, 1, 0], abs=0.03)

    def test_mirrored_is_the_same_on_both_sides(self):
        row = made("gradient", shape="mirrored", start=(160.0, 90.0), end=(320.0, 90.0))[90, :, 0]
        assert np.abs(row - row[::-1]).max() < 1e-5

    def test_conic_goes_round_once(self):
        got = made("gradient", shape="conic", start=(160.0, 90.0), end=(320.0, 90.0))[..., 0]
        assert got[91, 300] > 0.97
        assert got[88, 300] < 0.03
        assert got[90, 20] == pytest.approx(0.5, abs=0.02)


class TestChance:
    @pytest.mark.parametrize("kind", ["static", "blocks"])
    def test_the_refresh_does_not_hang_on_the_shots_rate(self, kind):
        """At one moment of time a shot at 24 and one at 60 frames a second show the same."""
        assert np.array_equal(_at(kind, 24), _at(kind, 60))
        changes = [not np.array_equal(_at(kind, 24, n), _at(kind, 24, n + 1)) for n in range(24)]
        assert sum(changes) == 8

    def test_static_is_even_and_its_density_counts(self):
        full = made("static", size_x=4.0, size_y=4.0)
        assert full.mean() == pytest.approx(0.5, abs=0.02)
        assert full.std() == pytest.approx(12**-0.5, abs=0.02)  # the spread of even chance numbers
        some = made("static", size_x=4.0, size_y=4.0, density=0.3)
        assert (some != 0.5).mean() == pytest.approx(0.3, abs=0.03)

    def test_bursts_leave_moments_of_rest(self):
        seen = [float(np.ptp(made("blocks", frame, bursts=0.5, rate=10.0))) > 0 for frame in range(0, 600, 9)]
        assert 0.25 < np.mean(seen) < 0.75

    def test_rows_jump_by_no_more_than_they_may(self):
        stays = made("blocks", jumps=0.0, merge=0.0, density=1.0)[..., 0]
        edges = np.flatnonzero(np.abs(np.diff(stays, axis=1)).max(axis=0) > 1e-3) + 1
        assert set(edges % 80) == {0}


def _at(kind: str, shot_rate: int, number: int | None = None) -> np.ndarray:
    """The map after half a second, or at a frame of a shot of a rate; refreshed 8 times a second."""
    map = Map(id="map", name="", recipe=(Node(id="s", kind=kind, values={"rate": 8.0, "size_x": 8.0, "size_y": 8.0}),))
    shot = Shot(width=64, height=36, length=200, rate=Fraction(shot_rate), maps=(map,))
    return map_field(frame_job(Engine(), shot, shot_rate / 2 if number is None else number), map, frame_grid(64, 36))


class TestHits:
    def test_three_groups_five_frames_apart(self):
        """Common practice, no source: three ring groups 5 frames apart begin at 0, 5 and 10."""
        begun = [len(living(frame / 30, 0.0, 3, 5 / 30, 0.0, 9.0)) for frame in range(13)]
        assert begun == [1] * 5 + [2] * 5 + [3] * 3

    def test_rows_of_hits_begin_again_without_end(self):
        for now in (0.1, 20.1, 2000.1):
            assert [round(hit.age, 3) for hit in living(now, 0.0, 2, 0.05, 1.0, 0.5)] == [0.1, 0.05]
        assert living(-0.1, 0.0, 2, 0.05, 1.0, 0.5) == []

    def test_several_at_every_beat_one_after_the_other(self):
        """Beats at 0 and 1 s, three each, 0.2 s apart: at 1.3 s those of 0.2, 0.4, 1.0 and 1.2 s are seen for 1.2 s."""
        ages = [round(hit.age, 6) for hit in on_frames(1.3, (0.0, 30.0), 30.0, 1.2, each=3, stagger=0.2)]
        assert ages == [1.1, 0.9, 0.3, 0.1]
        one = on_frames(1.3, (0.0, 30.0), 30.0, 1.2)
        assert [round(hit.age, 6) for hit in one] == [0.3]

    def test_never_more_than_can_be_shown(self):
        assert len(living(5.0, 0.0, 1000, 1e-9, 1e-9, 3600.0)) <= 64


class TestMoving:
    def test_rings_grow_at_their_speed(self):
        """Radius = speed x age; at rest outside."""
        for frame in (10, 20):
            row = made("rings", frame, count=1, speed=200.0, width=16.0, centre=(0.0, 90.0), life=5.0)[90, :, 0]
            weight = np.abs(row - 0.5)
            assert (np.arange(320) * weight).sum() / weight.sum() == pytest.approx(200 * frame / 30, abs=6)

    @pytest.mark.parametrize("follow", [False, True])
    def test_rings_stay_where_they_began_or_follow(self, follow):
        """The middle of a ring, half a second after it began at x = 100 under a centre that goes 120 px/s."""
        centre = Rate((100.0, 90.0), (120.0, 0.0))
        row = made("rings", 15, count=1, speed=100.0, width=10.0, centre=centre, follow=follow, life=5.0, fade=0.0)[90]
        row = row[:, 0]
        weight = np.abs(row - 0.5)
        assert (np.arange(320) * weight).sum() / weight.sum() == pytest.approx(160 if follow else 100, abs=2)

    def test_drips_never_end_nor_restart(self):
        """As much water at once after an hour as at the start, and streaks above heads that have left the frame."""
        small = {"speed": 150.0, "lane": 14.0, "radius": 3.0, "spacing": 120.0}
        amounts = [float((made("drips", frame, **small) - 0.5).mean()) for frame in (0, 40, 108_000, 108_040)]
        assert max(amounts) < 2 * min(amounts)
        top = made("drips", 30, grid=frame_grid(*SIZE).part(0, 0, 320, 60), lane=20.0)
        assert np.array_equal(top, made("drips", 30, lane=20.0)[:60])

    def test_particles_are_closed_form(self):
        """A pre-run of two seconds is the same as looking two seconds later; the number alive is rate x life."""
        values = {
            "rate": 60.0,
            "life": 1.0,
            "life_spread": 0.0,
            "fade_out": 0.0,
            "fade_in": 0.0,
            "place": (160.0, 90.0),
        }
        assert np.array_equal(made("particles", 30, pre=2.0, **values), made("particles", 90, **values))
        steady = {**values, "rate": 3.0, "life": 2.0, "size": 6.0, "size_end": 6.0, "size_spread": 0.0, "soft": 0.0}
        few = made("particles", 90, **steady, width=300.0, height=160.0, speed=0.0)
        assert (few - 0.5).sum() / 0.5 == pytest.approx(6 * np.pi * 3**2 * 0.75, rel=0.4)

    def test_particles_are_born_where_a_map_is_bright(self):
        """At a white left half, no particle begins in the right one."""
        half = Map(
            id="half",
            name="",
            recipe=(Node(id="g", kind="bands", values={"count": 2, "turn": 0.0, "first": 1.0, "last": 0.0}),),
        )
        got = made("particles", 60, others=(half,), emitter="map", map="half", speed=0.0, size=6.0)[..., 0]
        assert np.ptp(got[:, :150]) > 0.1
        assert np.ptp(got[:, 172:]) == 0

    def test_a_moving_emitter_leaves_what_it_bore_where_it_was(self):
        """Particles without speed mark the way their source went; each stays when the source has gone on."""
        way = Rate((20.0, 90.0), (120.0, 0.0))
        white = (1.0, 1.0, 1.0, 1.0)
        still = {
            "emitter": "point",
            "speed": 0.0,
            "size": 8.0,
            "size_end": 8.0,
            "size_spread": 0.0,
            "rate": 15.0,
            "life": 9.0,
            "life_spread": 0.0,
            "fade_in": 0.0,
            "fade_out": 0.0,
            "last": white,
        }
        early, late = (made("particles", frame, place=way, **still)[86:94, :, 0].max(axis=0) for frame in (30, 60))
        seen = [np.flatnonzero(row > 0.8) for row in (early, late)]
        assert seen[0].max() == pytest.approx(140, abs=10)
        assert seen[1].max() == pytest.approx(260, abs=10)
        assert np.array_equal(early[:130], late[:130]), "what is born does not move with its source"

    def test_when_the_rate_falls_no_more_come_and_none_jump(self):
        falling = Keys((Key(frame=0, value=80.0, after="hold"), Key(frame=20, value=0.0)))
        numbers = {
            "speed": 0.0,
            "life": 9.0,
            "life_spread": 0.0,
            "fade_in": 0.0,
            "fade_out": 0.0,
            "size_end": 26.0,
            "last": (1.0, 1.0, 1.0, 1.0),
        }
        steady, *after = (made("particles", frame, rate=falling, **numbers) for frame in (19, 40, 80))
        assert np.array_equal(after[0], after[1])
        assert np.abs(after[0] - steady).mean() < 0.3 * np.abs(steady - 0.5).mean()

    def test_wind_that_changes_carries_on_from_where_they_are(self):
        """A wind that sinks from 300 px/s to none in a quarter of a second carries 37.5 px, and then back."""
        wind = Keys((Key(frame=0, value=(300.0, 0.0), after="straight"), Key(frame=15, value=(-300.0, 0.0))))
        numbers = {
            "emitter": "point",
            "place": (200.0, 90.0),
            "burst": 1,
            "rate": 0.0,
            "speed": 0.0,
            "life": 9.0,
            "size": 10.0,
            "fade_in": 0.0,
            "life_spread": 0.0,
        }
        middles = []
        for frame in range(1, 31):
            weight = np.abs(made("particles", frame, wind=wind, **numbers)[..., 0] - 0.5).sum(axis=0)
            middles.append((np.arange(320) * weight).sum() / weight.sum() + 0.5)
        assert np.abs(np.diff(middles)).max() < 300 / 30 + 1
        assert max(middles) == pytest.approx(200 + 37.5, abs=1.5), (
            "half a second of wind from 300 to 0 and back: 37.5 px"
        )
        assert middles[-1] < middles[7]

    def test_a_formula_that_begins_with_the_shot_stands_before_it(self):
        """A pre-run asks for numbers before frame 0, where a root of t has none: the first one counts."""
        rooted = made("particles", 20, pre=2.0, speed=Formula("80 * sqrt(t)"))
        assert np.ptp(rooted) > 0.2
        guarded = made("particles", 20, pre=2.0, speed=Formula("80 * sqrt(max(t, 0))"))
        assert np.array_equal(rooted, guarded)
        with pytest.raises(FormulaError, match="divides by zero"):
            made("particles", 0, speed=Formula("80 / t"))

    def test_births_follow_a_map_that_moves(self):
        """The bright band wanders to the right; what was born on the left while it was there stays there."""
        centre = Rate((60.0, 90.0), (100.0, 0.0))
        spot = Map(
            id="spot",
            name="",
            recipe=(
                Node(
                    id="g",
                    kind="shape",
                    values={"form": "ellipse", "place": centre, "width": 40.0, "height": 40.0, "soft": 0.0},
                ),
            ),
        )
        numbers = {"speed": 0.0, "size": 6.0, "size_end": 6.0, "life": 9.0, "life_spread": 0.0, "fade_out": 0.0}
        got = made("particles", 60, others=(spot,), emitter="map", map="spot", rate=300.0, **numbers)[60:120, :, 0]
        columns = np.ptp(got, axis=0)
        assert columns[60:240].min() > 0.1
        assert columns[:34].max() == columns[290:].max() == 0

    def test_particles_come_from_a_plates_outline(self):
        got = made("particles", 60, emitter="outline", plate="title", speed=0.0, size=4.0, rate=800.0)[..., 0]
        letters = made("picture", plate="title")[..., 0] > 0.5
        assert np.abs(got - 0.5)[letters].mean() > 3 * np.abs(got - 0.5)[~letters].mean()

    def test_water_rests_on_average_and_runs(self):
        frames = [made("water", frame) for frame in range(0, 90, 9)]
        assert np.mean(frames) == pytest.approx(0.5, abs=0.03)
        assert np.abs(frames[1] - frames[0]).mean() > 0.005


class TestShape:
    @pytest.mark.parametrize(("form", "area"), [("ellipse", np.pi / 4), ("rectangle", 1.0)])
    def test_areas(self, form, area):
        """An ellipse covers pi/4 of its box, a rectangle all."""
        got = made("shape", form=form, width=200.0, height=100.0, soft=0.0, place=(160.0, 90.0))
        assert ((got - 0.5) * 2).sum() == pytest.approx(area * 200 * 100, rel=0.01)

    def test_a_plates_outline_is_followed(self):
        got = made("shape", form="plate", plate="title", soft=0.0)[..., 0]
        letters = made("picture", plate="title")[..., 3]
        assert np.abs((got - 0.5) * 2 - letters).max() < 1e-3

    def test_it_grows_and_fades(self):
        values = {
            "form": "ellipse",
            "life": 2.0,
            "count": 1,
            "grow": 3.0,
            "fade": 1.0,
            "width": 40.0,
            "height": 40.0,
            "soft": 2.0,
            "place": (160.0, 90.0),
        }
        early, late = made("shape", 10, **values), made("shape", 50, **values)
        assert (late > 0.505).sum() > 2 * (early > 0.505).sum()
        assert late.max() < early.max()
        assert np.ptp(made("shape", 61, **values)) == 0


def test_flat_is_rest_bit_for_bit():
    assert (made("flat") == 0.5).all()
    assert (made("flat", at_rest=False, value=0.25) == 0.25).all()


def test_ribs_by_count_fill_the_frame_at_any_turn():
    for turn in (0.0, 90.0):
        got = made("ribs", by="count", count=9, turn=turn)[..., 0]
        line = got[90] if turn == 0 else got[:, 160]
        assert (np.diff(line) < -0.5).sum() == 8


def test_noise_kinds_swap_and_keep_what_applies():
    from nimble_quake.shot.edits.swap import with_kind

    values = {"size_x": 70.0, "seed": 8, "combine": "add", "opacity": 0.4}
    recipe = (Node(id="s", kind="noise", values=values),)
    shot = Shot(width=64, height=36, maps=(Map(id="m", name="", recipe=recipe),))
    swapped = with_kind(shot, "maps/m/steps/s", "blocks", registry().get).maps[0].recipe[0]
    assert swapped.values == values


class TestAnotherMap:
    """In closed form: what it shows is the other map, channel by channel; what it is combined with, sums about rest."""

    NOISE = Node(id="n", kind="noise", values={"size_x": 60.0, "size_y": 40.0, "churn": 1.0})
    SLOPE = Node(id="h", kind="height_to_slope", values={"elevation": 40.0})

    def other(self, *steps: Node, frame: int = 20) -> tuple[Map, np.ndarray]:
        map = Map(id="o", name="", recipe=steps)
        shot = Shot(width=SIZE[0], height=SIZE[1], length=900, maps=(map,))
        return map, map_field(frame_job(Engine(), shot, frame), map, GRID)

    @pytest.mark.parametrize(
        "steps", [(NOISE,), (NOISE, SLOPE), (Node(id="g", kind="gradient", values={"colour": True}),)]
    )
    def test_it_shows_a_map_as_it_is(self, steps):
        map, wanted = self.other(*steps)
        got = made("another_map", others=(map,), other="o")
        assert got.shape == wanted.shape
        assert np.abs(got - wanted).max() < 1e-6

    def test_it_shows_it_at_another_time(self):
        map, wanted = self.other(self.NOISE, frame=32)
        assert np.abs(made("another_map", others=(map,), other="o", later=0.4)[..., 0] - wanted[..., 0]).max() < 1e-5
        _, before = self.other(self.NOISE, frame=8)
        assert np.abs(made("another_map", others=(map,), other="o", later=-0.4)[..., 0] - before[..., 0]).max() < 1e-5
        assert np.abs(before - wanted).max() > 0.1

    def test_two_maps_are_added_about_rest(self):
        map, first = self.other(self.NOISE)
        second = made("ribs", width=40.0)
        steps = (
            Node(id="r", kind="ribs", values={"width": 40.0}),
            Node(id="a", kind="another_map", values={"other": "o", "combine": "add"}),
        )
        both = Map(id="map", name="", recipe=steps)
        shot = Shot(width=SIZE[0], height=SIZE[1], length=900, maps=(map, both))
        got = map_field(frame_job(Engine(), shot, 20), both, GRID)
        assert np.abs(got - (first + second - 0.5)).max() < 1e-5

    def test_without_a_map_and_with_one_that_is_not_there_it_is_at_rest(self):
        assert (made("another_map") == 0.5).all()

    def test_a_loop_is_refused_with_its_path(self):
        back = Map(id="o", name="", recipe=(Node(id="b", kind="another_map", values={"other": "map"}),))
        with pytest.raises(ShotError, match="map"):
            made("another_map", others=(back,), other="o")


class TestPhaseAndOffset:
    """What is added to what churn has turned and drift has gone is the same as if they had turned and gone as far."""

    WAYS: tuple[dict[str, Any], ...] = (
        {},
        {"swirl": True},
        {"rings": True},
        {"bend": 0.8},
        {"base": "simplex"},
        {"colour": True},
    )

    @pytest.mark.parametrize("way", WAYS)
    def test_a_phase_is_a_churn_that_has_gone_as_far(self, way):
        noise = {"size_x": 60.0, "size_y": 50.0, **way}
        wanted = made("noise", frame=30, churn=0.7, **noise)
        assert np.abs(made("noise", frame=0, phase=0.7, **noise) - wanted).max() < 2e-4
        assert np.abs(made("noise", frame=30, churn=0.5, phase=0.2, **noise) - wanted).max() < 2e-4
        assert np.abs(made("noise", frame=0, **noise) - wanted).max() > 0.1

    @pytest.mark.parametrize("way", WAYS)
    def test_an_offset_is_a_drift_that_has_gone_as_far(self, way):
        noise = {"size_x": 60.0, "size_y": 50.0, **way}
        wanted = made("noise", frame=30, drift=(50.0, -20.0), **noise)
        assert np.abs(made("noise", frame=0, offset=(50.0, -20.0), **noise) - wanted).max() < 2e-4

    def test_two_turns_that_are_pinned_come_round_in_a_loop(self):
        """A whole period of the lattice in depth is the same noise (256 turns)."""
        first = made("noise", phase=0.25, size_x=60.0)
        assert np.abs(made("noise", phase=256.25, size_x=60.0) - first).max() < 2e-4
        looped = [made("noise", frame=f, churn=1.0, loop=2.0, phase=0.3, size_x=60.0) for f in (0, 60)]
        assert np.abs(looped[0] - looped[1]).max() < 2e-4


class TestHitsByTimes:
    """Each pin of the place is a hit: at its frame, where it lies; whatever lies between the pins."""

    PINS = ((5.0, (80.0, 90.0)), (15.0, (240.0, 60.0)))

    def keyed(self) -> Keys:
        return Keys(tuple(Key(frame=frame, value=place) for frame, place in self.PINS))

    @pytest.mark.parametrize(
        ("kind", "place", "more"),
        [
            ("rings", "centre", {"life": 1.0, "width": 12.0, "speed": 90.0}),
            ("shape", "place", {"life": 1.0, "width": 30.0, "height": 30.0}),
        ],
    )
    @pytest.mark.parametrize("frame", [2, 6, 20, 60])
    def test_as_single_hits_at_those_frames_and_places(self, kind, place, more, frame):
        alone = [
            made(kind, frame, when="own", first=at / 30, count=1, **{place: where}, **more) - 0.5
            for at, where in self.PINS
        ]
        together = made(kind, frame, when="times", **{place: self.keyed()}, **more) - 0.5
        assert np.abs(together - sum(alone)).max() < 1e-5
        assert (np.abs(together).max() > 0.05) == (frame in (6, 20))

    def test_several_at_each_follow_each_other_at_its_place(self):
        more = {"life": 1.0, "width": 12.0, "speed": 90.0}
        twice = made("rings", 14, when="times", each=2, stagger=0.2, centre=self.keyed(), **more) - 0.5
        place = self.PINS[0][1]
        alone = [made("rings", 14, first=5 / 30 + k * 0.2, count=1, centre=place, **more) - 0.5 for k in (0, 1)]
        assert np.abs(twice - sum(alone)).max() < 1e-5

    def test_without_pins_there_is_one_at_the_start(self):
        more = {"life": 1.0, "centre": (100.0, 90.0)}
        assert np.abs(made("rings", 9, when="times", **more) - made("rings", 9, count=1, **more)).max() < 1e-6


class TestLayersWithRatios:
    STILL = {"size_x": 60.0, "size_y": 50.0, "octaves": 2}

    def alone(self, frame: int, layer: int, speed: float, phase: float, **more: Any) -> np.ndarray:
        moving = {"churn": 0.8 * speed**layer, "drift": (30.0 * speed**layer, 0.0)}
        return made("noise", frame, phase=layer * phase, seed=1 + 1009 * layer, **self.STILL, **moving, **more) - 0.5

    @pytest.mark.parametrize("more", [{}, {"two": True}, {"bend": 0.8}, {"swirl": True}, {"colour": True}])
    def test_noise_is_the_sum_of_its_layers_with_the_spread_of_one(self, more):
        """0.6 as fast each, half as strong each; their weights are 1, 1/2, 1/4 over the root of their squares' sum."""
        got = made("noise", 50, layers=3, layer_speed=0.6, layer_light=0.5, layer_phase=0.2, churn=0.8,
                   drift=(30.0, 0.0), **self.STILL, **more)  # fmt: skip
        weights = np.array([1, 0.5, 0.25]) / np.sqrt(1 + 0.25 + 0.0625)
        wanted = sum(w * self.alone(50, k, 0.6, 0.2, **more) for k, w in enumerate(weights)) + 0.5
        channels = slice(0, 3)  # alpha of a coloured one stays 1
        assert np.abs(got[..., channels] - wanted[..., channels]).max() < 1e-5

    def test_layers_that_loop_come_round(self):
        looped = {"layers": 3, "churn": 1.0, "drift": (40.0, 0.0), "loop": 2.0, **self.STILL}
        assert np.abs(made("noise", 5, **looped) - made("noise", 65, **looped)).max() < 1e-4
        assert np.abs(made("noise", 5, **looped) - made("noise", 25, **looped)).max() > 0.05

    def test_one_layer_is_what_it_was(self):
        assert (
            made("noise", 9, layer_speed=0.1, layer_light=0.1, **self.STILL) == made("noise", 9, **self.STILL)
        ).all()

    def test_drips_of_layers_finer_than_seen_come_to_an_end(self):
        """Eight layers, each a twentieth as large: before, the last had more lanes than could ever be looked at."""
        fine = {"lane": 1.0, "radius": 1.0, "layer_size": 0.05, "density": 1.0}
        most = made("drips", 30, layers=8, **fine)
        assert np.isfinite(most).all()
        assert (most >= made("drips", 30, layers=2, **fine)).all(), "what is seen of the larger ones stays"

    def test_drips_of_a_second_layer_are_fainter_and_slower(self):
        """Seen alone: what a layer more adds to the map."""
        still = {"density": 1.0, "speeds": 0.0, "wander": 0.0, "low": 0.0, "high": 1.0}
        one = made("drips", 30, layers=1, **still)
        two, faint = (made("drips", 30, layers=2, layer_light=light, **still) for light in (1.0, 0.4))
        assert one.max() > 0.9
        added = (two > one + 0.05) & (one < 0.01)
        assert added.any()
        assert np.abs(faint[added] / two[added] - 0.4).max() < 1e-3
        stands = [made("drips", frame, layers=2, layer_speed=0.0, **still)[added & (one < 0.01)] for frame in (30, 31)]
        moves = [made("drips", frame, layers=2, **still)[added & (one < 0.01)] for frame in (30, 31)]
        assert np.abs(moves[0] - moves[1]).max() > 0.1
        assert np.median(np.abs(stands[0] - stands[1])) < 1e-6


class TestSoundTilesInDepth:
    """Seen from the front, all alike, so that where they stand is seen at once."""

    FLAT = {"tilt": 0.0, "swing": 0.0, "roll": 0.0, "columns": 5, "rows": 3, "size": 30.0, "gap": 0.3, "thick": 2.0,
            "unlike": 0.0, "lag": 0.0, "push": 0.0, "turn": 0.0, "light": 0.0, "grey": 1.0, "shade": 0.0}  # fmt: skip

    def cover(self, frame: int = 40, **more: Any) -> np.ndarray:
        return made("sound_tiles", frame, **{**self.FLAT, **more})[..., 0] > 0.5

    def middle(self, **more: Any) -> tuple[float, float]:
        rows, columns = np.nonzero(self.cover(**more))
        return float(columns.mean()), float(rows.mean())

    def test_layers_stand_behind_the_first_and_look_smaller(self):
        """At 1400 px from the eye, 700 px deeper is seen at two thirds of the size."""
        one, two = self.cover(), self.cover(levels=2, level_gap=700.0)
        assert (two & one).sum() == one.sum(), "the first layer hides what is behind it"
        behind = np.flatnonzero((two & ~one).any(axis=0))
        ends = np.flatnonzero(one.any(axis=0))
        assert len(behind) > 0
        assert ends.min() <= behind.min()
        assert behind.max() <= ends.max()

    def test_part_of_a_circle(self):
        whole, half = self.cover(layout="ring", columns=16), self.cover(layout="ring", columns=16, arc=0.5)
        assert whole[:70].any()
        assert whole[110:].any()
        assert half[110:].any()
        assert not half[:70].any(), "they stand in its lower half"

    def test_lift_goes_up_and_draw_back_away(self):
        x, y = self.middle()
        lifted = self.middle(lift=40.0)
        assert lifted[0] == pytest.approx(x, abs=8), "each goes by its own chance"
        assert lifted[1] < y - 2
        assert self.cover(back=600.0).sum() < self.cover().sum() * 0.95 < self.cover(push=200.0).sum()

    def test_scatter_is_by_chance_and_stays(self):
        assert (self.cover(scatter=20.0) != self.cover()).any()
        assert (self.cover(40, scatter=20.0) == self.cover(41, scatter=20.0)).all()
        assert (self.cover(scatter=20.0, seed=9) != self.cover(scatter=20.0)).any()

    def test_more_blocks_than_there_may_be_are_said(self):
        step = Node(id="s", kind="sound_tiles", values={"columns": 100, "rows": 60, "levels": 6})
        shot = Shot(width=320, height=180, length=9, maps=(Map(id="m", recipe=(step,)),))
        job = frame_job(Engine(), shot, 0)
        map_field(job, shot.maps[0], frame_grid(320, 180, 0.1))
        assert any("1 of 6 layers are drawn" in problem.what for problem in job.problems.values())


class TestALiveCopyOfAMap:
    """Another map with some of its values other ones: it follows the original in all else."""

    OTHER = Map(
        id="o",
        name="",
        recipe=(
            Node(id="n", kind="noise", values={"size_x": 60.0, "churn": 0.5}),
            Node(id="b", kind="blur", values={"radius": 6.0}),
        ),
    )

    def with_value(self, step: int, **values: Any) -> Map:
        steps = list(self.OTHER.recipe)
        steps[step] = msgspec.structs.replace(steps[step], values={**steps[step].values, **values})
        return msgspec.structs.replace(self.OTHER, recipe=tuple(steps))

    @pytest.mark.parametrize(
        ("path", "text", "step", "name", "value"),
        [
            ("maps/o/steps/n/size_x", "140", 0, "size_x", 140.0),
            ("maps/o/steps/n/seed", "7", 0, "seed", 7),
            ("maps/o/steps/b/radius", "20", 1, "radius", 20.0),
        ],
    )
    def test_one_value_is_another_one(self, path, text, step, name, value):
        got = made("another_map", others=(self.OTHER,), other="o", exceptions=((path, text),))
        wanted = made("another_map", others=(self.with_value(step, **{name: value}),), other="o")
        assert np.abs(got - wanted).max() < 1e-6
        assert np.abs(got - made("another_map", others=(self.OTHER,), other="o")).max() > 0.01

    def test_it_follows_the_original_in_one_session(self):
        """One engine: what is remembered of the copy is not what it was before the original changed."""
        engine, exceptions = Engine(), (("maps/o/steps/n/size_x", "140"),)
        copy = Map(id="c", recipe=(Node(id="a", kind="another_map", values={"other": "o", "exceptions": exceptions}),))
        fields = []
        for other in (self.OTHER, self.with_value(0, seed=9), self.with_value(1, radius=0.0)):
            shot = Shot(width=SIZE[0], height=SIZE[1], length=90, maps=(copy, other))
            fields.append(map_field(frame_job(engine, shot, 20), copy, GRID))
        assert min(np.abs(a - b).max() for a, b in ((fields[0], fields[1]), (fields[1], fields[2]))) > 0.01

    def test_an_exception_that_makes_a_loop_is_refused(self):
        """The original's own step reads the copy then: it would read itself."""
        reads = Map(id="o", recipe=(Node(id="a", kind="another_map", values={"other": ""}),))
        with pytest.raises(ShotError, match="reads itself"):
            made("another_map", others=(reads,), other="o", exceptions=(("maps/o/steps/a/other", '"map"'),))

    def test_what_is_gone_is_left_out(self):
        got = made("another_map", others=(self.OTHER,), other="o", exceptions=(("maps/o/steps/gone/x", "1"),))
        assert np.abs(got - made("another_map", others=(self.OTHER,), other="o")).max() == 0


@pytest.mark.parametrize(("form", "round_"), [("nested", False), ("circles", True)])
def test_outlines_within_outlines(form, round_):
    """Four of them, each as wide as the fill says of its band, from a cell's rim inwards."""
    got = made("pattern", form=form, size_x=80.0, size_y=60.0, share=0.5)[..., 0]
    ys, xs = np.mgrid[0:180, 0:320] + 0.5
    u, v = (xs / 80) % 1 - 0.5, (ys / 60) % 1 - 0.5
    far = np.hypot(u, v) if round_ else np.maximum(np.abs(u), np.abs(v))
    bands = (8 * (0.5 - far)) % 1
    light, dark = (far < 0.48) & (bands > 0.15) & (bands < 0.35), (far < 0.48) & (bands > 0.65) & (bands < 0.85)
    assert got[light].min() > 0.9
    assert got[dark].max() < 0.1
    assert not round_ or got[far > 0.53].max() < 0.1
    assert round_ or got.mean() == pytest.approx(0.5625, abs=0.01), "outer halves of bands are the larger ones"
