"""From the page to the bench and back: what each of the page's doors does."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.desktop.lines.top_line import TopLine
from nimble_quake.desktop.shot_files import ShotFiles
from nimble_quake.desktop.start.own_starters import OwnStarters
from nimble_quake.desktop.start.page import Doors, StartPage
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.starting import own, starters
from nimble_quake.session.starting.starters import Starter
from nimble_quake.session.state import Session
from nimble_quake.session.storage import recovery
from nimble_quake.session.storage.preferences import Preferences
from nimble_quake.session.storage.recovery import Lost
from nimble_quake.session.verbs import front
from nimble_quake.shot.model import Shot


@dataclass(frozen=True)
class Bench:
    """What of the window gives way to the page."""

    top: TopLine
    rows: QWidget
    status: StatusLine
    open_lost: Callable[[Lost], bool]
    show_front: Callable[[], object]
    """Shows the dials and slots of a starter that was opened."""
    ask_slots: Callable[[], object]
    """Shows them, and gives the keys to the first slot."""
    focus: Callable[[], object]
    """Gives the keys to the bench."""


class Beginning:
    """Shows the page in the place of the bench, and the bench again once something is there."""

    def __init__(
        self, session: Session, files: ShotFiles, frames: Frames, preferences: Preferences, bench: Bench
    ) -> None:
        self.session, self.files, self.frames, self.preferences = session, files, frames, preferences
        self.bench = bench
        self.page = StartPage(
            Doors(
                title=self._begin_with_title,
                file=self._choose_file,
                recent=self._open,
                lost=lambda lost: bench.open_lost(lost) and self._leave(),
                size=self._new_shot,
                other=self._other_size,
                starter=self._use,
                inside=self._look_inside,
                group=self._put_in,
                rename=lambda starter: self.own.rename(starter),
                regroup=lambda starter: self.own.regroup(starter),
                update=lambda starter: self.own.update(starter),
                give_away=lambda starter: self.own.give_away(starter),
                remove=lambda starter: self.own.remove(starter),
                bench=self.leave,
            )
        )
        self.own = OwnStarters(session, frames, self.page)
        session.changed.connect(self._changed)
        self.page.skip.setChecked(not preferences.start_page)
        self.page.skip.toggled.connect(self._remember)

    @property
    def shown(self) -> bool:
        """Whether the page is shown."""
        return self.page.isVisible()

    def show(self) -> None:
        """Show the page: before anything is there to begin from, else to put a starter on the selected plate."""
        self.frames.stop()
        chosen = self.session.selection.plate
        self.bench.top.show_bench(False)
        self.bench.rows.hide()
        self.bench.status.hide()
        plate = self.session.name_of(chosen) if chosen else ""
        self.page.open(self.preferences.recent, recovery.lost_shots(), plate=plate)

    def leave(self) -> None:
        """Show the bench."""
        self.page.hide()
        self.page.offer_back("", None)
        own.forget_removed()
        self.bench.top.show_bench(True)
        self.bench.rows.show()
        self.bench.status.show()
        self.bench.focus()

    def _changed(self, found: set[str]) -> None:
        """What was put in, by a drop or a command, is seen on the bench."""
        if self.shown and "shape" in found:
            self.leave()

    def _leave(self) -> bool:
        self.leave()
        return True

    def _remember(self, skips: bool) -> None:
        self.preferences.start_page = not skips

    def keep(self) -> None:
        """Keep the open shot as a starter."""
        self.own.keep()

    def keep_selected(self) -> None:
        """Keep what is selected as a starter."""
        self.own.keep_selected()

    def take_starter(self, path: Path) -> None:
        """Take in a starter that was dropped or chosen."""
        if self.own.take_in(path):
            self.show()

    # Doors

    def _begin_with_title(self, words: str) -> None:
        if self.files.may_leave():
            starters.begin_with_title(self.session, words)
            self._to_bench(plays=True)

    def _new_shot(self, width: int, height: int) -> None:
        if self.files.may_leave():
            self.session.take(Shot(width=width, height=height))
            self._to_bench()

    def _other_size(self) -> None:
        before = self.session.history
        self.files.new_shot()
        if self.session.history is not before:
            self._to_bench()

    def _choose_file(self) -> None:
        before = self.session.shot
        self.files.ask_any()
        if self.session.shot is not before:
            self._to_bench()

    def _open(self, path: Path) -> None:
        if self.files.may_leave() and self.files.open_path(path):
            self._to_bench()

    def _use(self, starter: Starter, words: str) -> None:
        """On the selected plate; where there is none, the whole starter is the shot."""
        if self.session.selection.plate:
            try:
                done = starters.put_on(self.session, starter)
            except NimbleQuakeError as wrong:
                self.page.offer_back(wrong.line(), None)
                return
            if done:
                self._to_bench(plays=True)
        elif self.files.open_copy(starter.file):
            if words:
                self.session.edit("Title", starters.with_title(self.session.shot, words))
            if self.session.shot.front:
                self.session.take(starters.with_origin(self.session.shot, starter, ""), saved=False)
            self._to_bench(plays=True)
            if self.session.shot.front:
                self.bench.show_front()

    def _put_in(self, starter: Starter) -> None:
        """A whole starter as a group of the open shot, with its slots and dials."""
        try:
            done = starters.put_in(self.session, starter)
        except NimbleQuakeError as wrong:
            self.page.offer_back(wrong.line(), None)
            return
        if done:
            self._to_bench(plays=True)
            self.bench.ask_slots()
            if waiting := front.examples(self.session):
                said = waiting[0] if len(waiting) == 1 else f"{', '.join(waiting[:-1])} and {waiting[-1]}"
                shows = "shows its example" if len(waiting) == 1 else "show their examples"
                self.session.message.emit(f"{starter.title} is in as a group. {said} {shows}: give them your own")

    def _look_inside(self, starter: Starter) -> None:
        if self.files.open_copy(starter.file):
            self._to_bench(plays=True)

    def _to_bench(self, *, plays: bool = False) -> None:
        self.leave()
        self.files.refreshed()
        if plays:
            self.frames.play()
