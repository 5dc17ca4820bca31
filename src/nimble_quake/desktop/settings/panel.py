"""A settings panel: one row for each parameter of an operator, made from its declaration."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QFontMetrics, QMouseEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from nimble_quake.desktop.settings.bound import motion_of
from nimble_quake.desktop.settings.editors import editor_for
from nimble_quake.desktop.settings.picture_editors import OutlineEditor
from nimble_quake.desktop.settings.section_head import SectionHead
from nimble_quake.desktop.settings.text_editors import WordsEditor
from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.desktop.widgets.levels_bar import LevelsBar
from nimble_quake.desktop.widgets.slide_field import MARK_WIDTH, PADDING, with_gap
from nimble_quake.motion.kinds import is_moving
from nimble_quake.operators.quake import FOOT
from nimble_quake.params.kinds import Choice, Exceptions, Number, Outline, Pairs, Param, Place, Stops, Velocity, Words
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import is_shown, section_summary, switch_of
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find

WIDE = (Stops, Place, Outline, Exceptions)
"""Kinds whose editor needs a whole line."""


class NameLabel(QLabel):
    """A value's name; a double-click goes back to the default."""

    def __init__(self, session: Session, path: str, param: Param) -> None:
        super().__init__(param.label)
        self.session, self.path, self.param = session, path, param
        unit = param.unit
        self._help = f"{param.help}{f' ({unit})' if unit else ''}. Double-click: back to its default."
        self._why = ""
        self.setToolTip(self._help)
        self.setMinimumWidth(20)

    def show_fault(self, why: str) -> None:
        """Mark a value that has no number now, and say why; empty: it has one."""
        if why == self._why:  # asked for each frame that plays
            return
        self._why = why
        tone(self, "fault_text" if why else "quiet")
        self.setText(f"! {self.param.label}" if why else self.param.label)
        self.setToolTip(f"{why}. Until then it is at its default." if why else self._help)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        label = f"Back to default: {self.session.label_of(self.path)}"
        self.session.edit(label, set_value(self.session.shot, self.path, None))


