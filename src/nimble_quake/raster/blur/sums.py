"""Several fields, each with a weight, made into one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.raster.colour.channels import as_channels
from nimble_quake.raster.threads.rows import in_bands


@dataclass(frozen=True)
class Meeting:
    """A field and how strong it is (1: as it is)."""

    field: Field
    weight: float


def met(parts: list[Meeting], how: str, rest: float) -> Field:
    """Return the fields' mean, or the lightest, darkest or added value about rest; weights draw them to rest."""
    channels = max(part.field.shape[2] for part in parts)
    weights, level = [np.float32(part.weight) for part in parts], np.float32(rest)
    whole = sum(part.weight for part in parts)

    def meet(first: Field, *others: Field) -> Field:
        if how == "mean":
            total = first * np.float32(parts[0].weight / whole)
            for part, field in zip(parts[1:], others, strict=True):
                total += field * np.float32(part.weight / whole)
            return total
        total, fainter = first.copy(), np.empty_like(first)
        for weight, field in zip(weights[1:], others, strict=True):
            if level:
                np.subtract(field, level, out=fainter)
                fainter *= weight
                fainter += level
            else:
                np.multiply(field, weight, out=fainter)
            if how == "add":
                total += fainter - level
            else:
                (np.maximum if how == "lighten" else np.minimum)(total, fainter, out=total)
        return total

    return in_bands(meet, *(as_channels(part.field, channels) for part in parts))
