"""Importing this fills the registry: one module per trade."""

from ovolo.words import (
    arrays as arrays,
)
from ovolo.words import (
    chance as chance,
)
from ovolo.words import (
    choosing as choosing,
)
from ovolo.words import (
    curves as curves,
)
from ovolo.words import (
    functions as functions,
)
from ovolo.words import (
    lists as lists,
)
from ovolo.words import (
    measuring as measuring,
)
from ovolo.words import (
    numbers as numbers,
)
from ovolo.words import (
    placing as placing,
)
from ovolo.words import (
    points as points,
)
from ovolo.words import (
    regions as regions,
)
from ovolo.words import (
    rounding as rounding,
)
from ovolo.words import (
    solids as solids,
)
from ovolo.words import (
    surfaces as surfaces,
)
from ovolo.words import (
    texts as texts,
)
from ovolo.words import (
    trigonometry as trigonometry,
)
from ovolo.words.registry import WORDS as WORDS
