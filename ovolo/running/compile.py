"""Importing this gives `compiled` all its rules."""

from ovolo.running import calls as calls
from ovolo.running import comprehensions as comprehensions
from ovolo.running import expressions as expressions
from ovolo.running import used as used
from ovolo.running.code import Run as Run
from ovolo.running.code import compiled as compiled
