"""The page one begins from, by mouse and keys: two actions to a moving title; a starter on one's own picture."""

from __future__ import annotations

import threading

import cv2
import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QCheckBox, QFileDialog, QInputDialog, QLineEdit, QMenu, QPushButton, QToolButton, QWidget

from driving import QTest, click, focused, named, press, type_text
from nimble_quake.desktop.start.about_dialog import KeepDialog, TakeDialog
from nimble_quake.samples import FOLDER, moving_picture
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.starting import own
from nimble_quake.session.starting.moving_pictures import COLUMNS, FRAMES, HEIGHT, WIDTH, draw
from nimble_quake.session.starting.starters import shipped
from nimble_quake.session.storage.recovery import Autosave, lost_shots
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shotfile.files import write_shot


@pytest.fixture
def empty(window):
    """The page over an empty shot."""
    window.session.take(Shot())
    window.beginning.show()
    yield window
    window.frames.stop()


def button(window: QWidget, words: str) -> QPushButton:
    return next(b for b in window.findChildren(QPushButton) if b.isVisible() and b.text() == words)


def test_a_title_and_return_and_it_moves(empty):
    assert focused() is named(empty, "Title", QLineEdit), "what is typed first goes into the title"
    type_text("Soup")
    press(Qt.Key.Key_Return)
    assert empty.session.shown("plates/title/words") == "Soup"
    assert empty.session.is_quake(empty.session.selection.quake)
    assert empty.frames.playing
    assert empty.rows.isVisible()
    assert not empty.beginning.shown


def test_an_empty_title_does_nothing(empty):
    press(Qt.Key.Key_Return)
    assert empty.beginning.shown


def test_a_size_begins_an_empty_shot(empty):
    click(button(empty, "1080 × 1350"))
    assert (empty.session.shot.width, empty.session.shot.height) == (1080, 1350)
    assert not empty.beginning.shown


def test_escape_leads_to_the_bench_and_starters_back(empty):
    press(Qt.Key.Key_Escape)
    assert empty.rows.isVisible()
    click(empty.top.starters)
    assert empty.beginning.shown
    assert not empty.rows.isVisible()


def test_a_starter_is_found_chosen_by_keys_and_used_with_ones_own_title(empty):
    type_text("Soup")
    search = named(empty, "Find a starter", QLineEdit)
    search.setFocus()
    type_text("text ripple")
    grid = named(empty, "Starters")
    assert [starter.name for starter in grid.starters] == ["text-ripple", "map-text-ripple"]
    press(Qt.Key.Key_Return)
    assert not empty.beginning.shown
    assert empty.session.path is None
    assert "Soup" in [plate.values.get("words") for plate in empty.session.shot.plates]


def test_what_is_put_in_leads_to_the_bench(empty):
    """As a file that is dropped, or a command."""
    empty.files.take_file(FOLDER / "media" / "emblem.svg")
    assert not empty.beginning.shown
    assert [plate.kind for plate in empty.session.shot.plates] == ["artwork"]


def test_what_is_typed_over_the_board_finds_one(window):
    """It has the keys where the page is opened over a shot."""
    window.beginning.show()
    grid = named(window, "Starters")
    assert focused().accessibleName() == "Starters"
    type_text("shock")
    assert named(window, "Find a starter", QLineEdit).text() == "shock"
    assert grid.starters[0].name == "shockwave"
    press(Qt.Key.Key_Return)
    assert not window.beginning.shown
    assert any(node.name == "Reach" for node in window.session.shot.front)


def test_arrow_keys_walk_the_grid(empty):
    grid = named(empty, "Starters")
    grid.setFocus()
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Left):
        press(key)
    assert grid.current is grid.starters[1]
    press(Qt.Key.Key_End)
    assert grid.current is grid.starters[-1]
    assert grid.current.title in grid.accessibleDescription()


def test_on_ones_own_picture_it_is_one_step(window):
    session = window.session
    session.take(Shot(plates=(Plate(id="mine", kind="text", values={"words": "TEA"}),)))
    session.select(plate="plates/mine")
    window.beginning.show()
    assert button(window, "Put on my picture").isVisible()
    grid = named(window, "Starters")
    grid.choose(next(starter for starter in grid.starters if starter.name == "glass-lens"))
    click(button(window, "Put on my picture"))
    window.frames.stop()
    assert [plate.kind for plate in session.shot.plates][:2] == ["lens", "text"]
    assert len(session.history.past) == 1
    session.undo()
    assert [plate.id for plate in session.shot.plates] == ["mine"]


