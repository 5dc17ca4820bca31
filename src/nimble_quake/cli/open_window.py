"""`nimble-quake [SHOT]`: open the window."""

from __future__ import annotations

import importlib.util
import os
from pathlib import Path
from typing import Annotated

from nimble_quake.cli.loading import loaded
from nimble_quake.cli.words import Argument
from nimble_quake.errors import BadInput, FailedWork


def run(shot: Annotated[Path | None, Argument("The shot to open (.nquake)")] = None) -> int:
    """Open the window, with a shot or a new one. Example: nimble-quake opener.nquake"""
    return open_window(shot)


def open_window(shot: Path | None) -> int:
    """Start the desktop program. Imported by name, so that the command line works without Qt."""
    if importlib.util.find_spec("PyQt6") is None:
        raise BadInput("the window needs an extra", cure='pip install "nimble-quake[desktop]"')
    platform = os.environ.get("QT_QPA_PLATFORM", "")
    if platform in ("", "xcb", "wayland") and not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY")):
        raise FailedWork("there is no display", cure="open it on a desktop, or use nimble-quake render SHOT -o OUT")
    desktop = loaded("nimble_quake.desktop.app")
    return int(desktop.start(shot))
