"""How words for people are set."""

from __future__ import annotations

import re

from django import template
from django.utils.html import conditional_escape
from django.utils.safestring import SafeString, mark_safe

register = template.Library()


@register.filter
def with_code(said: str) -> SafeString:
    """What stands in backticks is set as code."""
    return mark_safe(
        re.sub("`([^`]+)`", r"<code>\1</code>", conditional_escape(said))
    )  # escaped before