def test_recent_shots_and_what_is_gone(empty, tmp_path):
    here, gone = tmp_path / "stall.nquake", tmp_path / "gone.nquake"
    write_shot(Shot(name="Stall", width=640, height=360), here)
    empty.preferences.recent = [str(here), str(gone)]
    empty.beginning.show()
    QTest.qWait(10)
    assert not button(empty, "gone").isEnabled()
    click(button(empty, "stall"))
    assert empty.session.shot.name == "Stall"
    assert not empty.beginning.shown


def test_lost_work_lies_on_the_page(empty):
    kept = Autosave()
    kept.write(Shot(name="Night stall"), None)
    kept.abandon()
    assert [lost.shot.name for lost in lost_shots()] == ["Night stall"]
    empty.beginning.show()
    QTest.qWait(10)
    rows = [w for w in empty.beginning.page.go_on.findChildren(QWidget) if "Night stall" in str(w.property("text"))]
    assert rows
    next(w for w in empty.beginning.page.go_on.findChildren(QWidget) if w.accessibleName() == "Open").click()
    assert empty.session.shot.name == "Night stall"


def test_the_page_is_skipped_where_that_was_ticked(empty):
    box = next(b for b in empty.findChildren(QCheckBox) if b.text().startswith("Begin with an empty bench"))
    box.setFocus()
    press(Qt.Key.Key_Space)
    assert empty.preferences.start_page is False


def test_nothing_found_is_said_and_nothing_can_be_used(empty):
    search = named(empty, "Find a starter", QLineEdit)
    search.setFocus()
    type_text("zeppelin")
    assert named(empty, "Starters").starters == ()
    assert not button(empty, "Use").isEnabled()
    press(Qt.Key.Key_Return)
    assert empty.beginning.shown


def test_every_starter_has_its_moving_picture():
    """As large as the page takes it apart, and it moves."""
    for starter in shipped():
        sheet = cv2.imread(str(moving_picture(starter.name)))
        assert sheet is not None, "run tools/draw_moving_pictures.py"
        assert sheet.shape == (HEIGHT * FRAMES // COLUMNS, WIDTH * COLUMNS, 3)
        frames = [sheet[:HEIGHT, :WIDTH].astype(int), sheet[-HEIGHT:, -WIDTH:].astype(int)]
        assert np.abs(frames[0] - frames[1]).mean() > 0.2, starter.name


def test_pictures_move_while_the_page_is_shown(empty, qtbot):
    grid = named(empty, "Starters")
    seen = []
    for _ in range(2):
        QTest.qWait(300)
        seen.append(grid.grab().toImage())
    assert seen[0] != seen[1]


def kept_as(monkeypatch, name: str, **said: str) -> None:
    """The dialog that keeps a starter is filled and taken."""

    def fill(dialog: KeepDialog) -> int:
        dialog.name.setText(name)
        for field, words in said.items():
            getattr(dialog, field).setText(words)
        return 1

    monkeypatch.setattr(KeepDialog, "exec", fill)


def test_pictures_take_memory_only_while_the_page_is_shown(empty, qtbot):
    grid = named(empty, "Starters")
    qtbot.waitUntil(lambda: grid.loaded == len({each.picture for each in grid.starters}), timeout=20_000)
    press(Qt.Key.Key_Escape)
    assert grid.loaded == 0
    empty.beginning.show()
    qtbot.waitUntil(lambda: grid.loaded > 3, timeout=20_000)


def test_a_shot_is_kept_as_a_starter_and_stands_under_yours(window, monkeypatch, qtbot):
    kept_as(monkeypatch, "My lanterns")
    next(action for action in ACTIONS if action.id == "keep-starter").run(window)
    picture = own.own_starters()[0].picture
    qtbot.waitUntil(picture.is_file, timeout=20_000)
    window.session.take(Shot())
    window.beginning.show()
    grid, sorts = named(window, "Starters"), named(window, "Made for")
    sorts.setFocus()
    press(Qt.Key.Key_Left)
    assert [starter.title for starter in grid.starters] == ["My lanterns"]
    window.beginning.own.remove(grid.starters[0])
    assert grid.starters == ()
    QTest.qWait(10)
    next(b for b in window.findChildren(QToolButton) if b.isVisible() and b.text() == "Bring it back").click()
    assert [starter.title for starter in grid.starters] == ["My lanterns"]


def find(window, text: str) -> None:
    named(window, "Find a starter").setFocus()
    type_text(text)


def test_a_page_that_is_open_before_the_picture_is_drawn_shows_it_then(window, monkeypatch, qtbot):
    go_on = threading.Event()
    monkeypatch.setattr(own, "draw", lambda shot, file: (go_on.wait(20), draw(shot, file)))
    kept_as(monkeypatch, "My lanterns")
    next(action for action in ACTIONS if action.id == "keep-starter").run(window)
    window.session.take(Shot())
    window.beginning.show()
    named(window, "Made for").setFocus()
    press(Qt.Key.Key_Left)
    grid = named(window, "Starters")
    qtbot.waitUntil(lambda: not grid.loading, timeout=5000)
    before = grid.grab().toImage()
    go_on.set()
    middle = grid.cell(0).center().toPoint()
    qtbot.waitUntil(lambda: grid.grab().toImage().pixelColor(middle) != before.pixelColor(middle), timeout=20_000)


def test_a_starter_is_given_away_and_taken_in_by_somebody_else(window, monkeypatch, tmp_path, qtbot):
    kept_as(monkeypatch, "My lanterns", author="Ada", words="paper glow")
    next(action for action in ACTIONS if action.id == "keep-starter").run(window)
    mine = own.own_starters()[0]
    qtbot.waitUntil(mine.picture.is_file, timeout=20_000)
    target = tmp_path / "given.nquake-starter"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(target), ""))
    window.beginning.show()
    window.beginning.own.give_away(mine)
    window.beginning.own.remove(mine)
    own.forget_removed()
    said = []
    monkeypatch.setattr(TakeDialog, "exec", lambda dialog: said.append(dialog) or 1)
    window.files.take_file(target)
    assert len(said) == 1
    (taken,) = own.own_starters()
    assert (taken.title, taken.about.author) == ("My lanterns", "Ada")
    assert taken.picture.is_file(), "its moving picture came along"
    assert taken.matches("paper")
    target.write_bytes(b"no starter")
    told: list[str] = []
    window.session.message.connect(told.append)
    window.files.take_file(target)
    assert len(told) == 1
    assert len(own.own_starters()) == 1


