"""The pages of docs/ as help: found beside the program, cut into sections, searched."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import nimble_quake
from nimble_quake.session.reference import TITLES

FIRST = (
    "first-shake",
    "building-maps",
    "couplings",
    "masks",
    "finishes",
    "plates",
    "moving",
    "sound",
    "tracking",
    "starters",
    "batches",
    "crossings",
    "shutter",
    "carrying",
    "formats",
    "many-machines",
)
"""The pages of those who use it, in the order they are listed; the others follow by name."""
OPERATORS = "operators"
"""Its sections are pages of their own: as one it takes seconds to lay out."""
HEADING = re.compile(r"^(#{1,3}) (.+)$", re.MULTILINE)
SNIPPET = 90
"""Letters shown round what was found."""


@dataclass(frozen=True)
class Page:
    """A page, or a section of the page on operators. name: of its file, with "#kind" for such a section."""

    name: str
    title: str
    text: str


@dataclass(frozen=True)
class Found:
    """Where words stand: the page, the heading they stand under, and what stands round them."""

    page: Page
    heading: str
    snippet: str


def folder() -> Path | None:
    """Return the folder of the pages: inside the package when it is installed, else in the source tree."""
    package = Path(nimble_quake.__file__).parent
    places = (package / "pages", package.parent.parent / "docs")
    return next((place for place in places if (place / f"{FIRST[0]}.md").is_file()), None)


@cache
def pages() -> tuple[Page, ...]:
    """Return every page, those for users first, then the sections on operators. Empty where they are not there."""
    place = folder()
    if place is None:
        return ()
    names = sorted(path.stem for path in place.glob("*.md"))
    order = [*(name for name in FIRST if name in names), *(name for name in names if name not in FIRST)]
    found = [_page(name, (place / f"{name}.md").read_text(encoding="utf-8")) for name in order]
    return (*found, *_of_operators(next((page.text for page in found if page.name == OPERATORS), "")))


def _page(name: str, text: str) -> Page:
    title = HEADING.search(text)
    return Page(name, title.group(2) if title else name, text)


def _of_operators(text: str) -> Iterator[Page]:
    """The sections of the page on operators, each named by its kind and its family."""
    family = ""
    for part in re.split(r"(?m)^(?=#{2,3} )", text):
        head = HEADING.match(part)
        kind = re.search(r"\(`(\w+)`", head.group(2)) if head else None
        if head and head.group(1) == "##":
            family = head.group(2)
        elif head and kind:
            title = head.group(2).split(" (`")[0]
            yield Page(f"{OPERATORS}#{family}/{kind.group(1)}", f"{title}  ·  {family}", part)


def page_named(name: str) -> Page | None:
    """Return a page by its name; None for none."""
    return next((page for page in pages() if page.name == name), None)


def page_of_kind(family: str, kind: str) -> Page | None:
    """Return what is written on a kind of operator. family: as its heading calls it."""
    return page_named(f"{OPERATORS}#{family}/{kind}")


def page_about(about: str) -> Page | None:
    """Return a page by its name, or what is written on a kind: "family/kind"."""
    family, _, kind = about.partition("/")
    return page_of_kind(TITLES.get(family, ""), kind) if kind else page_named(about)


def search(words: str) -> list[Found]:
    """Return where all of some words stand: pages whose title holds them first, each page and heading once."""
    wanted = words.casefold().split()
    if not wanted:
        return []
    found: list[tuple[int, int, Found]] = []
    for number, page in enumerate(page for page in pages() if page.name != OPERATORS):
        for heading, part in _parts(page.text):
            lower = f"{heading} {part}".casefold()
            if all(word in lower for word in wanted):
                rank = 0 if all(word in heading.casefold() for word in wanted) else 1
                found.append((rank, number, Found(page, heading, _round(part, wanted))))
    return [each for _, _, each in sorted(found, key=lambda item: item[:2])]


def _parts(text: str) -> Iterator[tuple[str, str]]:
    """A page's headings, each with what stands under it."""
    heads = list(HEADING.finditer(text))
    for head, after in zip(heads, [*heads[1:], None], strict=True):
        yield head.group(2), text[head.end() : after.start() if after is not None else len(text)].strip()


def _round(text: str, wanted: list[str]) -> str:
    plain = " ".join(re.sub(r"[*`|#>]|\]\([^)]*\)|!?\[", " ", text).split())
    places = [at for word in wanted if (at := plain.casefold().find(word)) >= 0]
    start = max(0, min(places, default=0) - SNIPPET // 3)
    return ("… " if start else "") + plain[start : start + SNIPPET] + ("…" if start + SNIPPET < len(plain) else "")
