"""The recipe: the list of a map's steps in the order they act, and what is asked of its rows."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QSize, pyqtSignal
from PyQt6.QtWidgets import QMenu

from nimble_quake.desktop.bays.row_list import RowList, add_clipboard, add_switches
from nimble_quake.desktop.bays.row_painting import Row
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.widgets.parts import add_question
from nimble_quake.motion.kinds import is_moving
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import step_summary
from nimble_quake.session.verbs import items
from nimble_quake.shot.model import Map, Node
from nimble_quake.shot.paths import find, id_of, map_path, nested_path, owner_id
from nimble_quake.shot.spans import ACTS


class Recipe(RowList):
    """Shows the steps of the selected map."""

    vary_asked = pyqtSignal()
    solo_asked = pyqtSignal(str)
    compare_asked = pyqtSignal(str)

    def __init__(self, session: Session, frames: Frames) -> None:
        super().__init__("Recipe", 33, QSize(50, 28))
        self.session, self.frames = session, frames
        self.empty_text = "No steps yet. Add one: a source makes values, a shaper changes them."
        self.chosen.connect(lambda path: session.select(step=path))
        self.switched.connect(lambda path: items.switch(session, path))
        self.switched_here.connect(lambda path: items.switch_here(session, path))
        self.removed.connect(lambda path: items.remove_item(session, path))
        self.renamed.connect(lambda path, name: items.rename(session, path, name))
        self.moved.connect(lambda path, to: items.move_item(session, path, to))
        self.menu_asked.connect(self._row_menu)

    def refresh(self) -> None:
        """Show the steps and which is selected."""
        chosen = self.session.selection
        map = find(self.session.shot, chosen.map) if chosen.map else None
        self.show_rows([*self._rows(map)] if isinstance(map, Map) else [], (chosen.step,))

    def _rows(self, map: Map) -> list[Row]:
        return [self._row(map, number, step) for number, step in enumerate(map.recipe, 1)]

    def _row(self, map: Map, number: int, step: Node) -> Row:
        path, solo = nested_path(map_path(map.id), step.id), self.frames.solo
        return Row(
            path,
            self.session.name_of(path),
            step_summary(self.session, path),
            "alone" if path == solo else self.frames.costs.note(path),
            on=items.acts_now(self.session, path) and (not solo or owner_id(solo) != map.id or id_of(solo) == step.id),
            region="brass",
            number=str(number),
            pinned=is_moving(self.session.raw(f"{path}/{ACTS}")),
            depth=1 if step.inside else 0,
            pictured=True,
        )

    def _row_menu(self, path: str, at: QPoint) -> None:
        menu = QMenu(self)
        add_clipboard(menu, self.session, path)
        menu.addAction("Duplicate", lambda: items.duplicate_item(self.session, path))
        menu.addAction("Variations …", self.vary_asked.emit)
        alone = "Show all again" if self.frames.solo == path else "Show alone"
        menu.addAction(alone, lambda: self.solo_asked.emit(path))
        menu.addAction("Compare with …", lambda: self.compare_asked.emit(path))
        node = find(self.session.shot, path)
        if isinstance(node, Node) and node.inside:
            menu.addAction("Take out of its bracket", lambda: items.take_out(self.session, path))
        elif isinstance(node, Node) and not items.encloses(self.session, path):
            menu.addAction("Put into a bracket", lambda: items.put_in_bracket(self.session, path))
        menu.addSeparator()
        menu.addAction("Rename", lambda: self.rename(path))
        add_switches(menu, self.session, path, items.switch)
        menu.addAction("Remove", lambda: items.remove_item(self.session, path))
        add_question(menu, self.session.help_asked.emit, path)
        menu.exec(at)
