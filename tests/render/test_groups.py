"""Groups and live copies: plates taken together, and shown once more."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import msgspec
import numpy as np
import pytest

from helpers import noise_map, rendered
from nimble_quake.errors import MotionError, ShotError
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Key, Keys
from nimble_quake.plates.group import Group
from nimble_quake.raster.colour.blend import blend_onto, flat
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot import groups
from nimble_quake.shot.edits.duplicate import duplicate
from nimble_quake.shot.edits.move import move
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.codec import decoded, encoded

W, H = 160, 96


def plate(id: str, kind: str = "text", *effects: Node, inside: str = "", **values: Any) -> Plate:
    if kind == "text":
        values = {"words": id.upper(), "size": 40.0, **values}
    return Plate(id=id, kind=kind, inside=inside, values=values, effects=effects)


def shot(*plates: Plate, ground: tuple[float, float, float, float] = (0.1, 0.2, 0.3, 1.0)) -> Shot:
    return Shot(
        width=W,
        height=H,
        rate=Fraction(24),
        length=48,
        ground=ground,
        plates=plates,
        maps=(noise_map("m", size_x=60.0, size_y=60.0, churn=0.5),),
    )


A = plate("a", position=(60.0, 40.0), colour=(1.0, 0.3, 0.2, 1.0))
B = plate("b", position=(90.0, 55.0), colour=(0.2, 0.9, 0.4, 1.0), opacity=0.6)
SKY = plate("sky", "fill", shape="linear")


def inside(id: str, *plates: Plate) -> tuple[Plate, ...]:
    return tuple(msgspec.structs.replace(each, inside=id) for each in plates)


class TestGroup:
    def test_one_that_only_holds_its_members_changes_no_bit(self):
        free = rendered(shot(A, B, SKY))
        held = rendered(shot(plate("g", "group"), *inside("g", A, B), SKY))
        assert np.array_equal(free, held)

    def test_isolated_normal_members_are_associative(self):
        """Porter-Duff source over is associative (W3C Compositing 1, section 9.1.4)."""
        free = rendered(shot(A, B, SKY))
        apart = rendered(shot(plate("g", "group", isolated=True), *inside("g", A, B), SKY))
        assert np.abs(free - apart).max() < 2e-6

    def test_isolated_members_do_not_blend_with_what_is_beneath(self):
        """W3C Compositing 1, section 2.2: a group is composited by itself, then as one element."""
        lit = msgspec.structs.replace(B, values={**B.values, "blend": "multiply"})
        apart = rendered(shot(plate("g", "group", isolated=True), *inside("g", lit, A), SKY))
        alone = rendered(shot(lit, A, ground=(0.0, 0.0, 0.0, 0.0)))
        wanted = rendered(shot(SKY))
        blend_onto(wanted, alone, mode="normal", opacity=1.0, left=0, up=0)
        assert np.abs(apart - wanted).max() < 2e-6
        assert np.abs(apart - rendered(shot(lit, A, SKY))).max() > 0.05

    def test_opacity_is_of_all_together(self):
        """W3C Compositing 1, section 4: group opacity multiplies the alpha of the composited group."""
        half = rendered(shot(plate("g", "group", opacity=0.5), *inside("g", A, B), SKY))
        alone = rendered(shot(A, B, ground=(0.0, 0.0, 0.0, 0.0)))
        wanted = rendered(shot(SKY))
        blend_onto(wanted, alone, mode="normal", opacity=0.5, left=0, up=0)
        assert np.abs(half - wanted).max() < 2e-6

    @pytest.mark.parametrize(
        ("outer", "inner", "by"), [(0.5, 1.0, 0.5), (0.5, 0.4, 0.2), (1.0, 0.0, 0.0), (2.0, 1.0, 2.0)]
    )
    def test_its_master_scales_what_all_effects_in_it_do(self, outer, inner, by):
        """The same as setting each by hand: strength of couplings, mix of finishes, which is never over all of it."""

        def pushed(strength: float, mix: float) -> tuple[Plate, ...]:
            push = Node(id="q", kind="push", values={"map": "m", "reach_x": 20.0, "strength": strength})
            tint = Node(id="t", kind="tint", values={"opacity": mix})
            return plate("a", "text", push, tint, position=(60.0, 40.0)), plate("b", "text", push)

        def grouped(members: tuple[Plate, ...], **master: float) -> Shot:
            group = msgspec.structs.replace(plate("h", "group", **{"master": inner} if master else {}), inside="g")
            top = plate("g", "group", **{"master": outer} if master else {})
            return shot(top, group, *inside("h", *members), SKY)

        by_hand = rendered(grouped(pushed(by, min(by * 0.8, 1.0))))
        mastered = rendered(grouped(pushed(1.0, 0.8), master=1.0))
        assert np.array_equal(mastered, by_hand)

    def test_its_master_moves(self):
        push = Node(id="q", kind="push", values={"map": "m", "reach_x": 20.0})
        keys = Keys((Key(frame=0, value=0.0, after="straight"), Key(frame=10, value=1.0)))
        moving = shot(plate("g", "group", master=keys), *inside("g", plate("a", "text", push)), SKY)
        still = shot(plate("g", "group", master=0.5), *inside("g", plate("a", "text", push)), SKY)
        assert np.array_equal(rendered(moving, 5), rendered(still, 5))
        assert not np.array_equal(rendered(moving, 5), rendered(moving, 6))

    def test_moving_it_moves_all_in_it(self):
        moved = rendered(shot(plate("g", "group", position=(W / 2 + 20, H / 2 - 8)), *inside("g", A, B), SKY))
        each = [
            msgspec.structs.replace(p, values={**p.values, "position": (x + 20, y - 8)})
            for p, (x, y) in ((A, (60, 40)), (B, (90, 55)))
        ]
        assert np.abs(moved - rendered(shot(*each, SKY))).max() < 2e-6

    def test_what_lies_beyond_the_frame_comes_in(self):
        out = msgspec.structs.replace(A, values={**A.values, "position": (-60.0, 40.0)})
        assert np.array_equal(rendered(shot(out)), rendered(shot()))
        assert (
            rendered(shot(plate("g", "group", position=(W / 2 + 120, H / 2)), *inside("g", out))) != rendered(shot())
        ).any()

    def test_effects_act_on_all_of_it_as_a_lens_does(self):
        push = Node(id="p", kind="push", values={"map": "m", "reach_x": 12.0, "reach_y": 6.0})
        clear = (0.0, 0.0, 0.0, 0.0)
        held = rendered(shot(plate("g", "group", push), *inside("g", A, B), ground=clear))
        lens = rendered(shot(plate("l", "lens", push), A, B, ground=clear))
        assert np.abs(held - lens).max() < 5e-6  # places are float32, counted from where the picture begins

    def test_one_that_stands_still_is_made_once_however_far_it_is_pushed(self, monkeypatch):
        """Twice, before it is known that it is asked for again; a push that grows asks for more and more of it."""
        made, gathered = [], Group.gathered
        monkeypatch.setattr(Group, "gathered", lambda *asked: made.append(1) or gathered(*asked))
        grows = Keys(keys=(Key(frame=0, value=4.0), Key(frame=20, value=24.0)))
        push = Node(id="p", kind="push", values={"map": "m", "reach_x": grows, "reach_y": 4.0})
        both, engine = shot(plate("g", "group", push), plate("a", inside="g")), Engine()
        frames = {frame: rendered(both, frame=frame) for frame in range(2, 12)}
        made.clear()
        for frame, alone in frames.items():
            assert np.abs(rendered(both, frame=frame, engine=engine) - alone).max() < 1e-5
        assert len(made) == 2

    def test_a_lens_in_it_sees_its_members_alone(self):
        dark = plate("l", "lens", Node(id="i", kind="invert"))
        got = rendered(shot(plate("g", "group", isolated=True), *inside("g", dark, A), SKY))
        sky = rendered(shot(SKY))
        assert np.abs(got[0, 0] - sky[0, 0]).max() < 1e-6  # not inverted where no member is
        assert np.abs(rendered(shot(plate("g", "group"), *inside("g", dark, A), SKY))[0, 0] - sky[0, 0]).max() > 0.1

    def test_half_size_is_the_full_frame_made_smaller(self):
        turned = shot(plate("g", "group", turn=20.0, scale_x=1.3, scale_y=1.3), *inside("g", A, B), SKY)
        full = rendered(turned)
        small = full.reshape(H // 2, 2, W // 2, 2, 4).mean(axis=(1, 3))
        assert np.abs(rendered(turned, scale=0.5) - small).mean() < 0.01

    def test_groups_lie_in_groups_and_have_times(self):
        nested = shot(
            plate("g", "group"), *inside("g", plate("h", "group", opacity=0.5)), *inside("h", A), *inside("g", B), SKY
        )
        early = msgspec.structs.replace(nested.plates[0], start=10)
        late = msgspec.structs.replace(nested, plates=(early, *nested.plates[1:]))
        assert (rendered(nested) != rendered(shot(B, SKY))).any()
        assert np.array_equal(rendered(late, frame=9), rendered(shot(SKY), frame=9))
        assert np.array_equal(rendered(late, frame=10), rendered(nested, frame=10))

    @pytest.mark.parametrize("names", [("a", ""), ("b", "a"), ("gone", "b")])
    def test_groups_inside_themselves_stand_free(self, names):
        first, second = (plate(id, "group", inside=name) for id, name in zip("ab", names, strict=True))
        one = shot(first, second, *inside("a", A, B))
        assert rendered(one).any()
        assert {p.inside for p in groups.in_order(one.plates)} <= {"", "a", "b"}


class TestReadOuts:
    """What a probe is told of a plate that is not stacked by itself: where its layer begins in the frame."""

    def seen(self, *plates: Plate) -> dict[str, Any]:
        found: dict[str, Any] = {}
        frame_picture(frame_job(Engine(), shot(*plates), 0), seen=found)
        return found

    def test_members_and_what_lies_beneath_a_lens(self):
        push = Node(id="p", kind="push", values={"map": "m", "reach_x": 12.0})
        pushed = plate("a", "text", push, position=(60.0, 40.0))
        free = self.seen(pushed)["a"]
        in_group = self.seen(plate("g", "group", push), *inside("g", pushed))["a"]
        under_lens = self.seen(plate("l", "lens", push), pushed)["a"]
        for layer in (in_group, under_lens):
            frame = layer.warp[:, max(0, -layer.top) :, max(0, -layer.left) :]
            top, left = max(layer.top, 0), max(layer.left, 0)
            y, x = free.top + 5 - top, free.left + 5 - left
            assert np.abs(frame[:, y, x] - free.warp[:, 5, 5]).max() < 1e-4

    def test_members_of_a_group_that_lies_elsewhere_are_not_told(self):
        held = self.seen(plate("g", "group", position=(100.0, 40.0)), *inside("g", A))
        assert "a" not in held
        assert "g" in held


class TestEdits:
    def test_group_and_ungroup(self):
        start = shot(A, SKY, B)
        made, path = groups.grouped(start, ["a", "b"])
        assert [(p.id, p.inside) for p in made.plates] == [("group", ""), ("a", "group"), ("b", "group"), ("sky", "")]
        again = groups.ungrouped(made, "group")
        assert [(p.id, p.inside) for p in again.plates] == [("a", ""), ("b", ""), ("sky", "")]
        assert path == "plates/group"

    def test_dragging_in_and_out(self):
        made, _ = groups.grouped(shot(A, B, SKY), ["a", "b"])
        into = move(made, "plates/sky", 1)
        assert [(p.id, p.inside) for p in into.plates][1] == ("sky", "group")
        out = move(into, "plates/sky", 0)
        assert next((p.id, p.inside) for p in out.plates) == ("sky", "")
        assert [p.id for p in move(out, "plates/group", 0).plates] == ["group", "a", "b", "sky"]
        assert next((p.id, p.inside) for p in groups.taken_out(made, "b").plates) == ("b", "")

    def test_a_group_goes_and_is_copied_whole(self):
        made, path = groups.grouped(shot(A, B, SKY), ["a", "b"])
        assert [p.id for p in remove(made, path).plates] == ["sky"]
        twice, copy = duplicate(made, path)
        assert len(twice.plates) == 7
        assert sorted(p.inside for p in twice.plates) == ["", "", "", "group", "group", copy[7:], copy[7:]]


class TestCopy:
    def test_it_shows_the_other_once_more(self):
        copy = plate("c", "copy", of="a", position=(W / 2 + 30, H / 2 + 10))
        moved = msgspec.structs.replace(A, id="z", values={**A.values, "position": (90.0, 50.0)})
        assert np.abs(rendered(shot(copy, A, SKY)) - rendered(shot(moved, A, SKY))).max() < 2e-6

    def test_a_plain_plate_is_as_sharp_as_if_it_lay_there_itself(self):
        """Sampled once: both places are put together (common practice, no source)."""
        copy = plate("c", "copy", of="a", scale_x=0.6, scale_y=0.6, turn=12.0)
        c, s = np.cos(np.deg2rad(12)) * 0.6, np.sin(np.deg2rad(12)) * 0.6
        x, y = 60.0 - W / 2, 40.0 - H / 2
        there: dict[str, Any] = {"position": (W / 2 + c * x - s * y, H / 2 + s * x + c * y), "turn": 12.0}
        itself = plate("z", words="A", colour=(1.0, 0.3, 0.2, 1.0), scale_x=0.6, scale_y=0.6, **there)
        shown = rendered(shot(copy, msgspec.structs.replace(A, on=False), SKY))
        assert np.abs(shown - rendered(shot(itself, SKY))).max() < 2e-5

    def test_it_follows_a_group_with_its_effects(self):
        wave = Node(id="w", kind="wave", values={"reach": 9.0})
        held = shot(plate("c", "copy", of="g"), plate("g", "group", wave), *inside("g", A, B))
        alone = rendered(shot(plate("g", "group", wave), *inside("g", A, B), ground=(0.0, 0.0, 0.0, 0.0)))
        wanted = flat((H, W), (0.1, 0.2, 0.3, 1.0))
        for _ in range(2):
            blend_onto(wanted, alone, mode="normal", opacity=1.0, left=0, up=0)
        assert np.abs(rendered(held) - wanted).max() < 2e-6

    def test_rings_and_lost_originals_are_told(self):
        for ring in (
            shot(plate("c", "copy", of="d"), plate("d", "copy", of="c"), SKY),
            shot(plate("c", "copy", of="c"), SKY),
            shot(plate("g", "group", isolated=True), plate("c", "copy", inside="g", of="g"), SKY),
            shot(plate("c", "copy", of="gone"), SKY),
        ):
            job = frame_job(Engine(), ring, 0)
            assert np.array_equal(frame_picture(job), rendered(shot(SKY)))
            assert "cannot be shown" in next(problem.line() for problem in job.problems.values())


class TestDepth:
    """Groups in groups: found in one pass, and not without end."""

    @staticmethod
    def nested(depth: int) -> tuple[Plate, ...]:
        heads = [plate(f"g{n}", "group", inside=f"g{n - 1}" if n else "", isolated=True) for n in range(depth)]
        return (*heads, plate("t", inside=f"g{depth - 1}"))

    def test_as_deep_as_is_allowed_it_is_seen(self):
        plates = self.nested(groups.MOST_DEEP)
        assert len(groups.holders_of(plates, plates[-1])) == groups.MOST_DEEP
        assert np.array_equal(rendered(shot(*plates)), rendered(shot(plate("t"))))

    def test_deeper_ones_stand_free_and_opening_says_so(self):
        plates = self.nested(300)
        assert [each.id for each in groups.holding(plates).refused()] == [f"g{n}" for n in range(33, 300, 33)]
        notes: list[str] = []
        opened = decoded(encoded(shot(*plates)), notes=notes)
        assert "plates[33].inside: groups lie in a loop or over 32 deep; it stands free" in notes
        assert rendered(opened).shape == (H, W, 4)

    def test_one_more_group_is_refused(self):
        plates = self.nested(groups.MOST_DEEP)
        before = shot(*plates)
        assert groups.grouped(before, ["t"]) == (before, "")

    def test_all_that_leads_into_a_loop_stands_free(self):
        plates = (
            plate("a", "group", inside="b"),
            plate("b", "group", inside="a"),
            plate("c", "group", inside="b"),
            plate("d", inside="c"),
        )
        assert [each.id for each in groups.members_of(plates, "")] == ["a", "b", "c", "d"]


CIRCLES = {
    "copies itself": (plate("c", "copy", of="c", with_effects=False),),
    "copy of a copy": (plate("c", "copy", of="d", with_effects=False), plate("d", "copy", of="c", with_effects=False)),
    "copy in its group": (plate("g", "group"), plate("c", "copy", of="g", with_effects=False, inside="g")),
    "copy later": (plate("c", "copy", of="c", with_effects=False, copies=3.0, later=4.0),),
    "its own matte": (plate("c", matte="c", matte_effects=False),),
    "mattes": (plate("c", matte="d", matte_effects=False), plate("d", matte="c", matte_effects=False)),
    "all at once": (plate("c", "copy", of="c", with_effects=False, pin="c", pin_points="1", matte="c"),),
    "mask": (plate("c", mask="own"),),
    "exceptions": (plate("c", "copy", of="c", with_effects=False, exceptions=(("plates/c/opacity", "0.5"),)),),
}


@pytest.mark.parametrize("name", CIRCLES)
@pytest.mark.parametrize("with_effects", [False, True])
def test_a_circle_of_any_references_is_named(name, with_effects):
    own = Map(id="own", name="", recipe=(Node(id="s", kind="picture", values={"plate": "c", "with_quakes": True}),))
    switches = {"with_effects": with_effects, "matte_effects": with_effects}
    plates = tuple(
        msgspec.structs.replace(each, values={**each.values, **{n: v for n, v in switches.items() if n in each.values}})
        for each in CIRCLES[name]
    )
    job = frame_job(Engine(), Shot(width=W, height=H, length=48, plates=plates, maps=(own,)), 5)
    try:
        frame_picture(job)
        lines = [problem.line() for problem in job.problems.values()]
    except ShotError as wrong:
        lines = [wrong.line()]
    assert any("the plate reads itself" in line and "plates/c" in line and " -> " in line for line in lines)


def test_a_place_that_rides_on_its_own_points_is_named():
    ride = Driven((0.0, 0.0), 1.0, drivers()["track"]({"plate": "c", "points": "1"}))
    moving = plate("c", "clip", position=ride)
    job = frame_job(Engine(), shot(moving), 3)
    with pytest.raises(MotionError, match=r"follows itself: plates/c \(its points\) -> plates/c"):
        job.tracked("c")
