"""Shot files: new, open, save, recent ones, and what is dropped on the window."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QMimeData, QPoint
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from nimble_quake.desktop.collecting import Collecting
from nimble_quake.desktop.dialogs.shot_dialog import ShotDialog
from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.desktop.lines.top_line import TopLine
from nimble_quake.desktop.map_files import MapFiles
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.media import clips, sound, stills
from nimble_quake.media.clips import announced
from nimble_quake.media.drawing import faces
from nimble_quake.media.pool import is_shot
from nimble_quake.samples import sample_path
from nimble_quake.session.state import Session
from nimble_quake.session.storage import preferences as prefs
from nimble_quake.session.storage.fonts import take_font
from nimble_quake.session.verbs import items, missing
from nimble_quake.session.verbs.bars import in_a_row
from nimble_quake.session.verbs.shot_size import resized
from nimble_quake.session.verbs.sounds import add_sound
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile import recipes
from nimble_quake.shotfile.files import SUFFIX, LostShot, backup_of, read_shot, write_shot
from nimble_quake.shotfile.names import file_stem
from nimble_quake.shotfile.starter_file import SUFFIX as STARTER

BESIDE = 90
"""Pixels from the window's corner to a dialog that leaves the picture free."""
FILTER = f"Shots (*{SUFFIX})"


