"""Importing this gives `check` all its rules."""

from ovolo.meaning import call_kinds as call_kinds
from ovolo.meaning import expression_kinds as expression_kinds
from ovolo.meaning.checking import check as check
from ovolo.meaning.checking import check_as as check_as
