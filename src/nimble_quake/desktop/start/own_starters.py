"""One's own starters, looked after: kept, taken in, given away, brought up to date, renamed and removed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QInputDialog

from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.start.about_dialog import KeepDialog, TakeDialog
from nimble_quake.desktop.start.page import StartPage
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.starting import own
from nimble_quake.session.starting.starters import OWN, SORTS, Starter
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.carry import alone
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile import starter_file


class OwnStarters:
    """What a person does with starters of their own; what goes wrong is a line."""

    def __init__(self, session: Session, frames: Frames, page: StartPage) -> None:
        self.session, self.frames, self.page = session, frames, page
        self._drawn = on_window_thread(page, page.grid.forget_picture)

    def keep(self) -> None:
        """Keep the open shot as a starter."""
        self._keep(self.session.shot)

    def keep_selected(self) -> None:
        """Keep the selected plates, or effects, as a starter, with all that they need."""
        shot = alone(self.session)
        if shot is None:
            self.session.message.emit("Select plates or effects to keep first")
        else:
            self._keep(shot)

    def _keep(self, shot: Shot) -> None:
        if not shot.plates and not shot.maps:
            self.session.message.emit("There is nothing to keep yet")
            return
        dialog = KeepDialog(shot.name, starter_file.weight_of(shot), self.page.window())
        if not dialog.exec():
            return
        about = dialog.about()
        try:
            file = own.keep(shot, about.name, about, carries=dialog.carries.isChecked())
        except NimbleQuakeError as wrong:
            self.session.message.emit(wrong.line())
            return
        self.draw(file)
        self.session.message.emit(f"Kept as a starter: {about.name}. It stands on the page under {OWN}")

    def draw(self, file: Path) -> None:
        """Have the moving picture of a starter drawn, when no frame waits."""
        self.frames.scheduler.later(f"picture of {file.name}", lambda: self._drawn(own.draw_picture(file)))

    def take_in(self, path: Path) -> bool:
        """Say what a starter brings, and keep it among one's own. Returns whether it is."""
        try:
            about = starter_file.about_of(path)
            if not TakeDialog(about, self.page.window()).exec():
                return False
            file = own.take_in(path)
        except NimbleQuakeError as wrong:
            self.session.message.emit(wrong.line())
            return False
        if not own.starter_in(file).picture.is_file():
            self.draw(file)
        self.page.show_own()
        self.session.message.emit(f"{about.name} stands on the page of starters under {OWN}")
        return True

    def give_away(self, starter: Starter) -> None:
        """Ask for a file, and write a starter to it with its media."""
        start = str(Path.home() / f"{starter.title}{starter_file.SUFFIX}")
        kinds = f"Starters (*{starter_file.SUFFIX})"
        name, _ = QFileDialog.getSaveFileName(self.page.window(), "Give the starter away", start, kinds)
        if name:
            target = Path(name if name.endswith(starter_file.SUFFIX) else name + starter_file.SUFFIX)
            self._try(lambda: own.give_away(starter, target), f"{starter.title} was written to {target.name}")

    def update(self, starter: Starter) -> None:
        """Put the open shot in the place of a starter's."""
        if self._try(lambda: own.update(starter, self.session.shot), f"{starter.title} is as the open shot now"):
            self.draw(starter.file)

    def rename(self, starter: Starter) -> None:
        """Ask for another name."""
        name, good = QInputDialog.getText(self.page.window(), "Rename the starter", "Name", text=starter.title)
        if good:
            self._try(lambda: own.rename(starter, name))

    def regroup(self, starter: Starter) -> None:
        """Ask for another group."""
        groups = sorted({*SORTS, *(each.about.group for each in own.own_starters() if each.about is not None)} - {""})
        group, good = QInputDialog.getItem(self.page.window(), "Group", "The heading it stands under", groups)
        if good:
            self._try(lambda: own.rename(starter, starter.title, group.strip()))

    def remove(self, starter: Starter) -> None:
        """Take one away; it can be brought back until the page is left."""
        own.forget_removed()
        if self._try(lambda: own.remove(starter)):
            self.page.offer_back(f"Removed {starter.title}", lambda: self._bring_back(starter))

    def _bring_back(self, starter: Starter) -> None:
        own.bring_back(starter)
        self.page.offer_back("", None)
        self.page.show_own()

    def _try(self, change: Callable[[], object], done: str = "") -> bool:
        """Change one's own starters; what goes wrong is a line."""
        try:
            change()
        except NimbleQuakeError as wrong:
            self.page.offer_back(wrong.line(), None)
            return False
        self.page.offer_back(done, None)
        self.page.show_own()
        return True
