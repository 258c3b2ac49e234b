"""Whatever the geometry offers says what it takes and gives."""

from __future__ import annotations

import doctest
import importlib
import inspect
import pkgutil

from ovolo import geometry


def test_everything_the_geometry_offers_is_explained() -> None:
    missing, seen = [], 0
    for one in pkgutil.walk_packages(geometry.__path__, f"{geometry.__name__}."):
        module = importlib.import_module(one.name)
        assert module.__doc__, one.name
        for name, made in vars(module).items():
            own = getattr(made, "__module__", "") == one.name
            if (
                own
                and not name.startswith("_")
                and (inspect.isclass(made) or inspect.isfunction(made))
            ):
                seen += 1
                if not (made.__doc__ or "").strip() or (made.__doc__ or "").startswith(f"{name}("):
                    missing.append(f"{one.name}.{name}")
    assert seen > 200 and missing == []


def test_its_examples_run() -> None:
    """The examples in docstrings, as doctests; most of them by a formula of geometry."""
    tried = failed = 0
    for one in pkgutil.walk_packages(geometry.__path__, f"{geometry.__name__}."):
        found = doctest.testmod(importlib.import_module(one.name))
        tried, failed = tried + found.attempted, failed + found.failed
    assert tried >= 40 and not failed
