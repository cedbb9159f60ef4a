"""Marks of the parts of a page that an answer may replace (``web.page.fragments``)."""

from django import template
from django.template.base import FilterExpression, NodeList, Parser, Token
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from web.page.fragments import Collected, digest_of
from web.page.read_fields import Field

register = template.Library()


def _collected(context: template.Context) -> Collected | None:
    found: Collected | None = context.get("collected")
    return found


class _Part(template.Node):
    """A part that an answer may replace as a whole."""

    def __init__(self, name: FilterExpression, element: str, nodelist: NodeList) -> None:
        self.name, self.element, self.nodelist = name, element, nodelist

    def render(self, context: template.Context) -> SafeString:
        name, html = str(self.name.resolve(context)), self.nodelist.render(context).strip()
        digest, collected = digest_of(html), _collected(context)
        if collected is not None:
            collected.parts[name] = (digest, html)
        return format_html(
            '<{} class="part" data-part="{}" data-digest="{}">{}</{}>',
            self.element, name, digest, mark_safe(html), self.element,  # noqa: S308, rendered by a template
        )  # fmt: skip


class _Row(template.Node):
    """A table row that an answer may add, recolour or remove; its fields stay."""

    def __init__(self, name: FilterExpression, tone: FilterExpression, nodelist: NodeList) -> None:
        self.name, self.tone, self.nodelist = name, tone, nodelist

    def render(self, context: template.Context) -> SafeString:
        name, tone = str(self.name.resolve(context)), str(self.tone.resolve(context) or "")
        collected = _collected(context)
        inner = self.nodelist.render(context)
        if collected is not None:
            if collected.has_row(name):
                collected.rows[name] = (tone, "")
                return mark_safe("")
            with context.push(collected=None):
                inner = self.nodelist.render(context)
        html = format_html('<tr data-row="{}" class="{}">{}</tr>', name, tone, mark_safe(inner))  # noqa: S308
        if collected is not None:
            collected.rows[name] = (tone, html)
        return html


@register.tag
def part(parser: Parser, token: Token) -> _Part:
    """``{% part NAME %}`` or ``{% part NAME span %}``: an element that answers replace."""
    _, name, *element = token.split_contents()
    nodelist = parser.parse(("endpart",))
    parser.delete_first_token()
    return _Part(parser.compile_filter(name), element[0] if element else "div", nodelist)


@register.tag
def row(parser: Parser, token: Token) -> _Row:
    """``{% row NAME TONE %}``: a row that comes and goes, with its present class."""
    _, name, tone = token.split_contents()
    nodelist = parser.parse(("endrow",))
    parser.delete_first_token()
    return _Row(parser.compile_filter(name), parser.compile_filter(tone), nodelist)


@register.simple_tag(takes_context=True)
def wants(context: template.Context, field: Field) -> int:
    """Return how many readings a field still wants [1], and note it for an answer."""
    collected = _collected(context)
    if collected is not None:
        collected.wants[field.name] = field.wants
    return field.wants
