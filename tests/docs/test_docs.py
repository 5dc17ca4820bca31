"""The docs say what the program does."""

from __future__ import annotations

import importlib.util
import re
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from nimble_quake.export.data import TITLES
from nimble_quake.export.formats import formats
from nimble_quake.session.reference import reference, with_formats

ROOT = Path(__file__).parent.parent.parent
MOVING = "docs/pictures/moving.webp"


def test_operator_reference_is_fresh():
    """`make docs` writes it."""
    assert (ROOT / "docs" / "operators.md").read_text(encoding="utf-8") == reference()


@pytest.mark.parametrize(
    "page", [p.relative_to(ROOT).as_posix() for p in (ROOT, ROOT / "docs") for p in p.glob("*.md")]
)
def test_links_lead_somewhere(page):
    text = (ROOT / page).read_text(encoding="utf-8")
    for target in re.findall(r"\]\(([^)#]+)\)", text):
        assert (ROOT / page).parent.joinpath(target).exists(), f"{page}: {target}"


def test_import_order():
    """The layers of docs/architecture.md, checked by import-linter."""
    found = subprocess.run(
        [str(Path(sys.executable).with_name("lint-imports"))],
        cwd=ROOT,
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
    )
    assert "3 kept, 0 broken" in found.stdout, found.stdout


def test_the_picture_of_the_rooms_is_drawn_from_the_code(tmp_path):
    subprocess.run([sys.executable, str(ROOT / "tools" / "draw_rooms.py"), str(tmp_path)], check=True)
    assert (tmp_path / "rooms.svg").read_text() == (ROOT / "docs" / "rooms.svg").read_text(), "make docs draws it anew"


def test_every_format_has_its_row():
    page = (ROOT / "docs" / "formats.md").read_text(encoding="utf-8")
    assert page == with_formats(page), "make docs writes it anew"
    rows = dict(re.findall(r"^\| `([\w-]+)` \| (\.\w+) \|", page, re.MULTILINE))
    assert rows == {format.key: format.suffix for format in formats()}
    for sort in TITLES:
        assert f"| `{sort}" in page


def test_the_moving_picture_is_what_the_program_renders_today():
    """README begins with it; `python tools/draw_page_pictures.py` draws it anew."""
    spec = importlib.util.spec_from_file_location("drawing", ROOT / "tools" / "draw_page_pictures.py")
    assert spec is not None
    assert spec.loader is not None
    drawing = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(drawing)
    assert re.findall(r"!\[[^\]]+\]\(([^)]+)\)", (ROOT / "README.md").read_text(encoding="utf-8"))[0] == MOVING
    assert (ROOT / MOVING).stat().st_size <= 1_500_000
    with Image.open(ROOT / MOVING) as file:
        assert file.size == drawing.moving(0).shape[1::-1]
        for n in (5, 22, drawing.FRAMES - 1):
            file.seek(n)
            off = np.abs(np.asarray(file.convert("RGB"), int) - drawing.moving(n))
            assert off.mean() < 6, "levels: it is stored with losses"


def test_screenshots_are_few_and_all_are_shown():
    shown = "".join(page.read_text(encoding="utf-8") for page in (ROOT / "README.md", *(ROOT / "docs").glob("*.md")))
    pictures = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
    assert len(pictures) < 20
    assert [picture.name for picture in pictures if f"screenshots/{picture.name}" not in shown] == []
