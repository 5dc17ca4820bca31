"""Loading what a command needs, when it is given."""

from __future__ import annotations

import gc
import importlib
from types import ModuleType


def loaded(module: str) -> ModuleType:
    """Load a module. Modules and classes are many objects and none is garbage: none is looked for among them, ever."""
    looked_for = gc.isenabled()
    gc.disable()
    try:
        return importlib.import_module(module)
    finally:
        gc.freeze()
        if looked_for:  # a window looks for it itself, on its own thread alone
            gc.enable()
