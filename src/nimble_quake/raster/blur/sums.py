"""Several fields, each with a weight, made into one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.raster.colour.channels import as_channels


@dataclass(frozen=True)
class Meeting:
    """A field and how strong it is (1: as it is)."""

    field: Field
    weight: float


def met(parts: list[Meeting], how: str, rest: float) -> Field:
    """Return the fields' mean, or the lightest, darkest or added value about rest; weights draw them to rest."""
    channels = max(part.field.shape[2] for part in parts)
    total = np.zeros(as_channels(parts[0].field, channels).shape, np.float32)
    level = np.float32(rest)
    if how == "mean":
        whole = sum(part.weight for part in parts)
        for part in parts:
            total += as_channels(part.field, channels) * np.float32(part.weight / whole)
        return total
    total += as_channels(parts[0].field, channels)
    for part in parts[1:]:
        field = level + (as_channels(part.field, channels) - level) * np.float32(part.weight)
        if how == "add":
            total += field - level
        else:
            (np.maximum if how == "lighten" else np.minimum)(total, field, out=total)
    return total
