"""The token of a form that writes: sent twice, it writes once (``web.shops.once``)."""

from uuid import uuid4

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

register = template.Library()


@register.simple_tag
def once() -> SafeString:
    """Return a hidden field with a new token."""
    return format_html('<input type="hidden" name="once" value="{}">', uuid4())
