"""Effects in the window: the board, folding sections, nets and masks drawn in the picture, sharing, two sides."""

from __future__ import annotations

import importlib
import math
import sys
from pathlib import Path

import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QMenu

from driving import LEFT, QTest, arrived, click, drag, named, press, type_text
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.settings.section_head import SectionChip
from nimble_quake.motion.kinds import Keys
from nimble_quake.operators import registry as finding
from nimble_quake.session.verbs import effects, items
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot

CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
PUSH = "plates/title/effects/push"


def added(window, qtbot, name: str) -> str:
    """Add an effect from the board with the keyboard alone. Returns its path."""
    press(Qt.Key.Key_K, CTRL | SHIFT)
    type_text(name)
    press(Qt.Key.Key_Return)
    arrived(window, qtbot)
    return window.session.selection.finish or window.session.selection.quake


def names_shown(panel: SettingsPanel) -> list[str]:
    """Return the values that are to be seen in a panel."""
    return [name for name, label in panel.name_labels.items() if label.isVisible()]


class TestBoard:
    def test_a_quake_is_tried_in_the_picture_and_added(self, window, qtbot):
        window.session.select(plate="plates/emblem")
        before = window.session.shot
        press(Qt.Key.Key_K, CTRL | SHIFT)
        assert window.board.isVisible()
        type_text("bulge")
        qtbot.waitUntil(lambda: window.frames.shot_override is not None)
        tried = window.frames.shot_override.plate("emblem").effects
        assert [effect.kind for effect in tried][-1] == "bulge"
        assert window.session.shot is before
        press(Qt.Key.Key_Escape)
        assert window.session.shot is before
        assert window.frames.shot_override is None
        path = added(window, qtbot, "bulge")
        assert path == "plates/emblem/effects/bulge"
        window.session.undo()
        assert window.session.shot == before

    def test_without_a_map_one_is_tried_and_made(self, window, qtbot):
        """In a shot with a text alone a push is seen moving before it is taken, and is what was seen."""
        window.session.take(Shot(width=320, height=180, plates=(Plate(id="title", kind="text"),)))
        press(Qt.Key.Key_K, CTRL | SHIFT)
        type_text("push")
        qtbot.waitUntil(lambda: window.frames.shot_override is not None)
        tried = window.frames.shot_override
        assert [step.kind for step in tried.maps[0].recipe] == ["noise"]
        assert window.session.shot.maps == ()
        press(Qt.Key.Key_Return)
        arrived(window, qtbot)
        assert window.session.shot.maps == tried.maps
        assert window.session.shown("plates/title/effects/push/map") == tried.maps[0].id

    def test_a_row_says_what_its_effect_takes(self, window, qtbot):
        window.session.select(plate="plates/title")
        path = added(window, qtbot, "soften")
        window.session.set(f"{path}/radius", 33.0)
        qtbot.waitUntil(lambda: window.frames.costs.of(path) > 0.5)
        row = next(row for row in window.picture_bay.stack.rows if row.path == path)
        assert row.note == "33 px"
        assert row.cost.endswith(" ms")

    def test_thumbnails_show_the_selected_plate_with_each_effect(self, window, qtbot):
        window.session.select(plate="plates/title")
        window.show_board("quake")
        qtbot.waitUntil(lambda: len(window.board.cells.images) > 4, timeout=20_000)
        pictures = [
            window.board.cells.images[e.key] for e in window.board.cells.entries if e.key in window.board.cells.images
        ]
        assert len({bytes(p.constBits().asarray(p.sizeInBytes())) for p in pictures}) > 3
        window.board.shut()

    def test_finishes_stand_among_quakes_in_one_order(self, window, qtbot):
        window.session.select(plate="plates/title")
        press(Qt.Key.Key_F, CTRL | SHIFT)
        type_text("glow")
        press(Qt.Key.Key_Return)
        chosen = window.session.selection
        assert chosen.finish == "plates/title/effects/glow"
        assert chosen.quake == PUSH  # its coupling stays in view
        assert window.picture_bay.settings.path == chosen.finish
        items.move_item(window.session, chosen.finish, 0)
        assert [e.id for e in window.session.shot.plate("title").effects] == ["glow", "push"]

    def test_the_samples_are_a_board(self, window, qtbot):
        press(Qt.Key.Key_O, CTRL | SHIFT)
        type_text("glass lens")
        press(Qt.Key.Key_Return)
        assert window.session.shot.name == "Glass lens"
        window.frames.stop()


