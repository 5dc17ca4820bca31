"""Names of files as text: a name on Linux is bytes, and not all of them are UTF-8."""

from __future__ import annotations

import os
from urllib.parse import quote_from_bytes, unquote_to_bytes

BYTES = "bytes:"
LONGEST = 80
"""Letters of a file's name that is made of a title."""


def plain_name(name: str) -> str:
    """Return a file's name as it is after being saved and opened again: absolute, with no detours."""
    return "/" + os.path.normpath(os.path.abspath(name)).lstrip("/")


def file_stem(title: str) -> str:
    """Return what a file of a title is called, without its ending: no folders, nothing hidden, never empty."""
    plain = "".join("-" if c == "/" or not c.isprintable() else c for c in title)
    return plain.strip(" .-")[:LONGEST].rstrip() or "shot"


def text_of_name(name: str) -> str:
    """Return a file's name as any file can hold it; one that is no UTF-8 is written as `bytes:` and percent codes."""
    try:
        name.encode("utf-8")
        if not name.startswith(BYTES):
            return name
        return BYTES + quote_from_bytes(os.fsencode(name))
    except UnicodeEncodeError:
        return BYTES + quote_from_bytes(os.fsencode(name))


def name_of_text(text: str) -> str:
    """Return the file's name that `text_of_name` wrote."""
    return os.fsdecode(unquote_to_bytes(text[len(BYTES) :])) if text.startswith(BYTES) else text
