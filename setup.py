"""What pyproject.toml cannot say: the pages of docs/ go into the package, for the help inside the program."""

from __future__ import annotations

import shutil
from pathlib import Path

from setuptools import setup
from setuptools.command.build_py import build_py

PAGES = ("*.md", "*.svg", "screenshots/*.png", "pictures/*.webp")


class WithPages(build_py):
    """Copies the pages beside the modules. An editable install reads them where they are."""

    def run(self) -> None:
        super().run()
        if self.editable_mode:
            return
        docs, target = Path("docs"), Path(self.build_lib) / "nimble_quake" / "pages"
        for page in (page for pattern in PAGES for page in docs.glob(pattern)):
            to = target / page.relative_to(docs)
            to.parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(page, to)


setup(cmdclass={"build_py": WithPages})