class TestSections:
    def test_chips_open_one_at_a_time_and_are_remembered_by_kind(self, window, qtbot):
        window.session.select(effect=PUSH)
        chip = named(window.coupling, "Reading the map", SectionChip)
        assert "rest_by" not in names_shown(window.coupling.settings)
        click(chip)
        assert "rest_by" in names_shown(window.coupling.settings)
        assert window.preferences.sections["push"] == ["Reading the map"]
        click(named(window.coupling, "Where", SectionChip))
        assert window.preferences.sections["push"] == ["Where"]
        shown = names_shown(window.coupling.settings)
        assert ("mask" in shown, "rest_by" in shown) == (True, False)
        press(Qt.Key.Key_Tab)
        click(named(window.coupling, "Where", SectionChip))
        assert window.preferences.sections["push"] == []

    def test_a_chip_has_a_dot_where_its_section_acts(self, window, qtbot):
        window.session.select(effect=PUSH)
        chip = named(window.coupling, "Colour split", SectionChip)
        assert not chip.acts
        click(chip)
        press(Qt.Key.Key_O)
        assert window.session.shown(f"{PUSH}/split") is True
        assert chip.acts
        assert "split_red" in names_shown(window.coupling.settings)
        assert "red" in chip.summary
        window.session.undo()
        assert window.session.shown(f"{PUSH}/split") is False
        assert not chip.acts
        assert named(window.coupling, "Staggered", SectionChip).summary == "off"
        window.session.set(f"{PUSH}/stagger_times", 3.0)
        assert "times 3" in named(window.coupling, "Staggered", SectionChip).summary

    def test_what_only_one_kind_of_push_has_is_said_of_it_alone(self, window):
        """Channel and reach share a row, whose name follows the way it goes; the link stands by the second."""
        window.session.select(effect=PUSH)
        names = names_shown(window.coupling.settings)
        assert "reach_x" in names
        label = window.coupling.settings.name_labels["reach_x"]
        assert label.text() == "Across"
        window.session.set(f"{PUSH}/mode", "out")
        assert label.text() == "Reach"
        assert not window.coupling.settings.fields.links[0].isVisible()
        window.session.set(f"{PUSH}/mode", "axes")
        click(window.coupling.settings.fields.links[0].button)
        assert window.session.shown(f"{PUSH}/linked") is True

    def test_blend_and_opacity_are_chosen_in_the_stack(self, window, monkeypatch):
        stack = window.picture_bay.stack
        stack.grab()
        chosen = []
        monkeypatch.setattr(QMenu, "exec", lambda menu, *_: chosen.append([a.text() for a in menu.actions()]))
        note, level = stack.hot["plates/title"]
        click(stack, note.center().toPoint())
        assert "Screen" in chosen[0]
        click(stack, level.center().toPoint())
        type_text("40")
        press(Qt.Key.Key_Return)
        assert window.session.shown("plates/title/opacity") == pytest.approx(0.4)

    def test_after_adding_the_keys_go_to_the_picture_and_after_escape_back(self, window, qtbot):
        window.activateWindow()
        window.session.select(plate="plates/emblem")
        window.picture_bay.stack.setFocus()
        qtbot.waitUntil(window.picture_bay.stack.hasFocus)
        window.board.open("quake")
        qtbot.waitUntil(window.board.search.hasFocus)
        press(Qt.Key.Key_Escape)
        assert window.picture_bay.stack.hasFocus()
        window.board.open("quake")
        qtbot.waitUntil(window.board.search.hasFocus)
        type_text("mesh")
        press(Qt.Key.Key_Return)
        assert window.session.shot.plate("emblem").effects[-1].kind == "mesh"
        assert window.picture_bay.viewer.hasFocus()


