"""The typefaces there are, and which style of a family is drawn: those that came along, one's own, the system's.

Styles are matched as CSS Fonts Module Level 4 (section 5.2) says, slant first, then weight. A variable font takes the
weight that is asked for, and its other axes by their tags (OpenType 1.9, fvar and STAT).
"""

from __future__ import annotations

import re
import threading
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from functools import cache, lru_cache
from pathlib import Path
from typing import TypeAlias

import skia

FONTS = Path(__file__).parents[1] / "fonts"
DEFAULT_FACE = "Bungee"
SUFFIXES = (".ttf", ".otf", ".ttc", ".otc")
MOST_FILES = 200
MOST_BYTES = 64 * 2**20
"""Fonts in a folder, and bytes of each, that are looked at."""
LOCK = threading.RLock()
Axes: TypeAlias = tuple[tuple[str, float], ...]
"""Positions on axes of a variable font, by their tags."""
AXIS = re.compile(r"([A-Za-z0-9]{4})\s*[ =:]\s*(-?[0-9]+(?:\.[0-9]+)?)")


@dataclass(frozen=True)
class Style:
    """A style of a family. weight: 1...1000, 400 is regular, 700 bold (OpenType, usWeightClass)."""

    family: str
    weight: float = 400.0
    italic: bool = False
    axes: Axes = ()


@dataclass(frozen=True)
class Member:
    """A font of a family. weights: from and to; a variable font has all between. file: None for the system's."""

    face: skia.Typeface
    weights: tuple[float, float]
    italic: bool
    file: Path | None = None


@dataclass
class _Places:
    """Where fonts are looked for besides, and what has to be forgotten when there are others; `look_again` counts."""

    folders: list[Path] = field(default_factory=list)
    edition: int = 0
    forget: list[Callable[[], None]] = field(default_factory=list)


_places = _Places()


def edition() -> int:
    """Return a number that changes when other fonts are there: what is set in type depends on it."""
    return _places.edition


def forgotten_with_faces(forget: Callable[[], None]) -> None:
    """Have `forget` called when other faces are there."""
    _places.forget.append(forget)


def axes_of(text: str) -> Axes:
    """Return the positions that a text names, as "wdth 80, opsz 12"."""
    return tuple((tag, float(number)) for tag, number in AXIS.findall(text))


def look_in(*folders: Path) -> None:
    """Let fonts in these folders be set too, from now on."""
    with LOCK:
        new = [folder for folder in folders if folder not in _places.folders and _font_files(folder)]
        if new:
            _places.folders.extend(new)
            look_again()


def folders() -> tuple[Path, ...]:
    """Return where fonts are looked for besides."""
    return tuple(_places.folders)


def forget_folder(folder: Path) -> None:
    """Let fonts in a folder not be set any more."""
    with LOCK:
        _places.folders.remove(folder)
        look_again()


def look_again() -> None:
    """Let what lies in the folders of fonts be found anew."""
    with LOCK:
        for known in (_own, faces, members, axis_tags, typeface, collection, own_height, missing_glyphs):
            known.cache_clear()
        for forget in _places.forget:
            forget()
        _places.edition += 1


def _font_files(folder: Path) -> list[Path]:
    try:
        found = sorted(path for path in folder.iterdir() if path.suffix.lower() in SUFFIXES)
        return [path for path in found[:MOST_FILES] if may_be_read(path)]
    except OSError:
        return []


def may_be_read(file: Path) -> bool:
    """Return whether a file is named as fonts are, and is not too large to be looked at."""
    try:
        return file.suffix.lower() in SUFFIXES and file.is_file() and file.stat().st_size <= MOST_BYTES
    except OSError:
        return False


def read_font(file: Path) -> list[skia.Typeface]:
    """Return the fonts in a file; none where it is no font."""
    found = []
    for index in range(64 if file.suffix.lower() in (".ttc", ".otc") else 1):
        face = skia.Typeface.MakeFromFile(str(file), index)
        if face is None:
            break
        found.append(face)
    return found


@cache
def _own() -> dict[str, tuple[Member, ...]]:
    """The families of ours and in the folders: of two of a name the first."""
    families: dict[str, tuple[Member, ...]] = {}
    for folder in (FONTS, *_places.folders):
        here: dict[str, list[Member]] = {}
        for file in _font_files(folder):
            for face in read_font(file):
                here.setdefault(face.getFamilyName(), []).append(_member(face, file))
        for family, found in here.items():
            families.setdefault(family, tuple(found))
    return families


def _member(face: skia.Typeface, file: Path | None = None) -> Member:
    style = face.fontStyle()
    weights = (float(style.weight()),) * 2
    for axis in face.getVariationDesignParameters():
        if tag_of(axis.tag) == "wght":
            weights = (float(axis.min), float(axis.max))
    return Member(face, weights, style.slant() != skia.FontStyle.Slant.kUpright_Slant, file)


def tag_of(number: int) -> str:
    """Return an axis' tag as four letters."""
    return int(number).to_bytes(4, "big").decode("latin-1")


def tag_number(tag: str) -> int:
    """Return an axis' tag as OpenType counts it."""
    return int.from_bytes(tag.encode("latin-1"), "big")


@cache
def _system() -> skia.FontMgr:
    return skia.FontMgr()


