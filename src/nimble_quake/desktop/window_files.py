"""The window's file actions: new, open, save, render, dialogs, and drops."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QFileDialog, QMainWindow, QMessageBox

from nimble_quake import __version__
from nimble_quake.desktop.dialogs.queue_dialog import QueueDialog
from nimble_quake.desktop.dialogs.render_dialog import RenderDialog
from nimble_quake.desktop.dialogs.seamless_dialog import SeamlessDialog
from nimble_quake.desktop.dialogs.shot_dialog import ShotDialog
from nimble_quake.desktop.dialogs.small import PreferencesDialog, ShortcutsDialog
from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.desktop.lines.top_line import TopLine
from nimble_quake.desktop.theme import look
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.media import clips, sound, stills
from nimble_quake.samples import sample_path
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.state import Session
from nimble_quake.session.storage import library
from nimble_quake.session.storage import preferences as prefs
from nimble_quake.session.verbs import items
from nimble_quake.session.verbs.sounds import add_sound
from nimble_quake.shot.edits.settings import set_shot
from nimble_quake.shot.model import Map, Shot
from nimble_quake.shot.paths import find
from nimble_quake.shotfile import recipes
from nimble_quake.shotfile.files import SUFFIX, write_shot

FILTER = f"Shots (*{SUFFIX})"


class FileActions(QMainWindow):
    """The base of the window: what concerns files and dialogs."""

    session: Session
    preferences: prefs.Preferences
    frames: Frames
    status: StatusLine
    top: TopLine
    queue: Queue

    def refresh(self) -> None:
        """Show the whole document."""
        raise NotImplementedError

    def focus_value(self, path: str) -> None:
        """Go to a value."""
        raise NotImplementedError

    def open_path(self, path: Path) -> bool:
        """Open a shot. Returns whether it opened."""
        raise NotImplementedError

    def report_problem(self, text: str) -> None:
        """Say what went wrong, in the status line and in a box that waits."""
        self.status.say(text, "fault_text")
        box = QMessageBox(QMessageBox.Icon.NoIcon, "Nimble Quake", text, QMessageBox.StandardButton.Ok, self)
        box.open()

    def may_leave(self) -> bool:
        """Ask what to do with changes that are not saved. Returns whether to go on."""
        if not self.session.dirty:
            return True
        buttons = QMessageBox.StandardButton
        asked = QMessageBox.question(
            self,
            "Not saved",
            f"Save the changes to {self.session.shot.name}?",
            buttons.Save | buttons.Discard | buttons.Cancel,
            buttons.Save,
        )
        if asked == buttons.Save:
            return self.save()
        return asked == buttons.Discard

    def may_stop_rendering(self) -> bool:
        """Ask whether to stop a render that is under way, and stop it. Returns whether to go on."""
        running = [dialog for dialog in self.findChildren(RenderDialog) if dialog.running()]
        return all(dialog.ask_to_stop() for dialog in running)

    def new_shot(self) -> None:
        """Ask for a new shot's size, rate and length."""
        if not self.may_leave():
            return
        dialog = ShotDialog(Shot(), "New shot", self)
        if dialog.exec():
            self.session.take(Shot(**dialog.fields()))
            self.refresh()

    def shot_settings(self) -> None:
        """Change the open shot's size, rate and length."""
        dialog = ShotDialog(self.session.shot, "Size, rate and length", self)
        if dialog.exec():
            self.session.edit("Size, rate and length", set_shot(self.session.shot, **dialog.fields()))
            self.refresh()

    def open_shot(self) -> None:
        """Ask for a shot to open."""
        if not self.may_leave():
            return
        start = str(self.session.path.parent) if self.session.path else ""
        name, _ = QFileDialog.getOpenFileName(self, "Open", start, FILTER)
        if name:
            self.open_path(Path(name))

    def open_sample(self, name: str) -> None:
        """Open a sample shot; it is saved under a name of its own."""
        path = sample_path(name)
        if path is not None and self.may_leave() and self.open_path(path):
            self.session.path = None
            self.top.show_shot()
            self.frames.play()

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
        start = self.session.path or Path.home() / f"{self.session.shot.name or 'shot'}{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self, title, str(start), FILTER)
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
                self.report_problem(wrong.line())

    def _save_to(self, path: Path) -> bool:
        try:
            self.session.save(path)
        except NimbleQuakeError as wrong:
            self.report_problem(wrong.line())
            return False
        self.preferences.remember(path)
        self.show_recent()
        self.status.say(f"Saved to {path}")
        return True

    def keep_recipe(self, path: str = "") -> None:
        """Keep a map in one's own library of recipes."""
        try:
            library.keep(self.session, path or self.session.selection.map)
        except NimbleQuakeError as wrong:
            self.report_problem(wrong.line())

    def save_recipe(self, path: str = "") -> None:
        """Save a map as a recipe file somewhere."""
        path = path or self.session.selection.map
        map = find(self.session.shot, path)
        if not isinstance(map, Map):
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Save as recipe", f"{self.session.name_of(path)}{recipes.SUFFIX}", f"Recipes (*{recipes.SUFFIX})"
        )
        if name:
            self._write_recipe(msgspec.structs.replace(map, name=self.session.name_of(path)), Path(name))

    def _write_recipe(self, map: Map, path: Path) -> None:
        target = path if path.suffix == recipes.SUFFIX else path.with_name(path.name + recipes.SUFFIX)
        try:
            recipes.write_recipe(map, (self.session.shot.width, self.session.shot.height), target)
            self.status.say(f"Saved to {target}")
        except NimbleQuakeError as wrong:
            self.report_problem(wrong.line())

    def open_recipe(self, path: Path) -> None:
        """Take a recipe file into one's own library and use it in the shot."""
        try:
            library.use(self.session, library.take_in(path))
        except NimbleQuakeError as wrong:
            self.report_problem(wrong.line())

    def ask_recipe(self) -> None:
        """Ask for a recipe file to use."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a recipe", "", f"Recipes (*{recipes.SUFFIX})")
        if name:
            self.open_recipe(Path(name))

    def copy_map(self, path: str = "") -> None:
        """Put a map on the clipboard, so that another shot, in this window or another, can take it."""
        text = library.map_text(self.session, path or self.session.selection.map)
        board = QApplication.clipboard()
        if text and board is not None:
            board.setText(text)
            self.status.say("The map is on the clipboard; paste it into any shot")

    def paste_map(self) -> None:
        """Take a map from the clipboard."""
        board = QApplication.clipboard()
        try:
            library.use(self.session, library.map_from_text(board.text() if board is not None else ""))
        except NimbleQuakeError as wrong:
            self.status.say(wrong.line(), "fault_text")

    def ask_media(self) -> None:
        """Ask for pictures and clips to make plates of."""
        endings = " ".join(f"*{ending}" for ending in (*stills.SUFFIXES, *clips.SUFFIXES, ".svg"))
        names, _ = QFileDialog.getOpenFileNames(self, "Pictures, SVG and clips", "", f"Pictures and clips ({endings})")
        for name in names:
            items.plate_from_file(self.session, name)

    def ask_sound(self) -> None:
        """Ask for a sound to add."""
        endings = " ".join(f"*{ending}" for ending in (*sound.SUFFIXES, *clips.SUFFIXES))
        names, _ = QFileDialog.getOpenFileNames(self, "Add a sound", "", f"Sounds and clips ({endings})")
        for name in names:
            add_sound(self.session, name)

    def show_seamless(self) -> SeamlessDialog:
        """Say what of the shot does not close over its length; the bench stays usable beside it."""
        dialog = SeamlessDialog(self.session, self.focus_value, self)
        dialog.show()
        dialog.look()
        return dialog

    def show_render(self) -> RenderDialog:
        """Open the render dialog; the bench stays usable beside it."""
        self.frames.stop()
        dialog = RenderDialog(self.session, self.queue, self.frames.scheduler.cost * 2, self)
        dialog.show()
        return dialog

    def show_queue(self) -> QueueDialog:
        """Open the render queue; the bench stays usable beside it."""
        dialog = next((found for found in self.findChildren(QueueDialog) if found.isVisible()), None)
        if dialog is None:
            dialog = QueueDialog(self.queue, self)
        dialog.show()
        dialog.raise_()
        dialog.activateWindow()
        return dialog

    def show_preferences(self) -> None:
        """Open the preferences."""
        before = self.preferences.theme
        if PreferencesDialog(self.preferences, self).exec():
            prefs.save(self.preferences)
            self.session.engine.cache.budget = self.preferences.cache_mb * 2**20
            self.session.clock = self.preferences.clock
            self.session.changed.emit({"settings"})
            if self.preferences.theme != before:
                self.use_theme(self.preferences.theme)

    def toggle_theme(self) -> None:
        """Change between the dark and the light theme."""
        self.preferences.theme = "light" if self.preferences.theme == "dark" else "dark"
        prefs.save(self.preferences)
        self.use_theme(self.preferences.theme)

    def use_theme(self, theme: str) -> None:
        """Show the window in another theme."""
        app = QApplication.instance()
        if isinstance(app, QApplication):
            look.apply(app, theme)
            self.refresh()

    def show_shortcuts(self) -> None:
        """Open the list of shortcuts."""
        ShortcutsDialog(self).exec()

    def show_about(self) -> None:
        """Say what this is."""
        QMessageBox.about(
            self,
            "About Nimble Quake",
            f"Nimble Quake {__version__}\nAnimated displacement maps that shake, ripple and bend pictures.\n"
            "GPL-3.0-or-later. Fonts: Barlow, Bungee, Rubik Mono One, Pacifico (OFL-1.1).",
        )

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event and data and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Make plates of dropped pictures and clips, add dropped sounds; open a dropped shot."""
        data = event.mimeData() if event else None
        for url in data.urls() if data else []:
            path = Path(url.toLocalFile())
            if path.suffix == SUFFIX:
                if self.may_leave():
                    self.open_path(path)
            elif path.suffix == recipes.SUFFIX:
                self.open_recipe(path)
            elif path.suffix.lower() in sound.SUFFIXES:
                add_sound(self.session, str(path))
            elif url.isLocalFile():
                items.plate_from_file(self.session, str(path))
