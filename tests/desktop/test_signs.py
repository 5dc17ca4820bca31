"""The signs over the map, and that one click mends what each of them says."""

from __future__ import annotations

from pathlib import Path

import msgspec
import numpy as np
import pytest
from PyQt6.QtWidgets import QToolButton, QWidget

from driving import LEFT, QTest, arrived
from helpers import rendered, write_png
from nimble_quake.desktop.bays.sign_pill import SignPill
from nimble_quake.desktop.bays.signs import Sign, signs
from nimble_quake.desktop.coupling.coupling import rest_of
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.render.shown.bench import answer
from nimble_quake.render.shown.request import BenchRequest, BenchResponse
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.items import swap_kind
from nimble_quake.shot.model import Map, Node, Plate, Shot

STEP, QUAKE = "maps/m/steps/s", "plates/p/effects/q"


def a_session(step: Node, plate: Plate | None = None, **push: object) -> Session:
    """A shot with one map of one step that pushes one plate."""
    quake = Node(id="q", kind="push", values={"map": "m", "reach_x": 40.0, "reach_y": 0.0, **push})
    plate = plate or Plate(id="p", kind="fill")
    made = Plate(id="p", kind=plate.kind, values=plate.values, effects=(quake,))
    session = Session()
    session.take(Shot(width=320, height=180, maps=(Map(id="m", name="M", recipe=(step,)),), plates=(made,)))
    session.select(map="maps/m", step=STEP, plate="plates/p", quake=QUAKE)
    return session


def look(session: Session) -> tuple[list[Sign], BenchResponse]:
    request = BenchRequest(session.shot, 0, 1.0, 1.0, map_id="m", plate_id="p", quake_path=QUAKE)
    response = answer(session.engine, request)
    return signs(session, response), response


def texts(session: Session) -> list[str]:
    return [sign.text for sign in look(session)[0]]


@pytest.mark.parametrize(("value", "way"), [(0.6, "8 px left"), (0.4, "8 px right")])
def test_a_map_that_slides_the_picture_is_centred(app, value, way):
    """2 x reach x (mean - rest): 40 px and a tenth above rest are 8 px; the picture goes against the look."""
    session = a_session(Node(id="s", kind="flat", values={"at_rest": False, "value": value}))
    found, _ = look(session)
    assert found[0].text == f"Mean {value:.2f}, rest 0.50: picture slides {way}"
    found[0].mend()
    assert texts(session) == []
    assert session.shown(f"{QUAKE}/rest") == pytest.approx(value)
    session.undo()
    assert texts(session) != []


def test_no_sign_where_nothing_slides(app):
    """At rest, without reach, at no strength, and when another map is read."""
    flat = Node(id="s", kind="flat", values={"at_rest": False, "value": 0.6})
    assert texts(a_session(Node(id="s", kind="flat"))) == []
    assert texts(a_session(flat, reach_x=0.0)) == []
    assert texts(a_session(flat, strength=0.0)) == []
    assert texts(a_session(flat, map="")) == []
    assert texts(a_session(flat, rest_by="one")) == [], "one side is meant"


@pytest.mark.parametrize(("by", "rest"), [("auto", 0.5), ("two", 0.5), ("one", 0.0), ("picked", 0.3)])
def test_the_rest_level_of_the_selected_quake(app, by, rest):
    session = a_session(Node(id="s", kind="flat"), rest_by=by, rest=0.3)
    assert rest_of(session, look(session)[1]) == pytest.approx(rest)


def test_clipped_values_are_eased_where_they_were_made_hard(app):
    session = a_session(Node(id="s", kind="noise", values={"contrast": 6.0}))
    found = [sign for sign in look(session)[0] if "black or white" in sign.text]
    assert found
    before = look(session)[1].clipped
    found[0].mend()
    assert session.shown(f"{STEP}/contrast") == pytest.approx(4.2)
    assert look(session)[1].clipped < before


