"""Name and version of the program, at the foot of each page and printed sheet."""

from django import template

from mockup import PROGRAM

register = template.Library()


@register.simple_tag
def program() -> str:
    """Return the program's name and version."""
    return PROGRAM
