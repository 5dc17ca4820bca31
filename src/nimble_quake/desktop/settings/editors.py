"""An editor for each kind of parameter, bound to a value of the open shot.

Every editor has `refresh()`, which shows the document's value without counting as a change.
"""

from __future__ import annotations

from typing import Any

from PyQt6.QtGui import QFontMetrics

from nimble_quake.desktop.settings.choice_editors import (
    ChoiceEditor,
    FaceEditor,
    FileEditor,
    ItemEditor,
    LayerEditor,
    ToggleEditor,
)
from nimble_quake.desktop.settings.drives_editor import DrivesEditor
from nimble_quake.desktop.settings.exceptions_editor import ExceptionsEditor
from nimble_quake.desktop.settings.number_editors import DriftEditor, NumberEditor, PairEditor, SeedEditor
from nimble_quake.desktop.settings.picture_editors import ColourEditor, NetEditor, OutlineEditor, StopsEditor
from nimble_quake.desktop.settings.text_editors import WordsEditor
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.widgets.slide_field import MARK_WIDTH, PADDING, with_gap
from nimble_quake.params.kinds import (
    BandRef,
    Choice,
    Colour,
    Drives,
    Exceptions,
    Face,
    LayerName,
    MapRef,
    MediaFile,
    Net,
    Number,
    Outline,
    Pairs,
    Param,
    Place,
    PlateRef,
    Seed,
    SoundRef,
    Stops,
    Toggle,
    Velocity,
    Words,
)
from nimble_quake.params.words import Ref
from nimble_quake.session.state import Session

EDITORS: tuple[tuple[type[Param], type[Any]], ...] = (
    (Number, NumberEditor),
    (Velocity, DriftEditor),
    (Pairs, PairEditor),
    (Colour, ColourEditor),
    (Choice, ChoiceEditor),
    (Toggle, ToggleEditor),
    (Seed, SeedEditor),
    (Stops, StopsEditor),
    (Outline, OutlineEditor),
    (Net, NetEditor),
    (Face, FaceEditor),
    (LayerName, LayerEditor),
    (MediaFile, FileEditor),
    (MapRef, ItemEditor),
    (PlateRef, ItemEditor),
    (SoundRef, ItemEditor),
    (BandRef, ItemEditor),
    (Exceptions, ExceptionsEditor),
    (Drives, DrivesEditor),
    (Words, WordsEditor),
)
"""The editor of each kind; the first that fits counts."""


def editor_for(session: Session, path: str, param: Param, region: str) -> Any:
    """Return an editor for the value at a path."""
    made = next(editor for kind, editor in EDITORS if isinstance(param, kind))
    editor = made(session, path, param, region)
    if (
        isinstance(editor, MARKED) and param.takes_keys and not (isinstance(param, Choice) and param.row)
    ):  # a row of choices has its own
        editor.add_mark(always=not isinstance(param, Choice | Ref))
    return editor


MARKED = (ChoiceEditor, ItemEditor, LayerEditor, ToggleEditor, WordsEditor, StopsEditor, OutlineEditor)
"""Editors that have no mark of their own."""


WIDE = (Stops, Place, Outline, Exceptions, Drives)
"""Kinds whose editor needs a whole line."""

HALF = 64
"""The least pixels an editor has where two stand in a line."""


def is_long(param: Param) -> bool:
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
