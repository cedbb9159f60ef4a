"""The token of a form that writes: sent twice, it writes once (``bench.shops.once``)."""

from uuid import uuid4

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

register = template.Library()


@register.simple_tag
def once() -> SafeString:
    """A hidden field with a token of its own."""
    return format_html('<input type="hidden" name="once" value="{}">', uuid4())
