"""Pictures and clips that a notebook shows in their place, by its display protocol (`_repr_png_`, `_repr_html_`)."""

from __future__ import annotations

import base64
import io
from dataclasses import dataclass, field

from PIL import Image

from nimble_quake.conventions import Bytes8


@dataclass(frozen=True)
class StillShown:
    """A picture, (H, W, 4) uint8, straight colours."""

    picture: Bytes8 = field(repr=False)

    def _repr_png_(self) -> bytes:
        file = io.BytesIO()
        Image.fromarray(self.picture).save(file, "PNG")
        return file.getvalue()


@dataclass(frozen=True)
class ClipShown:
    """A clip, as the bytes of an MP4 file."""

    data: bytes = field(repr=False)

    def _repr_html_(self) -> str:
        coded = base64.b64encode(self.data).decode("ascii")
        return f'<video controls loop autoplay muted src="data:video/mp4;base64,{coded}"></video>'