class ShotFiles:
    """What concerns the files of shots. `refreshed` is called when another shot is shown."""

    def __init__(
        self,
        window: QWidget,
        session: Session,
        preferences: prefs.Preferences,
        lines: tuple[TopLine, StatusLine],
        refreshed: Callable[[], None],
    ) -> None:
        self.window, self.session, self.preferences, self.refreshed = window, session, preferences, refreshed
        self.top, self.status = lines
        self.maps = MapFiles(window, session, self.status)
        self.collecting = Collecting(window, session, self.status)
        self.starter_taken: Callable[[Path], object] = lambda path: None
        """Takes in a starter that was dropped or chosen."""

    def may_leave(self) -> bool:
        """Ask what to do with changes that are not saved. Returns whether to go on."""
        if not self.session.dirty:
            return True
        buttons = QMessageBox.StandardButton
        asked = QMessageBox.question(
            self.window,
            "Not saved",
            f"Save the changes to {self.session.shot.name}?",
            buttons.Save | buttons.Discard | buttons.Cancel,
            buttons.Save,
        )
        if asked == buttons.Save:
            return self.save()
        return asked == buttons.Discard

    def new_shot(self) -> None:
        """Ask for a new shot's size, rate and length."""
        if not self.may_leave():
            return
        dialog = ShotDialog(Shot(), "New shot", self.window)
        if dialog.exec():
            self.session.take(Shot(**dialog.fields()))
            self.refreshed()

    def shot_settings(self) -> None:
        """Change the open shot's size, rate and length."""
        session, before = self.session, self.session.shot
        holds = bool(before.plates or before.maps or before.sounds)
        dialog = ShotDialog(before, "Size, rate and length", self.window, refits=holds)
        dialog.changed.connect(lambda: session.change(resized(session, before, dialog.change(), dialog.fields())))
        dialog.move(self.window.mapToGlobal(QPoint(BESIDE, BESIDE)))  # what becomes of the picture is seen
        session.begin("Size, rate and length")
        if dialog.exec():
            session.change(resized(session, before, dialog.change(), dialog.fields()))
            session.commit()
        else:
            session.abort()
        self.refreshed()

    def open_shot(self) -> None:
        """Ask for a shot to open."""
        if not self.may_leave():
            return
        start = str(self.session.path.parent) if self.session.path else ""
        name, _ = QFileDialog.getOpenFileName(self.window, "Open", start, FILTER)
        if name:
            self.open_path(Path(name))

    def open_sample(self, name: str) -> bool:
        """Open a sample shot; it is saved under a name of its own. Returns whether it opened."""
        path = sample_path(name)
        return path is not None and self.open_copy(path)

    def open_copy(self, path: Path) -> bool:
        """Open a sample or a starter as a shot that is not saved yet. Returns whether it opened."""
        recent = self.preferences.recent
        if not self.may_leave() or not self.open_path(path):
            return False
        self.preferences.recent = recent
        self.session.path = None
        self.top.show_shot()
        return True

    def show_recent(self) -> None:
        """Fill the list of recent shots."""
        menu = self.top.recent
        if menu is None:
            return
        menu.clear()
        for name in self.preferences.recent:
            menu.addAction(Path(name).name, lambda name=name: self.may_leave() and self.open_path(Path(name)))
        menu.setEnabled(bool(self.preferences.recent))

    def save(self) -> bool:
        """Save; a shot without a file is asked for one. Returns whether it is saved."""
        return self._save_to(self.session.path) if self.session.path else self.save_as()

    def _ask_name(self, title: str) -> Path | None:
        start = self.session.path or Path.home() / f"{file_stem(self.session.shot.name)}{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self.window, title, str(start), FILTER)
        if not name:
            return None
        path = Path(name)
        return path if path.suffix == SUFFIX else path.with_name(path.name + SUFFIX)

    def save_as(self) -> bool:
        """Ask for a file and save to it."""
        path = self._ask_name("Save as")
        return self._save_to(path) if path else False

    def save_copy(self) -> None:
        """Save a copy elsewhere; the open shot stays what it is."""
        path = self._ask_name("Save a copy")
        if path:
            try:
                write_shot(self.session.to_keep(), path)
                self.status.say(f"A copy was saved to {path}")
            except NimbleQuakeError as wrong:
                self.status.report_problem(wrong.line())

    def _save_to(self, path: Path) -> bool:
        try:
            self.session.save(path)
        except NimbleQuakeError as wrong:
            self.status.report_problem(wrong.line())
            return False
        self.preferences.remember(path)
        self.show_recent()
        self.status.say(f"Saved to {path}")
        return True

    def ask_media(self) -> None:
        """Ask for pictures and clips to make plates of."""
        endings = " ".join(f"*{ending}" for ending in (*stills.SUFFIXES, *clips.SUFFIXES, ".svg", SUFFIX))
        names, _ = QFileDialog.getOpenFileNames(
            self.window, "Pictures, SVG, clips and shots", "", f"Pictures, clips and shots ({endings})"
        )
        self.take_files([Path(name) for name in names if not is_shot(name)])
        for name in filter(is_shot, names):
            items.plate_from_file(self.session, name)

    def ask_any(self) -> None:
        """Ask for anything that can be put in: pictures, clips, sounds, or a shot."""
        endings = (*stills.SUFFIXES, *clips.SUFFIXES, *sound.SUFFIXES, ".svg", SUFFIX, recipes.SUFFIX, STARTER)
        known = " ".join(f"*{ending}" for ending in endings)
        sorts = f"Pictures, clips, sounds, shots ({known})"
        names, _ = QFileDialog.getOpenFileNames(self.window, "Put something in", "", sorts)
        self.take_files([Path(name) for name in names])

    def collect(self) -> None:
        """Copy the shot with all its media into a folder or zip."""
        self.collecting.ask()

    def find_missing(self) -> None:
        """Ask for a folder, and find there all files that are missing."""
        if not missing.missing_files(self.session):
            self.session.message.emit("No file is missing")
            return
        name = QFileDialog.getExistingDirectory(self.window, "A folder that holds the missing files")
        if name:
            done, all_ = missing.find_in(self.session, Path(name))
            left = f", {all_ - done} are not there" if done < all_ else ""
            self.session.message.emit(f"{done} of {all_} missing files found{left}")

    def ask_sound(self) -> None:
        """Ask for a sound to add."""
        endings = " ".join(f"*{ending}" for ending in (*sound.SUFFIXES, *clips.SUFFIXES))
        names, _ = QFileDialog.getOpenFileNames(self.window, "Add a sound", "", f"Sounds and clips ({endings})")
        for name in names:
            add_sound(self.session, name)

    def open_path(self, path: Path) -> bool:
        """Open a shot; what goes wrong is said and the open shot stays. Returns whether it opened."""
        try:
            self.session.open(path)
        except LostShot as wrong:
            return self._offer_backup(path, wrong)
        except NimbleQuakeError as wrong:
            self.status.report_problem(wrong.line())
            return False
        self.preferences.remember(path)
        self.refreshed()
        return True

    def _offer_backup(self, path: Path, wrong: LostShot) -> bool:
        """A shot is gone or damaged, and its backup is there: open that instead, as a shot that is not saved."""
        backup = backup_of(path)
        buttons = QMessageBox.StandardButton
        asked = QMessageBox.question(
            self.window,
            "Open",
            f"{path.name}: {wrong.what}. Open its backup, {backup.name}?",
            buttons.Open | buttons.Cancel,
        )
        if asked != buttons.Open:
            self.status.say(wrong.line(), "fault_text")
            return False
        try:
            self.session.take(read_shot(backup), path, saved=False)
        except NimbleQuakeError as worse:
            self.status.report_problem(worse.line())
            return False
        self.refreshed()
        return True

    def take_dropped(self, data: QMimeData | None, on_top: bool = False) -> None:
        """Make plates of dropped pictures and clips, add dropped sounds; open a dropped shot. See `take_files`."""
        self.take_files([Path(url.toLocalFile()) for url in (data.urls() if data else []) if url.isLocalFile()], on_top)

    def take_files(self, files: list[Path], on_top: bool = False) -> None:
        """Take files as `take_file` does. Several clips lie one after the other, or `on_top` of each other."""
        moving = [file for file in files if not on_top and announced(file).seconds > 0]
        if len(moving) > 1:
            in_a_row(self.session, moving)
            files = [file for file in files if file not in moving]
        for file in files:
            self.take_file(file)

    def _take_font(self, path: Path) -> None:
        try:
            take_font(self.session, path)
        except NimbleQuakeError as wrong:
            self.status.report_problem(wrong.line())

    def take_file(self, path: Path) -> None:
        """Make a plate of a picture or clip, add a sound, take in a font, use a recipe, open a shot."""
        if path.suffix == SUFFIX:
            if self.may_leave():
                self.open_path(path)
        elif path.suffix == recipes.SUFFIX:
            self.maps.open_recipe(path)
        elif path.suffix == STARTER:
            self.starter_taken(path)
        elif path.suffix.lower() in faces.SUFFIXES:
            self._take_font(path)
        elif path.suffix.lower() in sound.SUFFIXES:
            add_sound(self.session, str(path))
        else:
            items.plate_from_file(self.session, str(path))
