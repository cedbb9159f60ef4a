"""Drawings for the PDF, with the rules of the style sheets written onto every mark.

The PDF's renderer applies no page styles to drawings inside a page. Rules and variables are taken from the browser's
own style sheets, with tinycss2 and cssselect2, so that the look is defined once.
"""

import re
from collections.abc import Iterator
from copy import deepcopy
from functools import lru_cache
from pathlib import Path
from xml.etree import ElementTree

import cssselect2
import tinycss2

import web

STYLE_FOLDER = Path(web.__file__).parent / "static" / "web"
"""The directory of the browser's style sheets."""
STYLES = ("tones.css", "drawing.css", "right.css")
_SVG = re.compile(r"<svg\b.*?</svg>", re.DOTALL)
_NAMESPACE = "http://www.w3.org/2000/svg"
_HALO = "data-halo"
_VARIABLE = re.compile(r"var\((--[\w-]+)\)")
_INHERITED = ("font-family", "font-size", "font-weight", "text-anchor", "fill", "stroke", "stroke-width")
_KEPT = (*_INHERITED, "stroke-dasharray", "stroke-linejoin", "stroke-linecap", "opacity", "dominant-baseline")
_FONT = re.compile(r"^(?P<weight>\d+)\s+(?P<size>[\d.]+px)\s+(?P<family>.+)$")


def painted(html: str, styles: Path = STYLE_FOLDER) -> str:
    """Return the page with its drawings painted; ``styles``: directory of style sheets."""
    matcher = _matcher(styles)
    return _SVG.sub(lambda found: _painted(found.group(0), matcher), html)


@lru_cache(maxsize=1)
def _matcher(styles: Path) -> cssselect2.Matcher:
    matcher = cssselect2.Matcher()
    for name in STYLES:
        for selectors, declarations in _rules((styles / name).read_text()):
            for selector in selectors:
                matcher.add_selector(selector, declarations)
    return matcher


def _rules(text: str) -> Iterator[tuple[list[cssselect2.compiler.CompiledSelector], list[tuple[str, str]]]]:
    for rule in tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True):
        if rule.type != "qualified-rule":
            continue
        prelude = tinycss2.serialize(rule.prelude)
        if "dark" in prelude:
            continue
        found = [
            (one.name, tinycss2.serialize(one.value).strip())
            for one in tinycss2.parse_blocks_contents(rule.content)
            if one.type == "declaration"
        ]
        yield cssselect2.compile_selector_list(prelude.replace(":root, ", "")), found


def _painted(text: str, matcher: cssselect2.Matcher) -> str:
    # The light tones depend on an attribute of the page's root; here the drawing is the root.
    source = text.replace("<svg", f'<svg xmlns="{_NAMESPACE}" data-bs-theme="light"', 1)
    tree = ElementTree.fromstring(source)  # noqa: S314, our own template's drawing, just rendered
    for element in tree.iter():
        element.tag = element.tag.rpartition("}")[2]
    _paint(cssselect2.ElementWrapper.from_html_root(tree), matcher, {})
    _halos_below(tree)
    tree.set("xmlns", _NAMESPACE)
    return ElementTree.tostring(tree, encoding="unicode")


def _paint(wrapper: cssselect2.ElementWrapper, matcher: cssselect2.Matcher, above: dict[str, str]) -> None:
    own = dict(above)
    style: dict[str, str] = {}
    for *_, declarations in sorted(matcher.match(wrapper), key=lambda match: match[:2]):
        for name, value in declarations:
            if name.startswith("--"):
                own[name] = value
            elif name == "font" and (parts := _FONT.match(value)):
                style |= {f"font-{part}": parts[part] for part in ("weight", "size", "family")}
            elif name in _KEPT:
                style[name] = value
            elif name == "paint-order":
                wrapper.etree_element.set(_HALO, "")
    element = wrapper.etree_element
    for name, value in style.items():
        element.set(name, _resolved(value, own))
    for child in wrapper.iter_children():
        _paint(child, matcher, own)


def _halos_below(tree: ElementTree.Element) -> None:
    """Turn a stroke below letters into a text of its own: few renderers know ``paint-order``."""
    for parent in list(tree.iter()):
        for at in range(len(parent) - 1, -1, -1):
            above = parent[at]
            if above.attrib.pop(_HALO, None) is None or "stroke" not in above.attrib:
                continue
            below = deepcopy(above)
            below.set("fill", above.get("stroke", "none"))
            below.set("aria-hidden", "true")
            for part in below.iter():
                part.attrib.pop("id", None)
            for name in ("stroke", "stroke-width", "stroke-linejoin"):
                above.attrib.pop(name, None)
            above.set("stroke", "none")
            parent.insert(at, below)


def _resolved(value: str, variables: dict[str, str]) -> str:
    for _ in range(4):
        if "var(" not in value:
            break
        value = _VARIABLE.sub(lambda found: variables.get(found.group(1), ""), value)
    return value.strip()
