"""The job file's schema in another engine: its patterns by ECMA-262."""

import json
from pathlib import Path

SCHEMA = json.loads(Path("docs/job-file.schema.json").read_text())


def patterns(node):
    if isinstance(node, dict):
        yield from [node["pattern"]] if isinstance(node.get("pattern"), str) else []
        for child in node.values():
            yield from patterns(child)
    elif isinstance(node, list):
        for child in node:
            yield from patterns(child)


def test_every_pattern_of_the_schema_is_read_by_an_ecma_script_engine_as_it_is_meant(chromium):
    page = chromium.new_page()
    found = sorted(set(patterns(SCHEMA)))
    assert found
    # With the flag that JSON Schema recommends; an engine without patience for idle escapes refuses them there.
    compiled = page.evaluate("patterns => patterns.map(one => new RegExp(one, 'u').source.length)", found)
    assert all(compiled)
    length = next(one for one in found if "down" not in one and "[-−]" in one)
    taken = ["0.112 in", "2.84mm", "−0.06 in", '4"', ".5 thou"]
    refused = ["0.112", "wide", "4 furlongs", "1e3 mm", ""]
    asked = page.evaluate(
        "([one, texts]) => texts.map(text => new RegExp(one, 'u').test(text))", [length, taken + refused]
    )
    assert asked == [True] * len(taken) + [False] * len(refused)
    page.close()
