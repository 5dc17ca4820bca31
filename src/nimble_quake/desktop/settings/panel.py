"""A settings panel: one row for each parameter of an operator, made from its declaration."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QFrame, QGridLayout, QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from nimble_quake.desktop.settings.bound import motion_of
from nimble_quake.desktop.settings.editors import WIDE, editor_for, is_long
from nimble_quake.desktop.settings.joined_row import JoinedRow, LinkedName
from nimble_quake.desktop.settings.name_label import NameLabel
from nimble_quake.desktop.settings.picture_editors import OutlineEditor
from nimble_quake.desktop.settings.section_head import SectionChip, SectionChips, SectionHead
from nimble_quake.desktop.settings.text_editors import WordsEditor
from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.desktop.widgets.levels_bar import LevelsBar
from nimble_quake.motion.kinds import is_moving
from nimble_quake.operators.quake import CHIPS, FOOT
from nimble_quake.params.kinds import Exceptions, Param, Place, Velocity
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import is_shown, section_acts, section_summary, switch_of
from nimble_quake.session.verbs import front
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find


class SettingsPanel(QScrollArea):
    """The settings of the node at a path. Two columns where there is room, else one."""

    def __init__(self, session: Session, region: str, *, names: int = 66, chips: bool = False) -> None:
        """chips: the heads of its sections are chips, all in view, of which one is open."""
        super().__init__()
        self.session, self.region, self._names, self._as_chips = session, region, names, chips
        self.path = ""
        self.skip: frozenset[str] = frozenset()
        self.wanted: Callable[[Param], bool] = lambda param: True
        """Which parameters it shows at all."""
        self.opened: dict[str, list[str]] = {}
        """The sections that are unfolded, by kind of operator; shared with whoever remembers them."""
        self.heads: dict[str, SectionHead | SectionChip] = {}
        self.links: list[LinkedName] = []
        self.editors: dict[str, Any] = {}
        self.stand_ins: dict[str, float] = {}
        """What numbers count as now where a choice decides it (a rest level found automatically), by name."""
        self.levels: LevelsBar | None = None
        self.name_labels: dict[str, NameLabel] = {}
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
            if name in self.name_labels:
                self.name_labels[name].setVisible(shown)
                self.name_labels[name].show_name(self._name_of(name))
                dials = front.dials_of(self.session, f"{self.path}/{name}")
                self.name_labels[name].show_dials(", ".join(dial.name or dial.id for dial in dials))
            if shown:
                editor.setEnabled(not self._follows(name))
                editor.refresh()
                editor.show_mark()
                if name in self.stand_ins:
                    editor.show_instead(self.stand_ins[name])
        for link in self.links:
            link.refresh()
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
                editor.show_mark()
        self._mark_faults()

    def _mark_faults(self) -> None:
        values = self.session.values_of(self.path)
        for name, label in self.name_labels.items():
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
            state = (section in self._open_sections(), on, words)
            if isinstance(head, SectionChip):
                head.show_state(*state, section_acts(self.session, self.path, params))
            else:
                head.show_state(*state)

    def _fold(self, section: str, open: bool) -> None:
        sections = self._open_sections()
        if open:
            sections.remove(section)
        elif section not in sections:
            if self._as_chips:
                sections.clear()
            sections.append(section)
        self.refresh()

    def _switch(self, section: str) -> None:
        """Switch a section; one that is switched on unfolds."""
        switch = switch_of(self._section(section))
        if switch is None:
            return
        on = not self.session.shown(f"{self.path}/{switch.name}")
        if on and section not in self._open_sections():
            self._fold(section, open=False)
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
        self.editors, self.name_labels, self.levels, self.heads, self.links = {}, {}, None, {}, []
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
        by_section = {
            name: [p for p in params if p.section == name] for name in dict.fromkeys(p.section for p in params)
        }
        by_section.pop("", None)
        if self._as_chips and by_section:
            self._place_chips(grid, by_section)
        for section, fields in by_section.items():
            self._place_section(grid, section, fields)
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
        joined = self._joined(params)
        for param in params:
            if param.name in joined:
                self._place_joined(grid, row, param, joined[param.name])
                row += 1
                continue
            if any(param.name in (other.name, *self._with(first)) for first, other in joined.items()):
                continue
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
            self.editors[param.name], self.name_labels[param.name] = editor, label
            whole = self._columns == 1 or isinstance(param, WIDE) or is_long(param)
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
        switch = None if self._as_chips else switch_of(params)
        if section != FOOT and not self._as_chips:
            head = SectionHead(section, self.region, switches=switch is not None)
            head.folded.connect(lambda open: self._fold(section, open))
            head.switched.connect(lambda: self._switch(section))
            grid.addWidget(head, grid.rowCount(), 0, 1, self._columns * 3 - 1)
            self.heads[section] = head
        self._place(grid, [param for param in params if param is not switch])

    def _place_chips(self, grid: QGridLayout, by_section: dict[str, list[Param]]) -> None:
        chips = []
        for section, params in by_section.items():
            switches = switch_of(params) is not None
            chip = SectionChip(section, CHIPS.get(section, section), self.region, switches=switches)
            chip.folded.connect(partial(self._fold, section))
            chip.switched.connect(partial(self._switch, section))
            self.heads[section] = chip
            chips.append(chip)
        grid.addWidget(SectionChips(chips), grid.rowCount(), 0, 1, self._columns * 3 - 1)

    def _joined(self, params: list[Param]) -> dict[str, Param]:
        """The parameters that share a row, each with the one it is joined by."""
        if self._columns > 1:
            return {}
        named = {param.name: param for param in params}
        return {p.name: named[p.joined.name] for p in params if p.joined is not None and p.joined.name in named}

    def _with(self, first: str) -> tuple[str, ...]:
        """The link of a joined row."""
        param = self.session.param(f"{self.path}/{first}")
        return (param.joined.link,) if param is not None and param.joined is not None else ()

    def _place_joined(self, grid: QGridLayout, row: int, first: Param, second: Param) -> None:
        """What chooses, and how much, under one name; a link to the row above stands by the name."""
        for param in (first, second):
            path = f"{self.path}/{param.name}"
            self.editors[param.name] = editor_for(self.session, path, param, self.region)
        label = NameLabel(self.session, f"{self.path}/{second.name}", second)
        label.setFont(font())
        tone(label, "quiet")
        label.setFixedHeight(20)
        label.setBuddy(self.editors[second.name])
        self.name_labels[second.name] = label
        joined = first.joined
        named: QWidget = label
        if joined is not None and joined.link:
            path = f"{self.path}/{joined.link}"
            toggle = self.session.param(path)
            named = LinkedName(self.session, path, label, toggle.help if toggle is not None else "")
            self.links.append(named)
            label.watch(named)
        grid.addWidget(named, row, 0)
        grid.addWidget(JoinedRow(self.editors[first.name], self.editors[second.name]), row, 1)

    def _name_of(self, name: str) -> str:
        """What the row of a value is called now."""
        param = self.session.param(f"{self.path}/{name}")
        label = param.label if param is not None else name
        for other in self.editors:
            first = self.session.param(f"{self.path}/{other}")
            joined = first.joined if first is not None else None
            if joined is not None and joined.name == name and self._columns == 1:
                holds = joined.when is None or joined.when.holds(self.session.shown(f"{self.path}/{joined.when.name}"))
                return joined.label if holds else joined.otherwise
        return label

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

    def params(self) -> list[Param]:
        """Return every value that can be set now, those of folded sections too."""
        found = [label.param for label in self.name_labels.values()] if self.isVisible() else []
        return [param for param in found if is_shown(self.session, self.path, param)]


def _note(text: str) -> QLabel:
    label = QLabel(text)
    label.setWordWrap(True)
    return label
