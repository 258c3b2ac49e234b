"""Importing this fills the registry: one module per trade."""

from ovolo.words import (
    lists as lists,
    measuring as measuring,
    placing as placing,
    points as points,
    regions as regions,
    rounding as rounding,
    solids as solids,
    trigonometry as trigonometry,
)
from ovolo.words.registry import WORDS as WORDS