class TestDrawnInThePicture:
    def test_a_point_of_a_net_is_dragged_and_keyed_as_one(self, window, qtbot, tmp_path):
        window.session.select(plate="plates/emblem")
        path = added(window, qtbot, "mesh")
        handles, viewer = window.picture_bay.effect_handles, window.picture_bay.viewer
        grips = [grip for grip in handles.grips() if grip.sort == "listed"]
        assert len(grips) == 20
        start = viewer.to_widget(grips[7].at.x(), grips[7].at.y()).toPoint()
        window.picture_bay.handles.on = False
        drag(viewer, start, start + QPoint(30, 12))
        net = window.session.shown(f"{path}/net")
        assert net[14] > 20
        assert sum(1 for v in net if v) == 2
        window.session.start_moving(f"{path}/net")
        assert isinstance(window.session.raw(f"{path}/net"), Keys)
        window.session.save(tmp_path / "net.nquake")
        assert read_shot(tmp_path / "net.nquake").plates == window.session.shot.plates

    def test_the_point_dragged_last_shows_handles_that_bend_its_lines(self, window, qtbot, tmp_path):
        window.session.select(plate="plates/emblem")
        path = added(window, qtbot, "mesh")
        handles, viewer = window.picture_bay.effect_handles, window.picture_bay.viewer
        window.picture_bay.handles.on = False
        assert not [grip for grip in handles.grips() if grip.sort == "tied"]
        point = next(grip for grip in handles.grips() if grip.path.endswith("net|7"))
        start = viewer.to_widget(point.at.x(), point.at.y()).toPoint()
        drag(viewer, start, start + QPoint(20, 8))
        tied = {grip.path.rsplit("/", 1)[-1]: grip for grip in handles.grips() if grip.sort == "tied"}
        assert set(tied) == {"along|7", "down|7"}
        before, net = window.session.shot, window.session.shown(f"{path}/net")
        start = viewer.to_widget(tied["along|7"].at.x(), tied["along|7"].at.y()).toPoint()
        drag(viewer, start, start + QPoint(0, 24))
        bends = window.session.shown(f"{path}/along")
        assert bends[15] > 40
        assert sum(1 for v in bends if v) <= 2
        assert window.session.shown(f"{path}/net") == net
        window.session.save(tmp_path / "bent.nquake")
        assert read_shot(tmp_path / "bent.nquake").plates == window.session.shot.plates
        press(Qt.Key.Key_Z, CTRL)
        assert window.session.shot == before

    def test_a_mask_is_drawn_for_the_selected_effect(self, window, qtbot):
        window.session.select(effect=PUSH)
        press(Qt.Key.Key_M, CTRL | Qt.KeyboardModifier.AltModifier)
        chosen = window.session.selection
        assert window.session.raw(f"{PUSH}/mask") == "mask"
        assert chosen.map == "maps/mask"
        window.session.set(f"{chosen.step}/form", "polygon")
        grips = [grip for grip in window.picture_bay.step_handles.grips() if grip.sort == "listed"]
        assert len(grips) == 6
        viewer = window.picture_bay.viewer
        at = viewer.to_widget(grips[0].at.x(), grips[0].at.y()).toPoint()
        window.picture_bay.handles.on = False
        drag(viewer, at, at + QPoint(-14, 6))
        assert window.session.shown(f"{chosen.step}/outline")[0] != (-0.5, 0.1)
        row = next(row for row in window.picture_bay.stack.rows if row.path == PUSH)
        assert row.masked

    def test_gaps_and_masks_are_shown_over_the_picture(self, window, qtbot):
        window.session.select(effect="plates/lanterns/effects/push")
        window.session.set("plates/lanterns/effects/push/edge", "empty")
        window.session.set("plates/lanterns/effects/push/reach_x", 200.0)
        arrived(window, qtbot)
        before = window.frames.last.picture.copy()
        click(window.picture_bay.gaps_button)
        arrived(window, qtbot)
        assert (window.frames.last.picture != before).any()
        click(window.picture_bay.gaps_button)


