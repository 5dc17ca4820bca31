"""Draw the rooms of the house from the code: `make docs` writes docs/rooms.svg.

Packages stand as import-linter has them, the lowest at the foot: each may import those below it. In each, its rooms
with how many files they have.
"""

from __future__ import annotations

import sys
import tomllib
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "nimble_quake"
WIDE, ROW, LEFT, LINE = 1000, 34, 16, 28
INK, QUIET, WELL, ROOM = "#2b2a33", "#6b6876", "#f4f1ea", "#e4dfd2"


def rooms(package: str) -> list[tuple[str, int]]:
    """Return a package's rooms with their counts of files; its own files first."""
    folder = SOURCE / package
    if not folder.is_dir():
        return []
    found = [("", len([file for file in folder.glob("*.py") if file.stem != "__init__"]))]
    for inner in sorted(path for path in folder.iterdir() if (path / "__init__.py").exists()):
        found.append((inner.name, len([file for file in inner.glob("*.py") if file.stem != "__init__"])))
    return [(name, count) for name, count in found if count]


def drawn() -> str:
    """Return the picture as SVG."""
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
    layers = next(contract["layers"] for contract in contracts if contract["type"] == "layers")
    parts: list[str] = []
    y = 12.0
    for layer in layers:
        packages = [name.strip() for name in layer.split("|")]
        across = (WIDE - 2 * LEFT - 8 * (len(packages) - 1)) / len(packages)
        rows = max(len(_rows(rooms(package), across)) for package in packages)
        tall = ROW + max(0, rows - 1) * LINE + (22 if len(packages) > 4 else 0)
        for n, package in enumerate(packages):
            x = LEFT + n * (across + 8)
            parts.append(f'<rect x="{x:.0f}" y="{y:.0f}" width="{across:.0f}" height="{tall}" rx="5" fill="{WELL}"/>')
            parts.append(f'<text x="{x + 8:.0f}" y="{y + 19:.0f}" font-weight="600" fill="{INK}">{package}</text>')
            for line, row in enumerate(_rows(rooms(package), across)):
                at = x + 8 if line or across < 200 else x + 130
                down = y + 6 + line * LINE if across >= 200 else y + 26 + line * LINE
                for name, count in row:
                    text = f"{name} {count}".strip() if name else f"{count} files"
                    wide = 7.5 * len(text) + 14
                    parts.append(
                        f'<rect x="{at:.0f}" y="{down:.0f}" width="{wide:.0f}" height="22" rx="3" fill="{ROOM}"/>'
                    )
                    parts.append(f'<text x="{at + 7:.0f}" y="{down + 15:.0f}" fill="{QUIET}">{text}</text>')
                    at += wide + 5
        y += tall + 6
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE} {y + 8:.0f}" font-family="sans-serif" font-size="13">'
    return "\n".join([head, f'<rect width="{WIDE}" height="{y + 8:.0f}" fill="#ffffff"/>', *parts, "</svg>\n"])


def _rows(found: list[tuple[str, int]], across: float) -> list[list[tuple[str, int]]]:
    """Rooms in lines that fit."""
    rows: list[list[tuple[str, int]]] = []
    room = across - (138 if across >= 200 else 16)
    left = room
    for name, count in found:
        wide = 7.5 * len(f"{name} {count}" if name else f"{count} files") + 19
        if not rows or wide > left:
            rows.append([])
            left = room if len(rows) == 1 else across - 16
        rows[-1].append((name, count))
        left -= wide
    return rows


if __name__ == "__main__":
    (Path(sys.argv[1]) / "rooms.svg").write_text(drawn(), encoding="utf-8")
