"""Importing this gives `check` all its rules."""

from ovolo.meaning import calls as calls
from ovolo.meaning import expressions as expressions
from ovolo.meaning.checking import check as check
from ovolo.meaning.checking import check_as as check_as
