"""`nimble-quake demo [NAME]`: open a sample shot."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import Annotated

from nimble_quake.cli.loading import loaded
from nimble_quake.cli.open_window import open_window
from nimble_quake.cli.options import engine_of, render_shown
from nimble_quake.cli.words import Argument, Option
from nimble_quake.errors import BadInput, one_of
from nimble_quake.export.order import Order
from nimble_quake.samples import reels, sample_path, samples
from nimble_quake.shotfile.files import read_shot


def run(
    name: Annotated[str, Argument("Which sample; leave it out for the first")] = "",
    out: Annotated[Path, Option(help="Where a machine without a display puts its render")] = Path("out"),
    list: Annotated[bool, Option("--list", help="Name the samples, and what each is")] = False,
) -> int:
    """Open a sample shot; without a display, render it and a picture of the window. Example: nimble-quake demo haze"""
    if list:
        for found in (*samples(), *reels()):
            file = sample_path(found)
            print(f"{found:22} {read_shot(file).name if file else ''}")
        return 0
    path = sample_path(name)
    if path is None:
        raise BadInput(f'there is no sample "{name}"', cure=one_of([*samples(), *reels()], name))
    if os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"):
        return open_window(path)
    return _without_display(path, out)


def _without_display(path: Path, out: Path) -> int:
    out.mkdir(parents=True, exist_ok=True)
    print(f"There is no display, so the demo is rendered to {out}/ instead.", file=sys.stderr)
    shot = read_shot(path)
    result = render_shown(Order(shot, out / f"{path.stem}.mp4", 0, shot.length - 1), engine_of(path))
    window = out / f"{path.stem}-window.png"
    loaded("nimble_quake.desktop.app").save_picture(path, window)
    for file in (*result.files, window):
        print(file)
    return 0
