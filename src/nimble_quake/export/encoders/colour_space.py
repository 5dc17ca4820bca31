"""What colours a file holds, said in the file: sRGB (IEC 61966-2-1) by an ICC profile, or by PNG's own chunks."""

from __future__ import annotations

import struct
import zlib
from functools import cache

import numpy as np
from numpy.typing import NDArray

D50 = (0.9642, 1.0, 0.8249)
"""The white of ICC's connection space (ICC.1:2022, 7.2.16)."""
RED_GREEN_BLUE = ((0.64, 0.33), (0.30, 0.60), (0.15, 0.06))
D65 = (0.3127, 0.3290)
"""Primaries and white of BT.709 and sRGB, x and y each."""
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
"""The cones of an eye, as white is adapted by (ICC.1:2022, annex E)."""
CURVE = (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)
"""sRGB's curve as an ICC parametric curve of type 3: g, a, b, c, d."""
MADE = (2026, 1, 1, 0, 0, 0)
"""When the profile was made: the same in every file."""
PNG_HEAD = 33
"""Bytes of a PNG's signature and first chunk."""


@cache
def srgb_profile() -> bytes:
    """Return an ICC profile of sRGB (ICC.1:2022, version 4.4), with the same bytes each time."""
    adapted = _to_d50()
    columns = adapted @ _to_xyz()
    tags = {
        b"desc": _words("sRGB"),
        b"cprt": _words("No rights reserved"),
        b"wtpt": _xyz(np.array(D50)),
        b"chad": b"sf32" + bytes(4) + _numbers(adapted.ravel()),
        **{name: _xyz(columns[:, n]) for n, name in enumerate((b"rXYZ", b"gXYZ", b"bXYZ"))},
        b"rTRC": b"para" + bytes(4) + struct.pack(">HH", 3, 0) + _numbers(np.array(CURVE)),
    }
    table, data, at = [], b"", 128 + 4 + 12 * (len(tags) + 2)
    for name, value in tags.items():
        names = (name, b"gTRC", b"bTRC") if name == b"rTRC" else (name,)  # the three curves are one
        table += [struct.pack(">4sII", each, at + len(data), len(value)) for each in names]
        data += value + bytes(-len(value) % 4)
    body = struct.pack(">I", len(table)) + b"".join(table) + data
    return _head(128 + len(body)) + body


def _head(size: int) -> bytes:
    kinds = struct.pack(">4s4s4s", b"mntr", b"RGB ", b"XYZ ")
    head = struct.pack(">I4sI", size, bytes(4), 0x04400000) + kinds + struct.pack(">6H", *MADE) + b"acsp"
    return (head + bytes(28) + _numbers(np.array(D50))).ljust(128, b"\0")


def _numbers(values: NDArray[np.float64]) -> bytes:
    """As ICC's s15Fixed16."""
    return b"".join(struct.pack(">i", round(float(value) * 65536)) for value in values)


def _xyz(values: NDArray[np.float64]) -> bytes:
    return b"XYZ " + bytes(4) + _numbers(values)


def _words(text: str) -> bytes:
    coded = text.encode("utf-16-be")
    return b"mluc" + bytes(4) + struct.pack(">II2s2sII", 1, 12, b"en", b"US", len(coded), 28) + coded


def _to_xyz() -> NDArray[np.float64]:
    """The primaries as columns of XYZ, so that their sum is the white (ITU-R BT.709; SMPTE RP 177)."""
    columns = np.array([(x / y, 1.0, (1 - x - y) / y) for x, y in RED_GREEN_BLUE]).T
    return np.asarray(columns * np.linalg.solve(columns, _white()))


def _white() -> NDArray[np.float64]:
    return np.array((D65[0] / D65[1], 1.0, (1 - D65[0] - D65[1]) / D65[1]))


def _to_d50() -> NDArray[np.float64]:
    there, here = BRADFORD @ np.array(D50), BRADFORD @ _white()
    return np.asarray(np.linalg.inv(BRADFORD) @ np.diag(there / here) @ BRADFORD)


def png_in_srgb(data: bytes) -> bytes:
    """Return a PNG that says its colours are sRGB: *cICP* of H.273's codes 1, 13, 0, whole range, and *sRGB*."""
    chunks = b"".join(_chunk(name, value) for name, value in ((b"cICP", bytes((1, 13, 0, 1))), (b"sRGB", bytes(1))))
    return data[:PNG_HEAD] + chunks + data[PNG_HEAD:]


def _chunk(name: bytes, value: bytes) -> bytes:
    return struct.pack(">I", len(value)) + name + value + struct.pack(">I", zlib.crc32(name + value))


def jpeg_in_srgb(data: bytes) -> bytes:
    """Return a JPEG with the profile in it, behind its first marker (ICC.1:2022, annex B.4)."""
    profile = b"ICC_PROFILE\0\x01\x01" + srgb_profile()
    return data[:2] + b"\xff\xe2" + struct.pack(">H", len(profile) + 2) + profile + data[2:]
