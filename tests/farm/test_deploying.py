"""What docs and tools/farm tell people to run: the engine knows every option, nothing is open to everybody."""

from __future__ import annotations

import ast
import re
import shlex
from pathlib import Path

import pytest
import yaml
from distributed.cli import dask_scheduler, dask_worker

ROOT = Path(__file__).parent.parent.parent
FARM = ROOT / "tools" / "farm"
PROGRAMS = {"scheduler": dask_scheduler.main, "worker": dask_worker.main}


def commands() -> list[list[str]]:
    """All commands that start a scheduler or a worker."""
    found = []
    pages = (ROOT / "docs" / "many-machines.md", ROOT / "tools" / "farm-namespaces.sh", *FARM.glob("*.service"))
    for page in pages:
        text = page.read_text().replace("\\\n", " ").replace("$tls", "--protocol tls")
        found += [shlex.split(line)[0:] for line in re.findall(r"dask\"? ((?:scheduler|worker) .*)", text)]
    for document in yaml.safe_load_all((FARM / "kubernetes.yaml").read_text()):
        for container in document["spec"].get("template", {}).get("spec", {}).get("containers", ()):
            found.append(container["command"][1:])
    return [words for words in found if "--protocol" in words]


def test_all_places_are_looked_at():
    assert sorted(words[0] for words in commands()) == ["scheduler"] * 4 + ["worker"] * 4


@pytest.mark.parametrize("words", commands(), ids=lambda words: " ".join(words)[:40])
def test_every_option_is_one_and_no_page_is_open(words):
    known = {option for param in PROGRAMS[words[0]].params for option in (*param.opts, *param.secondary_opts)}
    assert {word for word in words if word.startswith("--")} <= known
    assert words[words.index("--protocol") + 1] == "tls"
    assert "--no-dashboard" in words
    assert words[words.index("--dashboard-address") + 1] == "127.0.0.1:0"


def test_the_image_has_what_it_copies_and_no_qt():
    text = (FARM / "Containerfile").read_text()
    for line in re.findall(r"^COPY (.*)$", text, re.MULTILINE):
        for name in line.split()[:-1]:
            assert (ROOT / name).exists(), name
    assert "PyQt6" not in text + (ROOT / "requirements" / "headless.txt").read_text()


def test_the_example_for_batch_systems_is_python():
    assert ast.parse((FARM / "batch_system.py").read_text())