@cache
def faces() -> tuple[str, ...]:
    """Return the families that can be set: ours and one's own first, then the system's."""
    with LOCK:
        ours = tuple(_own())
        system = sorted({_system().getFamilyName(i) for i in range(_system().countFamilies())} - set(ours))
    return ours + tuple(system)


@lru_cache(maxsize=256)
def members(family: str) -> tuple[Member, ...]:
    """Return the fonts of a family; none where it is not installed."""
    with LOCK:
        found = _own().get(family)
        if found is None and family in faces():
            found = _of_system(family)
        return found or ()


def _of_system(family: str) -> tuple[Member, ...]:
    """The fonts of a family of the system's, one for each weight and slant, of normal width where there is one."""
    styles = _system().matchFamily(family)
    each = {(style.weight(), style.slant()) for style, _ in (styles.getStyle(n) for n in range(styles.count()))}
    width = skia.FontStyle.Width.kNormal_Width
    faces = (
        _system().matchFamilyStyle(family, skia.FontStyle(weight, width, slant))
        for weight, slant in sorted(each, key=str)
    )
    return tuple(_member(face) for face in faces if face is not None)


def files_of(family: str) -> tuple[Path, ...]:
    """Return the files of a family that lie in folders of fonts: not ours, which are everywhere, nor the system's."""
    files = {member.file for member in members(family) if member.file is not None and member.file.parent != FONTS}
    return tuple(sorted(files))


def known_face(family: str) -> str:
    """Return the family, or the default one where it is not installed."""
    return family if members(family) else DEFAULT_FACE


def styles_of(family: str) -> tuple[tuple[tuple[float, float], bool], ...]:
    """Return the weights (from, to; alike but for a variable font) a family has, each with whether it is italic."""
    return tuple(sorted({(member.weights, member.italic) for member in members(family)}))


@lru_cache(maxsize=256)
def axis_tags(family: str) -> tuple[str, ...]:
    """Return the tags of the axes that fonts of a family have; none for a family that is not variable."""
    axes = (axis for member in members(family) for axis in member.face.getVariationDesignParameters())
    return tuple(dict.fromkeys(tag_of(axis.tag) for axis in axes))


def _matched(found: Iterable[Member], weight: float, *, italic: bool) -> Member:
    """The font that fits best (CSS Fonts Level 4, 5.2): of the slant asked for, else of the other one; then by weight.

    Between 400 and 500 heavier ones up to 500 come first, then lighter ones, then heavier; below 400 lighter ones come
    first, above 500 heavier ones.
    """
    all_of_them = list(found)
    slanted = [member for member in all_of_them if member.italic == italic] or all_of_them

    def order(member: Member) -> tuple[int, float]:
        nearest = min(max(weight, member.weights[0]), member.weights[1])
        off = nearest - weight
        if off == 0:
            return 0, 0.0
        if 400 <= weight <= 500:
            return (1, off) if off > 0 and nearest <= 500 else (2, -off) if off < 0 else (3, off)
        first = off < 0 if weight < 400 else off > 0
        return (1 if first else 2), abs(off)

    return min(slanted, key=order)


@lru_cache(maxsize=256)
def typeface(style: Style) -> skia.Typeface:
    """Return the font of a style, or the default family's where its own is not installed."""
    with LOCK:
        found = members(known_face(style.family))
        member = _matched(found, style.weight, italic=style.italic)
        weight = min(max(style.weight, member.weights[0]), member.weights[1])
        wanted = dict(style.axes) | ({"wght": weight} if member.weights[0] < member.weights[1] else {})
        there = {tag_of(axis.tag) for axis in member.face.getVariationDesignParameters()}
        return _at(member.face, {tag: place for tag, place in wanted.items() if tag in there})


def _at(face: skia.Typeface, axes: dict[str, float]) -> skia.Typeface:
    """A variable font at places on its axes."""
    if not axes:
        return face
    kinds = skia.FontArguments.VariationPosition
    places = kinds.Coordinates([kinds.Coordinate(tag_number(tag), place) for tag, place in axes.items()])
    position = kinds(places)  # held until the clone is made: it is not copied
    return face.makeClone(skia.FontArguments().setVariationDesignPosition(position)) or face


@lru_cache(maxsize=256)
def collection(style: Style) -> skia.textlayout.FontCollection:
    """Return a collection that holds the font of a style under its family's name, and nothing else."""
    provider = skia.textlayout.TypefaceFontProvider()
    provider.registerTypeface(typeface(style), skia.String(known_face(style.family)))
    found = skia.textlayout.FontCollection()
    found.setDefaultFontManager(provider)
    return found


@lru_cache(maxsize=256)
def own_height(style: Style) -> float:
    """Return the distance of lines a font asks for, in times its size: ascent, descent, line gap (OpenType hhea)."""
    return float(skia.Font(typeface(style), 1000.0).getSpacing()) / 1000.0


@lru_cache(maxsize=256)
def missing_glyphs(words: str, style: Style) -> str:
    """Return the characters a font cannot draw."""
    with LOCK:
        wanted = sorted({c for c in words if not c.isspace() and c.isprintable()})
        glyphs = typeface(style).unicharsToGlyphs([ord(c) for c in wanted]) if wanted else []
    return "".join(c for c, glyph in zip(wanted, glyphs, strict=True) if glyph == 0)
