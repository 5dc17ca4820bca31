"""The main window: the bench put together, and what its actions do."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QContextMenuEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QApplication, QMainWindow, QSplitter, QVBoxLayout, QWidget

from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.bays.covering import Covering
from nimble_quake.desktop.bays.map_bay import MapBay
from nimble_quake.desktop.bays.picture_bay import PictureBay
from nimble_quake.desktop.bays.probing import Probing
from nimble_quake.desktop.bays.thumbs import Thumbs
from nimble_quake.desktop.boards.command_finder import CommandFinder, Entry, entries
from nimble_quake.desktop.boards.source_board import SourceBoard
from nimble_quake.desktop.carrying import Carrying
from nimble_quake.desktop.coupling.coupling import Coupling
from nimble_quake.desktop.dialogs.opening import Dialogs
from nimble_quake.desktop.faults import reported_faults
from nimble_quake.desktop.fitting import show_fitted
from nimble_quake.desktop.front.middle import Middle
from nimble_quake.desktop.help.at_pointer import page_asked, page_under, show_question, tell_pages
from nimble_quake.desktop.keeping import Keeping
from nimble_quake.desktop.laying_out import one_above_the_other, show_in_area, side_by_side
from nimble_quake.desktop.letting_go import lets_go
from nimble_quake.desktop.lines.lost_work import LostWork
from nimble_quake.desktop.lines.offer_line import OfferLine
from nimble_quake.desktop.lines.queue_note import QueueNote
from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.desktop.lines.tab_order import neighbour
from nimble_quake.desktop.lines.top_line import TopLine
from nimble_quake.desktop.shot_files import ShotFiles
from nimble_quake.desktop.sound.hearing import Hearing
from nimble_quake.desktop.start.beginning import Beginning, Bench
from nimble_quake.desktop.time.strip import TimeStrip
from nimble_quake.desktop.viewers.drawing import Drawing
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.viewers.preparing import Preparing
from nimble_quake.desktop.viewers.show import Show
from nimble_quake.desktop.viewers.tracking import Tracking
from nimble_quake.desktop.viewers.view_state import ViewState
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.state import Session
from nimble_quake.session.storage import preferences as prefs
from nimble_quake.session.storage.recovery import Lost
from nimble_quake.session.verbs.shot_size import offer_its_shape
from nimble_quake.session.verbs.tracking import keep_tracks
from nimble_quake.shot.paths import kind_of, node_path, value_name


class BenchWindow(QMainWindow):
    """The bench: its regions, and the parts that act on them."""

    def __init__(self, session: Session, preferences: prefs.Preferences) -> None:
        super().__init__()
        self.session, self.preferences = session, preferences
        session.clock = preferences.clock
        session.engine.cache.budget = preferences.cache_mb * 2**20
        self.view_state, self.own_state = ViewState(), ViewState()
        self.frames = Frames(session, preferences.preview)
        self.map_bay = MapBay(session, self.frames, self.view_state)
        self.coupling = Coupling(session)
        self.middle = Middle(session, self.coupling)
        self.picture_bay = PictureBay(session, self.frames, self.view_state, preferences)
        for panel in (self.coupling.settings, self.picture_bay.settings, self.map_bay.settings):
            panel.opened = preferences.sections  # what is unfolded is remembered by kind, wherever it is shown
        self.status, self.queue = StatusLine(), Queue()
        self.hearing = Hearing(session, self.frames, self.status)
        self.preparing = Preparing(self.frames, self.status.show_work, preferences)
        self.time = TimeStrip(session, self.frames, self.hearing)
        self.top = TopLine(self, self)
        self.files = ShotFiles(self, session, preferences, (self.top, self.status), self.refresh)
        self.dialogs = Dialogs(self, session, preferences, self.frames, self.queue, self.refresh)
        self.status.keep(QueueNote(self.queue, self.dialogs.show_queue, session.message))
        self.keeping = Keeping(self, session, self.status, preferences.autosave_seconds)
        self.lost = LostWork(self._open_lost)
        self.offer, self._offered = OfferLine(session), set[str]()
        self.status.keep_first(self.offer)
        self.status.keep_first(self.lost)
        self.board = SourceBoard(session, self.frames, self.map_bay)
        self.probing = Probing(session, self.map_bay, self.coupling, self.picture_bay)
        self.thumbs = Thumbs(session, self.frames, self.map_bay, self.picture_bay)
        for helper in (self.view_state, self.own_state, self.frames, self.thumbs, self.hearing):
            helper.setParent(self)  # what is still on its way to them is dropped when the window goes
        self._last_stop: QWidget | None = None
        self.covering = Covering(session, self.frames, self.status)
        self.tracking = Tracking(session, self.picture_bay.viewer, self.status)
        self.drawing = Drawing(session, self.picture_bay.viewer)
        self.show_alone = Show(session, self.frames, self._sizes_changed, self)
        self.carrying = Carrying(self, session, preferences, self.map_bay, self.time)
        session.carry_asked.connect(self.carrying.do)
        keep_tracks(session)
        self.rows = QSplitter(Qt.Orientation.Vertical)
        front, slots, focus = self.middle.show_front, self.middle.ask_slots, self.picture_bay.viewer.setFocus
        bench = Bench(self.top, self.rows, self.status, self._open_lost, front, slots, focus)
        self.beginning = Beginning(session, self.files, self.frames, preferences, bench)
        self.files.starter_taken = self.beginning.take_starter
        bays = {"building-maps": self.map_bay, "couplings": self.coupling, "plates": self.picture_bay}
        tell_pages({**bays, "moving": self.time, "sound": self.time.sound_panel, "starters": self.beginning.page})
        self._lay_out()
        self._join()
        self.refresh()
        self.picture_bay.viewer.setFocus()
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._focus_moved)

    def _lay_out(self) -> None:
        self.setAcceptDrops(True)
        self.setMinimumSize(800, 480)
        size = self.preferences.window or [1280, 800]
        self.resize(size[0], size[1])
        self.bays = side_by_side(self.map_bay, self.middle, self.picture_bay)
        one_above_the_other(self.rows, self.bays, self.time)
        for name, splitter in (("bays", self.bays), ("rows", self.rows)):
            if self.preferences.splitters.get(name) and len(self.preferences.splitters[name]) == splitter.count():
                splitter.setSizes(self.preferences.splitters[name])
        whole = QWidget()
        outer = QVBoxLayout(whole)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(0)
        outer.addWidget(self.top)
        outer.addWidget(self.rows, 1)
        outer.addWidget(self.beginning.page, 1)
        outer.addWidget(self.status)
        self.setCentralWidget(whole)
        self.board.setParent(whole)
        self.board.hide()

    def _join(self) -> None:
        session = self.session
        session.changed.connect(self._changed)
        session.message.connect(self.status.say)
        session.typing_asked.connect(self.focus_value)
        self.tell_fault = on_window_thread(self, lambda line: self.status.say(line, "fault_text"))
        self.board.taken.connect(self.picture_bay.viewer.setFocus)  # what was added is tried there: space plays
        self.thumbs.made.connect(self.middle.front.show_thumb)
        self.picture_bay.stack.chosen.connect(self.middle.show_for)
        self.middle.front.dials_asked.connect(self.dialogs.show_dials)
        self.frames.arrived.connect(self._show)
        self.frames.partly_arrived.connect(self._show_part)
        self.frames.waits.connect(self._show_waits)
        session.stored.connect(lambda *_: self.map_bay.pill.forget())
        self.board.sample_chosen.connect(self.play_sample)
        self.board.help_asked.connect(self._show_help_on)
        self.session.help_asked.connect(self._show_help_on)
        self.picture_bay.cover_asked.connect(self.cover)
        self.picture_bay.points_button.toggled.connect(self._show_points)
        self.coupling.exaggerated.exaggerated.connect(self.frames.exaggerate)
        self.picture_bay.quake_asked = lambda: self.show_board("quake")
        self.picture_bay.finish_asked = lambda: self.show_board("finish")
        self.map_bay.board_asked.connect(self.show_board)
        self.map_bay.recipes_asked.connect(lambda: self.show_board("recipes"))
        self.map_bay.vary_asked.connect(lambda: self.show_board("vary"))
        self.map_bay.keep_asked.connect(self.files.maps.keep)
        self.map_bay.save_recipe_asked.connect(self.files.maps.save)
        self.map_bay.copy_asked.connect(self.files.maps.copy)
        self.map_bay.wide_asked.connect(lambda: self.toggle_wide("map"))
        self.picture_bay.wide_asked.connect(lambda: self.toggle_wide("picture"))
        self.picture_bay.file_asked.connect(self.files.ask_media)
        self.picture_bay.link_button.toggled.connect(self._link)
        self.bays.splitterMoved.connect(lambda *_: self._sizes_changed())
        self.rows.splitterMoved.connect(lambda *_: self._sizes_changed())
        self.view_state.changed.connect(self._sizes_changed)
        self.own_state.changed.connect(self._sizes_changed)
        self.own_state.changed.connect(self.map_bay.viewer.update)

    def refresh(self) -> None:
        """Show the whole document."""
        self.frames.solo = self.frames.compare = self.frames.beside = ""
        self.map_bay.refresh()
        self.coupling.refresh()
        self.picture_bay.refresh()
        self.time.lanes.refresh()
        self.top.show_shot()
        self.files.show_recent()
        star = "*" if self.session.dirty else ""
        self.setWindowTitle(f"{star}{self.session.shot.name} - Nimble Quake")
        self.frames.ask()

    def _changed(self, found: set[str]) -> None:
        self.top.show_shot()
        self.setWindowTitle(f"{'*' if self.session.dirty else ''}{self.session.shot.name} - Nimble Quake")
        if "settings" in found:
            self._sizes_changed()

    def _show(self, response: BenchResponse) -> None:
        """Let each part of the window show what concerns it; a fault in one leaves the others."""
        for take in (
            self.picture_bay.show_response,
            self.map_bay.show_response,
            self.coupling.show_response,
            self.probing.take,
            self.status.show_cost,
            self._say_problems,
            lambda _: offer_its_shape(self.session, self._offered),
        ):
            with reported_faults():
                take(response)

    def _show_part(self, response: BenchResponse) -> None:
        """Show a map whose picture is still being computed, or both, of which nothing is said yet."""
        picture = () if response.picture is None else (self.picture_bay.show_response,)
        for take in (*picture, self.map_bay.show_response):
            with reported_faults():
                take(response)

    def _show_waits(self, map_waits: bool, picture_waits: bool) -> None:
        self.map_bay.viewer.show_working(map_waits)
        self.picture_bay.viewer.show_working(picture_waits)

    def _say_problems(self, response: BenchResponse) -> None:
        if response.problems and response.request.probe:
            more = f" (+{len(response.problems) - 1})" if len(response.problems) > 1 else ""
            self.status.say(response.problems[0].line() + more, "fault_text")

    def _sizes_changed(self) -> None:
        ratio = self.devicePixelRatioF()
        picture = self.show_alone.scale() or self.picture_bay.viewer.zoom() * ratio
        self.frames.set_scales(picture, self.map_bay.viewer.zoom() * ratio)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        for bay in (self.map_bay, self.picture_bay):
            bay.fit_lower(self.height())
        narrow = self.width() < 1200
        if narrow != getattr(self, "_narrow", None) and not self.preferences.splitters.get("bays"):
            self._narrow = narrow
            middle = 200 if self.width() < 960 else 212
            side = (self.width() - middle - 12) // 2
            self.bays.setSizes([side, middle, side])
        self._place_board()
        QTimer.singleShot(0, self._sizes_changed)

    def _place_board(self) -> None:
        wide = self.map_bay.width() + self.bays.handleWidth() + self.middle.width()
        corner = self.bays.mapTo(self.centralWidget(), self.bays.rect().topLeft())
        self.board.setGeometry(corner.x(), corner.y(), wide, self.bays.height())

    def _link(self, on: bool) -> None:
        self.map_bay.viewer.state = self.view_state if on else self.own_state
        self.map_bay.viewer.update()
        self.map_bay.zoom_label.setVisible(not on)
        self._sizes_changed()

    def _show_points(self, on: bool) -> None:
        self.tracking.shown = on
        if on and self.tracking.tracks() is None:
            self.session.message.emit("No points yet: choose a plate with a clip, then Plate > Track the clip")
        self.picture_bay.viewer.update()

    # What actions do

    def _open_lost(self, lost: Lost) -> bool:
        """Open work that was lost, as a shot that is not saved."""
        if not self.files.may_leave():
            return False
        self.session.take(lost.shot, lost.path, saved=False)
        self.refresh()
        if self.keeping.autosave():
            lost.throw_away()  # it lies in this session's own file now
        return True

    def play_sample(self, name: str) -> None:
        """Open a sample shot and let it play."""
        if self.files.open_sample(name):
            self.frames.play()

    def show_tracking(self) -> None:
        """Ask how the selected plate's clip is tracked, and do it; its points are shown then."""
        if self.dialogs.track(self.tracking):
            self.picture_bay.points_button.setChecked(True)

    def show_help_here(self) -> None:
        """Open the help on what lies under the pointer."""
        self.dialogs.show_help(page_under(self.session, self))

    def _show_help_on(self, about: str) -> None:
        """Open the help on a path of the shot, or at a page."""
        self.dialogs.show_help(page_asked(self.session, about))

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """Where nothing has a menu of its own: what is this?"""
        if event is not None:
            show_question(self.session, self, event.globalPos(), self.dialogs.show_help)

    def show_picture_alone(self) -> None:
        """Show the picture over a whole screen, looped."""
        self.show_alone.open(self.screen())

    def show_fitted(self) -> None:
        """Show the window, its frame included, inside what the screen has free."""
        show_fitted(self)

    def show_board(self, tab: str = "") -> None:
        """Open the board of sources and shapers, of recipes, of quakes or finishes, or of variations of the selected
        step ("vary")."""
        chosen = self.session.selection
        if tab in ("quake", "finish") and not chosen.plate:
            self.session.message.emit("Choose a plate first, then add an effect to it")
        else:
            self._place_board()
            self.board.open(tab)

    def cover(self, path: str, moving: bool = False) -> None:
        """Enlarge a plate by what hides all its gaps, once that is worked out."""
        self.covering.begin(path, moving=moving)

    def commands(self) -> list[Entry]:
        """Return what the command finder offers: every action, and every field that is on the bench now."""
        panels = (self.map_bay.settings, self.coupling.settings, self.picture_bay.settings)
        return entries(self, panels, self.focus_value)

    def show_commands(self) -> None:
        """Open the command finder."""
        CommandFinder(self.commands(), self).exec()

    def show_whole(self) -> None:
        """Show one shot pixel on one screen pixel."""
        self.view_state.show_pixels(1 / self.devicePixelRatioF())

    def toggle_wide(self, which: str) -> None:
        """Give a bay the whole width, or go back to all three."""
        bay = self.map_bay if which == "map" else self.picture_bay
        others = [part for part in (self.map_bay, self.middle, self.picture_bay) if part is not bay]
        widen = others[0].isVisible() or others[1].isVisible()
        bay.show()
        for part in others:
            part.setVisible(not widen)
        self.map_bay.wide_button.setChecked(widen and which == "map")
        self.picture_bay.wide_button.setChecked(widen and which == "picture")
        QTimer.singleShot(0, self._sizes_changed)

    def focusNextPrevChild(self, next: bool) -> bool:
        """Tab and Shift+Tab walk as the window is read."""
        now = QApplication.focusWidget()
        found = neighbour(self, now, self._last_stop, forward=next)
        if found is None:
            return False
        found.setFocus(Qt.FocusReason.TabFocusReason if next else Qt.FocusReason.BacktabFocusReason)
        show_in_area(found)
        return True

    def _focus_moved(self, _: QWidget | None, now: QWidget | None) -> None:
        if now is not None and self.isAncestorOf(now) and now.focusPolicy() != Qt.FocusPolicy.NoFocus:
            self._last_stop = now

    def focus_value(self, path: str) -> None:
        """Put the keyboard on a value's field, ready for typing, wherever it is shown."""
        node = node_path(path)
        self.session.select(**{kind_of(node): node})
        for panel in (self.map_bay.settings, self.coupling.settings, self.picture_bay.settings):
            if panel.path == node:
                panel.focus_value(value_name(path))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and lets_go(self.session, event):
            if self.drawing.waits_for:  # the shape that was being drawn is gone
                self.drawing.end()
                self.session.commit()
            return
        if event is not None and event.key() == Qt.Key.Key_Escape and self.board.isVisible():
            self.board.shut()
        elif event is not None and event.key() == Qt.Key.Key_Escape and self.drawing.waits_for:
            self.drawing.end()
        else:
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event and data and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is not None:
            self.files.take_dropped(event.mimeData(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is None:
            return
        if not (self.dialogs.may_stop_rendering() and self.files.may_leave()):
            event.ignore()
            return
        self.covering.stop()
        self.tracking.stop()
        self.hearing.shut()
        self.files.collecting.shut()
        self.show_alone.close()
        self.frames.shut()
        self.lost.close_now()
        self.keeping.close()
        self.preferences.window = [self.width(), self.height()]
        self.preferences.splitters = {"bays": self.bays.sizes(), "rows": self.rows.sizes()}
        if not all(self.preferences.splitters["bays"]):
            self.preferences.splitters.pop("bays")
        prefs.save(self.preferences)
        super().closeEvent(event)
