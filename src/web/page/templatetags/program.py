"""The foot of pages and printed sheets: the caution and the program's version.

They are tags and not context, because a PDF is rendered without a request.
"""

from django import template

from mockup import PROGRAM
from mockup.words.report_text import DEFER

register = template.Library()


@register.simple_tag
def program() -> str:
    """Return the program's name and version."""
    return PROGRAM


@register.simple_tag
def defer() -> str:
    """Return the caution that makers' figures overrule the program's."""
    return DEFER