class SettingsPanel(QScrollArea):
    """The settings of the node at a path. Two columns where there is room, else one."""

    def __init__(self, session: Session, region: str, *, names: int = 66, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.region, self._names = session, region, names
        self.path = ""
        self.skip: frozenset[str] = frozenset()
        self.wanted: Callable[[Param], bool] = lambda param: True
        """Which parameters it shows at all."""
        self.opened: dict[str, list[str]] = {}
        """The sections that are unfolded, by kind of operator; shared with whoever remembers them."""
        self.heads: dict[str, SectionHead] = {}
        self.editors: dict[str, Any] = {}
        self.stand_ins: dict[str, float] = {}
        """What numbers count as now where a choice decides it (a rest level found automatically), by name."""
        self.levels: LevelsBar | None = None
        self._labels: dict[str, NameLabel] = {}
        self._columns = 0
        self._waiting = False
        self._sought = ""
        self._kind: tuple[str, str] = ("", "")
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName("Settings")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_node(self, path: str) -> None:
        """Show the settings of a node; an empty path shows none."""
        node = find(self.session.shot, path) if path else None
        kind = (path, node.kind if isinstance(node, Node) else "")
        if kind != self._kind:
            self.path, self._kind = path, kind
            if not self.isVisible():  # built when it is seen, at the width it then has
                self._waiting = True
                return
            self._build()
        self.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        if self._waiting:
            self._waiting = False
            self._build()
            self.refresh()

    def refresh(self) -> None:
        """Show the document's values."""
        if not isinstance(find(self.session.shot, self.path) if self.path else None, Node):
            return
        self._show_heads()
        for name, editor in self.editors.items():
            shown = self._is_shown(name)
            editor.setVisible(shown)
            if name in self._labels:
                self._labels[name].setVisible(shown)
            if shown:
                editor.setEnabled(not self._follows(name))
                editor.refresh()
                if name in self.stand_ins:
                    editor.show_instead(self.stand_ins[name])
        self._mark_faults()
        if self.levels is not None:
            black, middle, white = (self.session.shown(f"{self.path}/{name}") for name in ("black", "middle", "white"))
            self.levels.show_levels(black, middle, white)

    def show_histogram(self, bars: list[float], rest: float, mean: float, clipped: float) -> None:
        """Show the live histogram wherever values are set on it."""
        if self.levels is not None:
            self.levels.show_histogram(bars, rest, mean, clipped)
        for editor in self.editors.values():
            if isinstance(editor, OutlineEditor):
                editor.pad.show_histogram(bars, rest, mean, clipped)

    def follow(self) -> None:
        """Show what moves as it is at the playhead; nothing else can have changed."""
        for name, editor in self.editors.items():
            moves = motion_of(self.session, f"{self.path}/{name}") != "still" or self._follows(name)
            if moves and editor.isVisibleTo(self):
                editor.refresh()
        self._mark_faults()

    def _mark_faults(self) -> None:
        values = self.session.values_of(self.path)
        for name, label in self._labels.items():
            label.show_fault(self.session.fault(f"{self.path}/{name}") if is_moving(values.get(name)) else "")

    def _follows(self, name: str) -> bool:
        """Whether a value goes along with another one and cannot be changed by itself now."""
        param = self.session.param(f"{self.path}/{name}")
        return bool(param is not None and param.follows and self.session.shown(f"{self.path}/{param.follows[0]}"))

    def stand_in(self, name: str, value: float | None) -> None:
        """Show in a number's field what it counts as now; None shows its own value again."""
        if self.stand_ins.get(name) == value:
            return
        if value is None:
            del self.stand_ins[name]
        else:
            self.stand_ins[name] = value
        if name in self.editors and self._is_shown(name):
            self.editors[name].refresh()
            if value is not None:
                self.editors[name].show_instead(value)

    def _is_shown(self, name: str) -> bool:
        param = self.session.param(f"{self.path}/{name}")
        if param is None or (param.section in self.heads and param.section not in self._open_sections()):
            return False
        return is_shown(self.session, self.path, param)

    # Sections

    def _open_sections(self) -> list[str]:
        return self.opened.setdefault(self._kind[1], [])

    def _section(self, section: str) -> list[Param]:
        operator = self.session.operator(self.path)
        return [p for p in operator.declared.values() if p.section == section] if operator else []

    def _show_heads(self) -> None:
        for section, head in self.heads.items():
            params = self._section(section)
            switch = switch_of(params)
            on = switch is None or bool(self.session.shown(f"{self.path}/{switch.name}"))
            words = section_summary(self.session, self.path, params)
            head.show_state(section in self._open_sections(), on, words)

    def _fold(self, section: str, open: bool) -> None:
        sections = self._open_sections()
        if open:
            sections.remove(section)
        elif section not in sections:
            sections.append(section)
        self.refresh()

    def _switch(self, section: str) -> None:
        """Switch a section; one that is switched on unfolds."""
        switch = switch_of(self._section(section))
        if switch is None:
            return
        on = not self.session.shown(f"{self.path}/{switch.name}")
        if on and section not in self._open_sections():
            self._open_sections().append(section)
        self.session.set(f"{self.path}/{switch.name}", on, f"{section} {'on' if on else 'off'}")

    def show_section(self, section: str) -> None:
        """Unfold a section and bring it into view."""
        if section in self.heads:
            if section not in self._open_sections():
                self._fold(section, open=False)
            self._sought = section
            QTimer.singleShot(0, self._show_sought)  # once it is laid out

    def _show_sought(self) -> None:
        head = self.heads.get(self._sought)
        if head is not None:
            self.ensureWidgetVisible(head, 0, 90)

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        if self._columns and self._wanted_columns() != self._columns:
            self._build()
            self.refresh()

    def _wanted_columns(self) -> int:
        return 2 if self.width() >= 270 else 1

    def _build(self) -> None:
        self._columns = self._wanted_columns()
        self.editors, self._labels, self.levels, self.heads = {}, {}, None, {}
        body = QWidget()
        body.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        outer = QVBoxLayout(body)
        outer.setContentsMargins(0, 0, 6, 4)
        outer.setSpacing(0)
        grid = QGridLayout()
        grid.setHorizontalSpacing(5)
        grid.setVerticalSpacing(4)
        operator = self.session.operator(self.path) if self.path else None
        declared = operator.declared.values() if operator else ()
        params = [p for p in declared if p.name not in self.skip and self.wanted(p)]
        if operator is not None and operator.histogram:
            self._add_levels(grid)
        self._place(grid, [p for p in params if not p.section])
        for section in dict.fromkeys(p.section for p in params if p.section):
            self._place_section(grid, section, [p for p in params if p.section == section])
        for column in range(self._columns):
            grid.setColumnMinimumWidth(column * 3, self._names)
            grid.setColumnStretch(column * 3 + 1, 1)
        if self._columns == 2:
            grid.setColumnMinimumWidth(2, 3)
        outer.addLayout(grid)
        if self.path and operator is None:
            outer.addWidget(_note("This kind is not known here. Its settings are kept as they are."))
        outer.addStretch(1)
        old = self.takeWidget()
        if old is not None:
            old.deleteLater()
        self.setWidget(body)

    def _place(self, grid: QGridLayout, params: list[Param]) -> None:
        """Fill rows from the left; what needs a whole line starts a new one."""
        row, column = grid.rowCount(), 0
        for param in params:
            path = f"{self.path}/{param.name}"
            editor = editor_for(self.session, path, param, self.region)
            editor.setSizePolicy(QSizePolicy.Policy.Ignored, editor.sizePolicy().verticalPolicy())  # equal columns
            label = NameLabel(self.session, path, param)
            label.setFont(font())
            tone(label, "quiet")
            label.setBuddy(editor)
            if isinstance(param, Velocity):
                editor.words = label
            else:
                label.setFixedHeight(20)
            self.editors[param.name], self._labels[param.name] = editor, label
            whole = self._columns == 1 or isinstance(param, WIDE) or _is_long(param)
            if whole and column:
                row, column = row + 1, 0
            if isinstance(param, Place | Exceptions) and self._columns == 1:  # these want the whole line
                grid.addWidget(label, row, 0, 1, 2)
                row += 1
                grid.addWidget(editor, row, 0, 1, 2)
                row += 1
                continue
            grid.addWidget(label, row, column * 3)
            span = 1 if self._columns == 1 or not whole else 4
            grid.addWidget(editor, row, column * 3 + 1, 1, span)
            if whole or column == self._columns - 1:
                row, column = row + 1, 0
            else:
                column += 1

    def _place_section(self, grid: QGridLayout, section: str, params: list[Param]) -> None:
        """A head over its fields; a section that is always in view has none."""
        switch = switch_of(params)
        if section != FOOT:
            head = SectionHead(section, self.region, switches=switch is not None)
            head.folded.connect(lambda open: self._fold(section, open))
            head.switched.connect(lambda: self._switch(section))
            grid.addWidget(head, grid.rowCount(), 0, 1, self._columns * 3 - 1)
            self.heads[section] = head
        self._place(grid, [param for param in params if param is not switch])

    def _add_levels(self, grid: QGridLayout) -> None:
        bar = LevelsBar(self.region)
        bar.began.connect(lambda: self.session.begin(f"Change {self.session.name_of(self.path)}"))
        bar.changing.connect(lambda name, value: self.session.set(f"{self.path}/{name}", value))
        bar.ended.connect(self.session.commit)
        grid.addWidget(bar, 0, 0, 1, self._columns * 3 - 1)
        self.levels = bar

    def focus_value(self, name: str) -> None:
        """Put the keyboard focus on a value's editor."""
        param = self.session.param(f"{self.path}/{name}")
        if param is not None and param.section in self.heads:
            self.show_section(param.section)
        if name in self.editors:
            self.editors[name].setFocus()
            self.ensureWidgetVisible(self.editors[name])
            if isinstance(self.editors[name], WordsEditor):
                self.editors[name].select_all()

    def labels(self) -> list[tuple[str, str]]:
        """Return (name, label) of every value that is shown now."""
        return [(name, label.param.label) for name, label in self._labels.items() if label.isVisibleTo(self)]


HALF = 64
"""The least pixels an editor has where two stand in a line."""


def _is_long(param: Param) -> bool:
    """Whether an editor needs more than half a line: by its sort, or by its longest words."""
    if isinstance(param, Words) or (isinstance(param, Pairs) and not isinstance(param, Velocity)):
        return True
    if isinstance(param, Number):
        widest = f"{param.usual[1] * param.factor:.{param.decimals}f}{with_gap(param.unit)}"
        room = HALF - MARK_WIDTH - PADDING + 2
        return param.ring or QFontMetrics(font()).horizontalAdvance(widest) > room
    if isinstance(param, Choice):
        longest = max((QFontMetrics(font()).horizontalAdvance(option.label) for option in param.options), default=0)
        return param.row or longest > HALF - 21
    return False


def _note(text: str) -> QLabel:
    label = QLabel(text)
    label.setWordWrap(True)
    return label
