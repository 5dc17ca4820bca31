"""The dialogs that the table of actions opens; those that stay open leave the bench usable beside them."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QApplication, QMessageBox, QWidget

from nimble_quake import __version__
from nimble_quake.desktop.dialogs.batch_dialog import BatchDialog
from nimble_quake.desktop.dialogs.queue_dialog import QueueDialog
from nimble_quake.desktop.dialogs.render_dialog import RenderDialog
from nimble_quake.desktop.dialogs.render_fields import Kept
from nimble_quake.desktop.dialogs.seamless_dialog import SeamlessDialog
from nimble_quake.desktop.dialogs.small import PreferencesDialog, ShortcutsDialog
from nimble_quake.desktop.dialogs.tracking_dialog import TrackingDialog
from nimble_quake.desktop.front.dials_dialog import DialsDialog
from nimble_quake.desktop.help.help_window import HelpWindow
from nimble_quake.desktop.help.pages import Page
from nimble_quake.desktop.theme import look
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.viewers.tracking import Tracking
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.state import Session
from nimble_quake.session.storage import preferences as prefs


class Dialogs:
    """Opens them over a window. `refreshed` is called when all is to be shown anew."""

    def __init__(
        self,
        window: QWidget,
        session: Session,
        preferences: prefs.Preferences,
        frames: Frames,
        queue: Queue,
        refreshed: Callable[[], None],
    ) -> None:
        self.window, self.session, self.preferences, self.refreshed = window, session, preferences, refreshed
        self.frames, self.queue = frames, queue
        self._help: HelpWindow | None = None
        self._rendered: dict[str, Kept] = {}
        """What was asked for last, by shot."""

    def may_stop_rendering(self) -> bool:
        """Ask whether to stop a render that is under way, and stop it. Returns whether to go on."""
        running = [dialog for dialog in self.window.findChildren(RenderDialog) if dialog.running()]
        return all(dialog.ask_to_stop() for dialog in running)

    def show_seamless(self, show: Callable[[str], None]) -> SeamlessDialog:
        """Say what of the shot does not close over its length; `show` goes to a value that is clicked."""
        dialog = SeamlessDialog(self.session, show, self.window)
        dialog.show()
        dialog.look()
        return dialog

    def show_render(self) -> RenderDialog:
        """Open the render dialog; the bench stays usable beside it."""
        self.frames.stop()
        dialog = RenderDialog(self.session, self.queue, self.frames.scheduler.cost * 2, self.window)
        of = str(self.session.path or self.session.shot.name)
        if self._rendered.get(of):
            dialog.fields.restore(self._rendered[of])
        dialog.finished.connect(lambda _: self._rendered.update({of: dialog.fields.kept()}))
        dialog.show()
        return dialog

    def show_queue(self) -> QueueDialog:
        """Open the render queue; the bench stays usable beside it."""
        dialog = next((found for found in self.window.findChildren(QueueDialog) if found.isVisible()), None)
        if dialog is None:
            dialog = QueueDialog(self.queue, self.window)
        dialog.show()
        dialog.raise_()
        dialog.activateWindow()
        return dialog

    def show_preferences(self) -> None:
        """Open the preferences."""
        before = self.preferences.theme
        if PreferencesDialog(self.preferences, self.window).exec():
            prefs.save(self.preferences)
            self.session.engine.cache.budget = self.preferences.cache_mb * 2**20
            self.frames.scheduler.budget = self.preferences.frames_mb * 2**20
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
            self.refreshed()

    def show_batch(self) -> None:
        """Make a clip for each row of a table from the open shot."""
        if not self.session.shot.front:
            self.session.message.emit("Bring something to the front first: the table's columns are slots and dials")
            return
        BatchDialog(self.session, self.frames, self.queue, self.window).exec()

    def show_dials(self, chosen: str = "") -> None:
        """Look after dials and slots: their names, ranges, words, and what is behind them."""
        DialsDialog(self.session, chosen, self.window).exec()

    def show_shortcuts(self) -> None:
        """Open the list of shortcuts."""
        ShortcutsDialog(self.window).exec()

    def show_help(self, page: Page | None = None) -> HelpWindow:
        """Open the help at a page, beside the bench."""
        if self._help is None:
            self._help = HelpWindow(self.window)
        self._help.open_at(page)
        return self._help

    def show_about(self) -> None:
        """Say what this is."""
        QMessageBox.about(
            self.window,
            "About Nimble Quake",
            f"Nimble Quake {__version__}\nAnimated displacement maps that shake, ripple and bend pictures.\n"
            "GPL-3.0-or-later. Fonts: Barlow, Bungee, Rubik Mono One, Pacifico (OFL-1.1).",
        )

    def track(self, tracking: Tracking) -> bool:
        """Ask how the selected plate's clip is tracked, and do it. Returns whether it began."""
        clip = tracking.clip
        if not clip:
            self.session.message.emit("Choose a plate with a clip, then track it")
            return False
        tracks = tracking.tracks()
        dialog = TrackingDialog(
            self.session.name_of(clip), 0 if tracks is None else tracks.places.shape[1], self.window
        )
        if not dialog.exec():
            return False
        tracking.begin(dialog.settings())
        return True
