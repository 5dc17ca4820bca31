"""Maps as files and on the clipboard: recipes of one's own, and maps carried from shot to shot."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QApplication, QFileDialog, QWidget

from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.state import Session
from nimble_quake.session.storage import library
from nimble_quake.shot.recipe import Recipe
from nimble_quake.shotfile import recipes


class MapFiles:
    """What concerns recipes and maps outside the shot."""

    def __init__(self, window: QWidget, session: Session, status: StatusLine) -> None:
        self.window, self.session, self.status = window, session, status

    def keep(self, path: str = "") -> None:
        """Keep a map in one's own library of recipes."""
        try:
            library.keep(self.session, path or self.session.selection.map)
        except NimbleQuakeError as wrong:
            self.status.report_problem(wrong.line())

    def save(self, path: str = "") -> None:
        """Save a map as a recipe file somewhere."""
        path = path or self.session.selection.map
        recipe = library.recipe_of(self.session, path)
        if recipe is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self.window,
            "Save as recipe",
            f"{self.session.name_of(path)}{recipes.SUFFIX}",
            f"Recipes (*{recipes.SUFFIX})",
        )
        if name:
            self._write(recipe, Path(name))

    def _write(self, recipe: Recipe, path: Path) -> None:
        target = path if path.suffix == recipes.SUFFIX else path.with_name(path.name + recipes.SUFFIX)
        try:
            recipes.write_recipe(recipe, target)
            self.status.say(f"Saved to {target}")
        except NimbleQuakeError as wrong:
            self.status.report_problem(wrong.line())

    def open_recipe(self, path: Path) -> None:
        """Take a recipe file into one's own library and use it in the shot."""
        try:
            library.use(self.session, library.take_in(path))
        except NimbleQuakeError as wrong:
            self.status.report_problem(wrong.line())

    def ask_recipe(self) -> None:
        """Ask for a recipe file to use."""
        name, _ = QFileDialog.getOpenFileName(self.window, "Open a recipe", "", f"Recipes (*{recipes.SUFFIX})")
        if name:
            self.open_recipe(Path(name))

    def copy(self, path: str = "") -> None:
        """Put a map on the clipboard, so that another shot, in this window or another, can take it."""
        text = library.map_text(self.session, path or self.session.selection.map)
        board = QApplication.clipboard()
        if text and board is not None:
            board.setText(text)
            self.status.say("The map is on the clipboard; paste it into any shot")

    def paste(self) -> None:
        """Take a map from the clipboard."""
        board = QApplication.clipboard()
        try:
            library.use(self.session, library.map_from_text(board.text() if board is not None else ""))
        except NimbleQuakeError as wrong:
            self.status.say(wrong.line(), "fault_text")