class TestSharing:
    def test_one_effect_on_two_plates(self, window, qtbot, tmp_path):
        session = window.session
        session.select(effect=PUSH)
        effects.share_with(session, PUSH, "plates/emblem")
        shared = "plates/emblem/effects/push"
        assert session.selection.quake == shared
        session.set(f"{shared}/reach_y", 33.0)
        assert session.shown(f"{PUSH}/reach_y") == 33.0
        session.save(tmp_path / "shared.nquake")
        assert read_shot(tmp_path / "shared.nquake").plate("emblem").effects[0].shared == PUSH
        effects.part(session, shared)
        session.set(f"{shared}/reach_y", 1.0)
        assert session.shown(f"{PUSH}/reach_y") == 33.0
        session.undo()
        session.undo()
        items.remove_item(session, PUSH)
        assert session.shown(f"{shared}/reach_y") == 33.0  # the heir has the values

    def test_two_sides(self, window, qtbot, tmp_path):
        session = window.session
        session.select(effect=PUSH)
        press(Qt.Key.Key_D, CTRL | SHIFT)
        session.set(f"{PUSH}/reach_y", 70.0)
        press(Qt.Key.Key_D, CTRL | SHIFT)
        assert session.shown(f"{PUSH}/reach_y") == 18
        session.save(tmp_path / "sides.nquake")
        again = read_shot(tmp_path / "sides.nquake").plate("title").effects[0]
        assert again.aside["reach_y"] == 70.0
        press(Qt.Key.Key_D, CTRL | SHIFT)
        assert session.shown(f"{PUSH}/reach_y") == 70.0
        assert window.coupling.exaggerated.sides.value == "B"

    def test_several_are_removed_together(self, window, qtbot):
        session, stack = window.session, window.picture_bay.stack
        session.select(plate="plates/emblem")
        rows = [row.path for row in stack.rows]
        at = QPoint(120, rows.index("plates/lanterns") * 22 + 11)
        QTest.mouseClick(stack, LEFT, CTRL, at)
        assert session.selection.marked == {"plates/emblem", "plates/lanterns"}
        stack.setFocus()
        stack.current = "plates/emblem"
        press(Qt.Key.Key_Delete)
        assert [plate.id for plate in session.shot.plates] == ["title"]
        session.undo()
        assert len(session.shot.plates) == 3


class TestExaggeration:
    def test_it_is_seen_and_never_rendered(self, window, qtbot):
        window.session.select(effect=PUSH)
        arrived(window, qtbot)
        plain, shot = window.frames.last.picture.copy(), window.session.shot
        window.coupling.exaggerated.times.setCurrentIndex(2)
        window.coupling.exaggerated.times.activated.emit(2)
        arrived(window, qtbot)
        assert (window.frames.last.picture != plain).any()
        assert window.session.shot is shot
        window.frames.exaggerate(1.0)

    def test_a_plate_is_seen_up_to_an_effect(self, window, qtbot):
        path = "plates/title/effects/push"
        window.session.select(plate="plates/title")
        added(window, qtbot, "twirl")
        whole = window.frames.last.picture.copy()
        window.frames.show_upto(path)
        arrived(window, qtbot)
        assert (window.frames.last.picture != whole).any()
        window.frames.show_upto(path)
        arrived(window, qtbot)
        assert np.array_equal(window.frames.last.picture, whole)

    def test_gaps_are_covered(self, window, qtbot):
        session = window.session
        session.select(plate="plates/lanterns")
        session.set("plates/lanterns/effects/push/reach_x", 60.0)
        window.session.edit("short", msgspec.structs.replace(session.shot, length=6, loop=None, markers=()))
        window.cover("plates/lanterns")
        qtbot.waitUntil(lambda: session.shown("plates/lanterns/scale_x") > 1.0, timeout=20_000)
        assert session.shown("plates/lanterns/scale_x") < 1.5
        qtbot.waitUntil(lambda: not window.status.work.isVisible(), timeout=5000)

    def test_working_out_the_cover_can_be_stopped(self, window, qtbot):
        session = window.session
        session.select(plate="plates/lanterns")
        session.set("plates/lanterns/effects/push/reach_x", 60.0)
        before = session.shot
        window.cover("plates/lanterns")
        work = window.status.work
        assert work.isVisible()
        assert "of 144" in work.said.text()
        QTest.mouseClick(work.halt, LEFT)
        assert not work.isVisible()
        qtbot.waitUntil(lambda: not window.frames.scheduler.busy, timeout=20_000)
        assert session.shot is before

    def test_distances_are_those_of_the_push(self, window, qtbot):
        """White moves the picture by the reach; all effects together move it by more."""
        session = window.session
        session.select(plate="plates/lanterns")
        window.map_bay.choose_view("distance")
        arrived(window, qtbot)
        alone = window.frames.last.max_displacement
        assert (
            0
            < alone
            <= 1.01
            * math.hypot(*(session.shown(f"plates/lanterns/effects/push/{name}") for name in ("reach_x", "reach_y")))
        )
        added(window, qtbot, "twirl")
        window.frames.toggle_whole_warp()
        arrived(window, qtbot)
        assert window.frames.last.max_displacement > alone


