"""Importing this fills the registry: every module of this package is a trade, or helps one."""

import pkgutil
from importlib import import_module

from ovolo import words
from ovolo.words.registry import WORDS as WORDS

for _one in pkgutil.iter_modules(words.__path__):
    if _one.name != "all":
        import_module(f"{words.__name__}.{_one.name}")
