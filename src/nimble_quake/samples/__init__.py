"""The sample shots of *Lantern Row*, a made-up night market, and the footage drawn for them."""

from __future__ import annotations

from pathlib import Path

FOLDER = Path(__file__).parent
FIRST = "lantern-row"
REELS = FOLDER / "reels"


def samples() -> list[str]:
    """Return the names of the sample shots, the first one to show first."""
    found = sorted(path.stem for path in FOLDER.glob("*.nquake"))
    return sorted(found, key=lambda name: name != FIRST)


def sample_path(name: str = "") -> Path | None:
    """Return the file of a sample shot by its name or the start of it; the first one where no name is given."""
    wanted = name.lower().removesuffix(".nquake") or FIRST
    files = [*(FOLDER / f"{found}.nquake" for found in samples()), *(REELS / f"{found}.nquake" for found in reels())]
    return next((file for file in files if file.stem.startswith(wanted)), None)


def reels() -> list[str]:
    """Return the names of the sample reels: whole films of several clips, which are no starters."""
    return sorted(path.stem for path in REELS.glob("*.nquake"))


def crossings() -> list[str]:
    """Return the names of the crossings that come with the program."""
    return sorted(path.stem for path in (FOLDER / "crossings").glob("*.nquake"))


def crossing_path(name: str) -> Path:
    """Return the file of a crossing."""
    return FOLDER / "crossings" / f"{name}.nquake"


def moving_picture(name: str) -> Path:
    """Return the file of a sample's moving picture (see tools/draw_moving_pictures.py)."""
    return FOLDER / "moving" / f"{name}.jpg"