def test_a_picture_of_another_shape_is_stretched_by_one_click(app, tmp_path: Path):
    file = write_png(tmp_path / "tall.png", np.full((200, 100, 4), 128, np.uint8))
    session = a_session(Node(id="s", kind="picture", values={"file": str(file)}))
    found = [sign for sign in look(session)[0] if "laid by" in sign.text]
    assert [sign.text.split(",")[0] for sign in found] == ["Map is 100 × 200"]
    found[0].mend()
    assert session.shown(f"{STEP}/fit") == "stretch"
    assert not [text for text in texts(session) if "laid by" in text]


def test_empty_edges_of_a_picture_are_mirrored(app, tmp_path: Path):
    file = write_png(tmp_path / "still.png", np.full((180, 320, 4), 200, np.uint8))
    still = Plate(id="p", kind="still", values={"file": str(file), "fit": "cover"})
    session = a_session(Node(id="s", kind="noise"), still)
    found = [sign for sign in look(session)[0] if "edges" in sign.text]
    found[0].mend()
    assert session.shown(f"{QUAKE}/edge") == "mirror"
    assert not [text for text in texts(session) if "edges" in text]


class TestWhatIsReallyThere:
    """Signs and readings are worked out from the frame that is shown."""

    def gaps(self, session: Session) -> list[str]:
        return [text for text in texts(session) if "edges" in text]

    def full(self, tmp_path: Path) -> Plate:
        file = write_png(tmp_path / "still.png", np.full((180, 320, 4), 200, np.uint8))
        return Plate(id="p", kind="still", values={"file": str(file), "fit": "cover"})

    def test_no_gap_where_nothing_comes_in(self, app, tmp_path: Path):
        """At no strength, behind a fade to rest at the border, and for a shape far from it."""
        noise = Node(id="s", kind="noise", values={"size_x": 60.0, "size_y": 60.0})
        assert self.gaps(a_session(noise, self.full(tmp_path), reach_x=20.0, reach_y=20.0))
        assert not self.gaps(a_session(noise, self.full(tmp_path), strength=0.0))
        shape = Node(id="s", kind="shape", values={"width": 40.0, "height": 40.0, "soft": 10.0, "place": (160.0, 90.0)})
        assert not self.gaps(a_session(shape, self.full(tmp_path)))

    def test_a_lens_has_gaps_too(self, app, tmp_path: Path):
        """A lens without a shape bends the whole frame: what it fetches from beyond it is black teeth."""
        session = a_session(
            Node(id="s", kind="noise", values={"size_x": 60.0, "size_y": 60.0}), Plate(id="p", kind="lens")
        )
        shot = session.shot
        session.take(
            msgspec.structs.replace(
                shot, plates=(*shot.plates, msgspec.structs.replace(self.full(tmp_path), id="under"))
            )
        )
        assert self.gaps(session)

    def test_clear_parts_count_for_nothing(self, app):
        """A shape as map that is clear around: nothing slides, and clear is seen at rest, under a hatch."""
        shape = Node(
            id="s",
            kind="shape",
            values={"clear": True, "width": 60.0, "height": 60.0, "soft": 0.0, "place": (60.0, 60.0)},
        )
        session = a_session(shape)
        _, response = look(session)
        assert response.values is not None
        assert response.values[150, 300, 0] == pytest.approx(0.5)
        assert response.map is not None
        grey = np.sort(response.map[140:170, 280:310, 0].ravel())
        assert grey[len(grey) // 2] == pytest.approx(128, abs=1)
        assert grey[-1] > 150, "and hatched"
        white = a_session(shape, clear="white")
        assert look(white)[1].values[150, 300, 0] == pytest.approx(1.0)  # type: ignore[index]

    def test_the_mean_of_a_clear_map_is_that_of_what_it_covers(self, app):
        grey = Node(
            id="s", kind="shape", values={"clear": True, "middle": 0.5, "edge": 0.5, "width": 60.0, "height": 60.0}
        )
        assert not [text for text in texts(a_session(grey)) if "slides" in text]

    def test_the_coupling_speaks_of_its_own_map(self, app):
        session = a_session(Node(id="s", kind="flat", values={"at_rest": False, "value": 0.6}))
        other = Map(id="other", name="Other", recipe=(Node(id="n", kind="noise"),))
        session.take(msgspec.structs.replace(session.shot, maps=(*session.shot.maps, other)))
        request = BenchRequest(session.shot, 0, 1.0, 1.0, map_id="other", plate_id="p", quake_path=QUAKE)
        response = answer(session.engine, request)
        assert response.reading is not None
        assert response.reading.map_id == "m"
        assert response.reading.means[0] == pytest.approx(0.6)
        assert any("slides 8 px left" in sign.text for sign in signs(session, response))

    def test_the_map_comes_before_its_picture_and_both_before_what_is_said_of_them(self, app):
        session = a_session(Node(id="s", kind="noise"))
        request = BenchRequest(session.shot, 0, 1.0, 1.0, map_id="m", plate_id="p", quake_path=QUAKE)
        early: list[BenchResponse] = []
        whole = answer(session.engine, request, early.append)
        map, both = early
        assert (map.partial, both.partial, whole.partial) == (True, True, False)
        assert map.picture is None
        assert np.array_equal(map.map, whole.map)  # type: ignore[arg-type]
        assert np.array_equal(both.picture, whole.picture)  # type: ignore[arg-type]
        assert both.warp is whole.warp is not None
        assert (both.reading, both.bars, both.values) == (None, [], None)
        assert whole.reading is not None
        assert whole.bars

    @pytest.mark.parametrize("view", ["needles", "distance"])
    def test_bending_is_there_with_its_picture_not_before(self, app, view):
        session = a_session(Node(id="s", kind="noise"))
        request = BenchRequest(session.shot, 0, 1.0, 1.0, map_id="m", plate_id="p", quake_path=QUAKE, map_view=view)
        early: list[BenchResponse] = []
        answer(session.engine, request, early.append)
        assert [found.picture is not None for found in early] == [True]
        assert early[0].needles is not None if view == "needles" else early[0].max_displacement > 0


class TestPill:
    def sign(self, key: str, figure: float = 5.0) -> Sign:
        return Sign(f"{key} {figure:.0f}", "Mend it", lambda: None, key, figure)

    def test_one_after_the_other_and_put_away(self, app, qtbot):
        host = QWidget()
        qtbot.addWidget(host)
        pill = SignPill(host)
        host.show()
        pill.show_signs([self.sign("a"), self.sign("b")])
        assert (pill.words.toolTip(), pill.count.text()) == ("a 5", "1 of 2")
        pill.on.click()
        assert (pill.words.toolTip(), pill.count.text()) == ("b 5", "2 of 2")
        pill.show_signs([self.sign("a"), self.sign("b", 5.5)])
        assert pill.words.toolTip() == "b 6", "it stays where it was read"
        pill.away.click()
        assert pill.words.toolTip() == "a 5"
        pill.away.click()
        assert not pill.isVisible()
        pill.show_signs([self.sign("a", 5.4), self.sign("b", 5.5)])
        assert not pill.isVisible(), "as they were"
        pill.show_signs([self.sign("a", 6.5), self.sign("b", 5.5)])
        assert pill.words.toolTip() == "a 6", "more than 1 px more"
        pill.forget()
        pill.show_signs([self.sign("a", 6.5), self.sign("b", 5.5)])
        assert pill.count.text() == "1 of 2"


def test_a_map_that_is_a_slope_already_says_so_to_what_takes_a_slope(app):
    """Worked out from what is read; the cure is the kind that reads it as it is."""
    session = a_session(Node(id="s", kind="noise"))
    steps = (Node(id="s", kind="noise"), Node(id="h", kind="height_to_slope"))
    session.edit("slope", msgspec.structs.replace(session.shot, maps=(Map(id="m", name="M", recipe=steps),)))
    assert not any("slope already" in text for text in texts(session))
    swap_kind(session, QUAKE, "slope")
    found = next(sign for sign in look(session)[0] if "slope already" in sign.text)
    assert found.cure == "Use Push"
    found.mend()
    assert session.shot.plate("p").effects[0].kind == "push"
    assert not any("slope already" in text for text in texts(session))


def test_a_ground_that_is_off_rest_is_said_although_the_mean_is_at_rest(app):
    """Ground 0.4 with a white box of a sixth of the frame: mean 0.5, and all of it slides 2 x 40 x 0.1 = 8 px."""
    values = {"form": "rectangle", "width": 160.0, "height": 60.0, "feather": 0.0, "low": 0.4, "place": (160.0, 90.0)}
    session = a_session(Node(id="s", kind="drawn_mask", values=values), rest_by="picked", rest=0.5)
    found, response = look(session)
    assert response.reading.means[0] == pytest.approx(0.5, abs=0.004)
    assert [sign.text for sign in found if "of the map is" in sign.text] == [
        "83% of the map is 0.40, rest 0.50: it slides 8 px"
    ]
    next(sign for sign in found if "of the map is" in sign.text).mend()
    assert session.shown(f"{QUAKE}/rest") == pytest.approx(0.4)
    assert not any("of the map is" in text for text in texts(session))


@pytest.mark.parametrize(
    ("kind", "values", "ground", "said"),
    [
        ("push", {"mode": "out", "reach_x": 40.0}, 0.6, "it goes 8 px outwards"),
        ("push", {"mode": "out", "reach_x": 40.0}, 0.4, "it goes 8 px inwards"),
        ("push", {"mode": "round", "reach_x": 40.0}, 0.6, "it goes 8 px clockwise"),
        ("delay", {"seconds": 1.5}, 0.4, "it is 0.30 s late"),
        ("delay", {"seconds": 1.5}, 0.6, "it is 0.30 s ahead"),
        ("soften", {"radius": 20.0}, 0.6, "it is blurred by 4.0 px"),
    ],
)
def test_what_a_ground_does_is_said_of_every_coupling(app, kind, values, ground, said):
    """(ground - rest) / (1 - rest) of the time or radius; 2 x reach x (ground - rest) of a push."""
    box = {"form": "rectangle", "width": 60.0, "height": 60.0, "feather": 0.0, "low": ground, "place": (160.0, 90.0)}
    session = a_session(Node(id="s", kind="drawn_mask", values=box))
    quake = Node(id="q", kind=kind, values={"map": "m", "rest_by": "picked", "rest": 0.5, **values})
    plate = Plate(id="p", kind="fill", effects=(quake,))
    session.edit("other", msgspec.structs.replace(session.shot, plates=(plate,)))
    found = next(sign for sign in look(session)[0] if said in sign.text)
    assert f"of the map is {ground:.2f}, rest 0.50" in found.text
    found.mend()
    assert not any(said in text for text in texts(session))


@pytest.mark.parametrize("mode", ["out", "round"])
@pytest.mark.parametrize("ground", [0.45, 0.55])
def test_the_way_a_ground_goes_is_the_way_the_picture_goes(app, mode, ground):
    """A spot right of the centre, rendered with and without: where it went, in the frame itself."""
    box = {"form": "rectangle", "width": 20.0, "height": 20.0, "feather": 0.0, "low": ground, "place": (20.0, 20.0)}
    spot = {"width": 16.0, "height": 16.0, "position": (240.0, 90.0)}
    session = a_session(Node(id="s", kind="drawn_mask", values=box), Plate(id="p", kind="shape", values=spot))
    values = {"map": "m", "mode": mode, "reach_x": 60.0, "centre": (160.0, 90.0), "rest_by": "picked", "rest": 0.5}
    plate = Plate(id="p", kind="shape", values=spot, effects=(Node(id="q", kind="push", values=values),))
    session.edit("other", msgspec.structs.replace(session.shot, plates=(plate,)))
    seen = rendered(session.shot)[..., 0]
    ys, xs = np.nonzero(seen > 0.5)
    went = {"out": xs.mean() + 0.5 - 240, "round": ys.mean() + 0.5 - 90}[mode]
    said = next(text for text in texts(session) if "it goes 6 px" in text)
    assert abs(went) == pytest.approx(6, abs=1)
    assert said.endswith({"out": "outwards", "round": " clockwise"}[mode]) == (went > 0)


def test_no_such_sign_for_noise_or_a_ground_at_rest(app):
    assert not any("of the map is" in text for text in texts(a_session(Node(id="s", kind="noise"))))
    values = {"form": "rectangle", "width": 60.0, "height": 60.0, "feather": 0.0, "low": 0.5, "place": (160.0, 90.0)}
    session = a_session(Node(id="s", kind="drawn_mask", values=values), rest_by="picked", rest=0.5)
    assert not any("of the map is" in text for text in texts(session))


def test_a_plate_that_moves_under_its_mask_is_told_by_how_far(app):
    """Not while it stands, not when the mask goes with it, nor where the mask moves by itself."""
    moving = Keys((Key(frame=0.0, value=(100.0, 90.0), after="linear"), Key(frame=10.0, value=(160.0, 90.0))))
    shape = Plate(id="p", kind="shape", values={"mask": "m", "width": 60.0, "height": 60.0, "position": moving})
    drawn = Node(id="s", kind="drawn_mask", values={"width": 80.0, "height": 80.0, "place": (100.0, 90.0)})
    session = a_session(drawn, shape)

    def told(frame: int) -> list[str]:
        request = BenchRequest(session.shot, frame, 1.0, 1.0, map_id="m", plate_id="p", quake_path=QUAKE)
        return [sign.text for sign in signs(session, answer(session.engine, request)) if "under its mask" in sign.text]

    assert told(0) == []
    assert told(5) == ["The plate has moved 30 px under its mask, which stands still"]
    session.set(f"{STEP}/place", moving)
    assert told(5) == []
    session.undo()
    request = BenchRequest(session.shot, 5, 1.0, 1.0, map_id="m", plate_id="p", quake_path=QUAKE)
    next(s for s in signs(session, answer(session.engine, request)) if s.cure == "Take it along").mend()
    assert session.shown("plates/p/mask_hook") == "plate"
    assert told(5) == []


def test_a_matte_that_is_opaque_everywhere_is_taken_by_its_luminance(app):
    """A full frame fill as matte cuts nothing by its alpha; one with a hole does, and by luminance its grey counts."""
    fill, disc = Plate(id="f", kind="fill"), Plate(id="f", kind="shape", values={"width": 90.0, "height": 90.0})
    for matte, wanted in ((fill, True), (disc, False)):
        session = a_session(Node(id="s", kind="flat"), Plate(id="p", kind="fill", values={"matte": "f"}))
        session.take(msgspec.structs.replace(session.shot, plates=(*session.shot.plates, matte)))
        session.select(map="maps/m", plate="plates/p", quake=QUAKE)
        found = [sign for sign in look(session)[0] if "Matte" in sign.text]
        assert bool(found) == wanted
        if found:
            assert found[0].text.endswith("cuts nothing: it is opaque")
            session.set("plates/p/matte_invert", True)
            assert any(text.endswith("cuts all: it is opaque") for text in texts(session))
            found[0].mend()
            assert session.shown("plates/p/matte_by") == "luminance"
            assert not any("Matte" in text for text in texts(session))


class TestRemarks:
    """What steps and effects say of themselves: worked out with the frame, mended by one click."""

    def told(self, session: Session, frame: int, words: str) -> list[Sign]:
        request = BenchRequest(session.shot, frame, 1.0, 1.0, map_id="m", plate_id="p", quake_path=QUAKE)
        response = answer(session.engine, request)
        assert response.error == ""
        return [sign for sign in signs(session, response) if words in sign.text]

    def test_a_delay_says_what_it_lacks(self, app):
        """1 s either way, 72 frames: of a ramp from white to black what would be before the first."""
        ramp = Node(id="s", kind="gradient", values={"start": (0.0, 0.0), "end": (320.0, 0.0)})
        session = a_session(ramp, Plate(id="p", kind="fill"))
        delay = Node(id="q", kind="delay", values={"map": "m", "seconds": 1.0, "rest_by": "two"})
        plates = (Plate(id="p", kind="fill", effects=(delay,)),)
        session.edit("delay", msgspec.structs.replace(session.shot, length=72, plates=plates))
        text = "of the frame stands still: the shot has no more"
        for frame, lacks in ((0, "past"), (12, "past"), (36, ""), (60, "future"), (71, "future")):
            moments = frame + float(session.shot.rate) * (2 * look(session)[1].values[..., 0] - 1)
            fraction = ((moments < -0.5) | (moments > 71.5)).mean()
            wanted = [f"{fraction:.0%} {text} {lacks}"] if lacks else []
            assert [sign.text for sign in self.told(session, frame, text)] == wanted
        shown = answer(session.engine, BenchRequest(session.shot, 0, 1.0, 1.0, plate_id="p", gaps=True, probe=False))
        fault = np.array([107, 89, 228])  # B, G, R of the hatch
        hatched = (np.abs(shown.picture[..., :3].astype(int) - fault).max(axis=2) <= 2).mean(axis=0)
        assert hatched[170:].min() > 0.3, "the black half is hatched"
        assert hatched[:150].max() == 0
        self.told(session, 0, text)[0].mend()
        assert self.told(session, 0, text) == []
        assert session.shown(f"{QUAKE}/ends") == "mirror"

    @pytest.mark.parametrize(("fade", "told"), [(0.0, True), (0.5, False)])
    def test_particles_that_end_at_once(self, app, fade, told):
        values = {"fade_out": fade, "life": 1.0, "rate": 60.0, "speed": 10.0, "pre": 3.0}
        session = a_session(Node(id="s", kind="particles", values=values))
        found = self.told(session, 30, "within the frame at once")
        assert bool(found) == told
        if told:
            found[0].mend()
            assert self.told(session, 30, "within the frame at once") == []
        session.set(f"{STEP}/fade_out", 0.0)
        session.set(f"{STEP}/place", (-3000.0, 90.0))
        assert self.told(session, 30, "within the frame at once") == [], "nobody sees it"

    @pytest.mark.parametrize(("kind", "values", "told"), [("rings", {}, True), ("noise", {}, False)])
    def test_ring_space_over_what_goes_round(self, app, kind, values, told):
        session = a_session(Node(id="s", kind=kind, values=values))
        bent = Node(id="r", kind="ring_space", values={})
        (map,) = session.shot.maps
        map = msgspec.structs.replace(map, recipe=(*map.recipe, bent))
        session.edit("bend", msgspec.structs.replace(session.shot, maps=(map,)))
        found = self.told(session, 0, "goes round already")
        assert bool(found) == told
        if told:
            found[0].mend()
            assert self.told(session, 0, "goes round already") == []
            assert not session.shot.maps[0].recipe[1].on

    @pytest.mark.parametrize(("mode", "told"), [("out", True), ("axes", False)])
    def test_a_push_round_a_centre_in_ring_space(self, app, mode, told):
        session = a_session(Node(id="s", kind="noise"), mode=mode, ring=True)
        found = self.told(session, 0, "goes round already")
        assert bool(found) == told
        if told:
            found[0].mend()
            assert not session.shown(f"{QUAKE}/ring")

    @pytest.mark.parametrize(("grey", "told"), [(200, True), (255, False)])
    def test_white_that_is_whiter_than_the_footage(self, app, tmp_path, grey, told):
        file = write_png(tmp_path / "grey.png", np.full((180, 320, 4), (grey, grey, grey, 255), np.uint8))
        session = a_session(Node(id="s", kind="flat"), Plate(id="p", kind="shape", values={"colour": (1, 1, 1, 1.0)}))
        still = Plate(id="b", kind="still", values={"file": str(file), "fit": "cover"})
        session.edit("b", msgspec.structs.replace(session.shot, plates=(*session.shot.plates, still)))
        found = self.told(session, 0, "whiter than the footage")
        assert bool(found) == told
        if told:
            assert found[0].text.endswith(f"1.00, that {grey / 255:.2f}")
            found[0].mend()
            assert session.shown("plates/p/colour")[0] == pytest.approx(grey / 255, abs=1e-3)
            assert self.told(session, 0, "whiter than the footage") == []

    def test_no_such_line_where_another_fill_counts(self, app, tmp_path):
        """A white that is there, but not shown: the shape is filled by its stops."""
        file = write_png(tmp_path / "grey.png", np.full((180, 320, 4), (99, 99, 99, 255), np.uint8))
        shape = Plate(id="p", kind="shape", values={"colour": (1, 1, 1, 1.0), "fill": "across"})
        session = a_session(Node(id="s", kind="flat"), shape)
        still = Plate(id="b", kind="still", values={"file": str(file), "fit": "cover"})
        session.edit("b", msgspec.structs.replace(session.shot, plates=(*session.shot.plates, still)))
        assert self.told(session, 0, "whiter than the footage") == []

    def test_no_such_line_where_no_footage_lies_beneath(self, app):
        session = a_session(Node(id="s", kind="flat"), Plate(id="p", kind="shape", values={"colour": (1, 1, 1, 1.0)}))
        grey = Plate(id="b", kind="fill", values={"colour": (0.4, 0.4, 0.4, 1.0)})
        session.edit("b", msgspec.structs.replace(session.shot, plates=(*session.shot.plates, grey)))
        assert self.told(session, 0, "whiter than the footage") == []


def test_where_a_map_is_laid_on_its_plate(app):
    """Stretched over a plate of 100 x 50 in the middle, which is turned by a quarter: its corners, in order."""
    shape = Plate(id="p", kind="shape", values={"form": "rectangle", "width": 100.0, "height": 50.0, "turn": 90.0})
    session = a_session(Node(id="s", kind="noise"), shape, hook="plate", fit="stretch")
    _, response = look(session)
    wanted = [(185, 40), (185, 140), (135, 140), (135, 40)]
    assert np.abs(np.array(response.map_box) - wanted).max() < 4, response.map_box
    session.set(f"{QUAKE}/hook", "frame")
    assert look(session)[1].map_box == ()


def test_rest_and_white_are_measured(window, qtbot):
    """The link under the white level: the ground is the rest, the lightest is white; once more changes nothing."""
    session, coupling = window.session, window.coupling
    path = session.selection.quake
    arrived(window, qtbot)
    coupling.settings.show_section("Reading the map")
    link = next(b for b in coupling.settings.findChildren(QToolButton) if b.text() == "Measure now" and b.isVisible())
    QTest.mouseClick(link, LEFT)
    reading = window.frames.last.reading
    level, fraction = reading.common
    assert session.shown(f"{path}/rest_by") == "picked"
    assert session.shown(f"{path}/rest") == pytest.approx(level if fraction > 0.25 else reading.means[0], abs=1e-3)
    assert session.shown(f"{path}/white") == pytest.approx(reading.lightest, abs=1e-3)
    session.undo()
    assert session.shown(f"{path}/rest_by") == "auto", "one step"