def test_a_starter_is_put_in_as_a_group_with_its_front(window, monkeypatch):
    wave = next(each for each in shipped() if each.name == "shockwave")
    before, said = window.session.shot, list[str]()
    window.session.message.connect(said.append)
    window.beginning.show()
    find(window, "shockwave")
    assert named(window, "Starters").current == wave

    def as_a_group(menu: QMenu, *_: object) -> None:
        next(action for action in menu.actions() if action.text() == "Put it in as a group").trigger()

    monkeypatch.setattr(QMenu, "exec", as_a_group)
    named(window, "Starters").menu_asked.emit(wave, QPoint())
    shot = window.session.shot
    group = shot.plates[0]
    assert (group.kind, group.name) == ("group", "Shockwave")
    assert {node.name for node in shot.front if node.inside == group.id} >= {"Words", "Reach", "Clip"}
    assert shot.plates[-len(before.plates) :] == before.plates
    assert window.middle.in_front
    assert "Reach" in [label.text() for label in window.middle.front.labels.values()]
    assert said[-1] == "Shockwave is in as a group. Clip, Words and Wave show their examples: give them your own"
    assert focused().accessibleName().startswith("Slot Clip")
    window.session.undo()
    assert window.session.shot == before


def test_a_starter_on_a_plate_shows_its_dials(window):
    wave = next(each for each in shipped() if each.name == "shockwave")
    window.session.select(plate=window.session.selection.plate)
    window.beginning.show()
    find(window, "shockwave")
    assert named(window, "Starters").current == wave
    press(Qt.Key.Key_Return)
    assert window.middle.in_front
    dial = next(node for node in window.session.shot.front if node.name == "Reach" and node.inside)
    window.session.set(f"front/{dial.id}/value", 12.0)
    (drive,) = dial.values["drives"]
    assert window.session.raw(drive.path) == 12.0


def test_the_selected_plates_are_kept_alone(window, monkeypatch):
    kept_as(monkeypatch, "Only the title")
    window.session.select(plate="plates/title")
    next(action for action in ACTIONS if action.id == "keep-selected").run(window)
    (kept,) = own.own_starters()
    assert [plate.id for plate in kept.shot.plates] == ["title"]
    assert len(kept.shot.maps) == 1


def test_a_starter_is_made_as_the_open_shot_is(window, monkeypatch):
    kept_as(monkeypatch, "Mine")
    next(action for action in ACTIONS if action.id == "keep-starter").run(window)
    window.session.set("plates/title/words", "OTHER")
    window.beginning.own.update(own.own_starters()[0])
    (kept,) = own.own_starters()
    assert kept.shot.plate("title").values["words"] == "OTHER"
    assert kept.about.version == 2
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("Glitches", True))
    window.beginning.own.regroup(kept)
    assert own.own_starters()[0].about.group == "Glitches"
