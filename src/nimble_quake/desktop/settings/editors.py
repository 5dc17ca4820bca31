"""An editor for each kind of parameter, bound to a value of the open shot.

Every editor has `refresh()`, which shows the document's value without counting as a change.
"""

from __future__ import annotations

from typing import Any

from nimble_quake.desktop.settings.choice_editors import ChoiceEditor, FaceEditor, FileEditor, ItemEditor, ToggleEditor
from nimble_quake.desktop.settings.exceptions_editor import ExceptionsEditor
from nimble_quake.desktop.settings.number_editors import DriftEditor, NumberEditor, PairEditor, SeedEditor
from nimble_quake.desktop.settings.picture_editors import ColourEditor, NetEditor, OutlineEditor, StopsEditor
from nimble_quake.desktop.settings.text_editors import WordsEditor
from nimble_quake.params.kinds import (
    BandRef,
    Choice,
    Colour,
    Exceptions,
    Face,
    MapRef,
    MediaFile,
    Net,
    Number,
    Outline,
    Pairs,
    Param,
    PlateRef,
    Seed,
    SoundRef,
    Stops,
    Toggle,
    Velocity,
    Words,
)
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
    (MediaFile, FileEditor),
    (MapRef, ItemEditor),
    (PlateRef, ItemEditor),
    (SoundRef, ItemEditor),
    (BandRef, ItemEditor),
    (Exceptions, ExceptionsEditor),
    (Words, WordsEditor),
)
"""The editor of each kind; the first that fits counts."""


def editor_for(session: Session, path: str, param: Param, region: str) -> Any:
    """Return an editor for the value at a path."""
    made = next(editor for kind, editor in EDITORS if isinstance(param, kind))
    return made(session, path, param, region)
