"""The page that goes from an empty folder to a quake on the board, word for word; broken packages are named."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tomllib
from pathlib import Path

PAGE = (Path(__file__).parents[2] / "docs" / "own-operators.md").read_text()
CHECKS = """
from nimble_quake.operators.registry import registry
from nimble_quake.cli.main import main
assert {"paper_lean", "paper_crease"} <= {operator.kind for operator in registry().playing("effect")}
assert registry().get("quake", "paper_crease").title == "Crease"
assert main(["list", "paper_lean"]) == 0
"""


def package(folder: Path, extra: str = "") -> None:
    """What pip makes of the page's files, without a network."""
    toml, module = (re.search(rf"```{kind}\n(.*?)```", PAGE, re.DOTALL) for kind in ("toml", "python"))
    assert toml is not None
    assert module is not None
    about = tomllib.loads(toml[1])["project"]
    points = about["entry-points"]["nimble_quake.operators"]
    (folder / "paper_quakes").mkdir()
    (folder / "paper_quakes" / "__init__.py").write_text("")
    (folder / "paper_quakes" / "leaning.py").write_text(module[1])
    info = folder / "paper_quakes-1.0.dist-info"
    info.mkdir()
    (info / "METADATA").write_text(f"Metadata-Version: 2.1\nName: {about['name']}\nVersion: 1.0\n")
    lines = [f"{name} = {target}" for name, target in points.items()]
    (info / "entry_points.txt").write_text("[nimble_quake.operators]\n" + "\n".join(lines) + extra)


def run(folder: Path, code: str) -> subprocess.CompletedProcess[str]:
    environment = {**os.environ, "PYTHONPATH": str(folder)}
    return subprocess.run([sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=False)


def test_the_page_word_for_word(tmp_path: Path) -> None:
    package(tmp_path)
    check = re.findall(r"```python\n(.*?)```", PAGE, re.DOTALL)[1]
    done = run(tmp_path, CHECKS + check)
    assert done.returncode == 0, done.stderr
    assert "quake paper_lean: The picture leans" in done.stdout
    assert "left out" not in done.stderr


def test_the_template_is_what_the_page_says() -> None:
    template = Path(__file__).parents[2] / "docs" / "template" / "paper-quakes"
    for kind, name in (("toml", "pyproject.toml"), ("python", "paper_quakes/leaning.py")):
        block = re.search(rf"```{kind}\n(.*?)```", PAGE, re.DOTALL)
        assert block is not None
        assert (template / name).read_text() == block[1]
    assert (template / "paper_quakes" / "__init__.py").read_text() == ""


def test_what_cannot_be_loaded_is_left_out_and_named(tmp_path: Path) -> None:
    package(tmp_path, "\nbroken = paper_quakes.nowhere:Gone\nno_operator = paper_quakes.leaning:np\n")
    done = run(tmp_path, CHECKS)
    assert done.returncode == 0, done.stderr
    lines = [line for line in done.stderr.splitlines() if "left out" in line]
    assert len(lines) == 2
    assert "broken of the package paper-quakes is left out: ModuleNotFoundError" in done.stderr
    assert "no_operator" in done.stderr
