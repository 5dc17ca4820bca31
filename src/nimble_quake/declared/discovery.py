"""Finding what is declared: a module each in a package of ours, and what installed packages add."""

from __future__ import annotations

import logging
import pkgutil
from collections.abc import Callable, Iterable, Iterator
from importlib import import_module
from types import ModuleType
from typing import TypeVar, cast

LOG = logging.getLogger(__name__)
One = TypeVar("One")
Class = TypeVar("Class", bound=type)


def classes_in(package: str, base: Class) -> list[Class]:
    """Return the class of each module, in the order of their names.

    Raises TypeError where a module does not define exactly one subclass of `base`.
    """
    return [class_in(module, base) for module in modules_in(package)]


def class_in(module: str, base: Class) -> Class:
    """Return the class of a module, which is loaded. Raises TypeError where that is not exactly one."""
    loaded = import_module(module)
    own: list[Class] = [each for each in vars(loaded).values() if _is_own(each, base, loaded)]
    return _only(module, base.__name__, own)


def values_in(package: str, sort: type[One]) -> list[One]:
    """Return the one value of a sort that each module holds, in the order of their names. Raises TypeError."""
    return [
        _only(module, sort.__name__, (each for each in vars(import_module(module)).values() if isinstance(each, sort)))
        for module in modules_in(package)
    ]


def modules_in(package: str) -> Iterator[str]:
    """Yield the modules of a package and of the packages in it, in the order of their names; none is loaded."""
    for info in sorted(pkgutil.iter_modules(import_module(package).__path__), key=lambda info: info.name):
        if info.ispkg:
            yield from modules_in(f"{package}.{info.name}")
        else:
            yield f"{package}.{info.name}"


def classes_added(group: str, base: Class) -> list[Class]:
    """Return the classes that installed packages add under an entry point; the name of the point is their kind.

    A point that cannot be loaded, or is anything else, is left out, with a line in the log.
    """
    found: list[Class] = []
    for name, each in _added(group, lambda each: isinstance(each, type) and issubclass(each, base), base.__name__):
        type.__setattr__(cast("Class", each), "kind", name)
        found.append(cast("Class", each))
    return found


def values_added(group: str, sort: type[One]) -> list[One]:
    """Return the values that installed packages add under an entry point; what is none is left out, and named."""
    return [cast("One", each) for _, each in _added(group, lambda each: isinstance(each, sort), sort.__name__)]


def _added(group: str, good: Callable[[object], bool], what: str) -> Iterator[tuple[str, object]]:
    """What is named under an entry point, and is good; a package that is broken takes nobody else along."""
    from importlib.metadata import entry_points  # reads of every installed package: only where something may be added

    for point in sorted(entry_points(group=group), key=lambda point: point.name):
        try:
            found = point.load()
            if not good(found):
                raise TypeError(f"it is no {what}")
        except Exception as wrong:
            package = point.dist.name if point.dist is not None else point.module
            LOG.warning("%s of the package %s is left out: %s: %s", point.name, package, type(wrong).__name__, wrong)
        else:
            yield point.name, found


def _is_own(found: object, base: type, module: ModuleType) -> bool:
    """Whether something is a subclass that this very module defines."""
    return isinstance(found, type) and issubclass(found, base) and found.__module__ == module.__name__


def _only(module: str, what: str, found: Iterable[One]) -> One:
    listed = list(found)
    if len(listed) != 1:
        raise TypeError(f"{module} must define exactly one {what}, it defines {len(listed)}")
    return listed[0]