QUAKE = '''"""Sideways."""

from nimble_quake.conventions import Warp
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.params.kinds import Number, Place
from nimble_quake.raster.geometry.places import Places
import numpy as np


class Sideways(FreeQuake):
    """Moves all of it to one side."""

    title = "Sideways"
    group = "Move"
    help = "Moves all of it to one side"
    simple = False
    reach = Number(label="Far", help="How far", default=25.0, hard=(-1000, 1000), usual=(0, 100), unit="px")
    centre = Place(label="Centre", help="Nothing but a handle")

    def own_offsets(self, places: Places, ctx: Context) -> Warp:
        out = np.zeros((2, *places.grid.shape), np.float32)
        out[0] = self.reach * self.strength
        return out

    def reach_of_offsets(self, ctx: Context) -> float:
        return abs(self.reach * self.strength)

    def graph(self, rest: float) -> Graph:
        return Graph((Curve(((-self.reach, 0.0), (self.reach, 1.0)), sets="reach"),), 50.0)
'''


@pytest.fixture
def sideways(tmp_path, monkeypatch):
    """A coupling in a package of its own, one file, found by its entry point."""
    package = tmp_path / "away" / "their_quakes"
    package.mkdir(parents=True)
    (package / "__init__.py").write_text("")
    (package / "sideways.py").write_text(QUAKE)
    monkeypatch.syspath_prepend(str(tmp_path / "away"))

    class Point:
        name = "sideways"

        def load(self):
            return importlib.import_module("their_quakes.sideways").Sideways

    monkeypatch.setattr("importlib.metadata.entry_points", lambda group: [Point()])
    finding.registry.cache_clear()
    yield
    finding.registry.cache_clear()
    sys.modules.pop("their_quakes.sideways", None)


def test_a_coupling_of_one_file_elsewhere_is_all_there(sideways, opened, qtbot, tmp_path):
    """Board, settings, graph, handle, picture, file: nothing else was edited."""
    window = opened()
    plate = Plate(id="p", kind="text", values={"words": "HI"})
    noise = Map(id="m", name="", recipe=(Node(id="n", kind="noise"),))
    window.session.take(Shot(width=320, height=180, plates=(plate,), maps=(noise,)))
    arrived(window, qtbot)
    before = window.frames.last.picture.copy()
    path = added(window, qtbot, "sideways")
    assert path == "plates/p/effects/sideways"
    assert (window.frames.last.picture != before).any()
    assert window.coupling.kind.text() == "Sideways"
    assert "reach" in window.coupling.settings.editors
    assert window.coupling.graph.graph.curves[0].sets == "reach"
    assert any(grip.path == f"{path}/centre" for grip in window.picture_bay.effect_handles.grips())
    click(named(window.coupling, "Far"))
    type_text("40")
    press(Qt.Key.Key_Return)
    file = Path(tmp_path / "s.nquake")
    window.session.save(file)
    assert read_shot(file).plates[0].effects[0].values["reach"] == 40.0
