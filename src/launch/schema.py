"""The generated files of docs/: the JSON Schema of the job file, and the glossary."""

import json

from launch.places import HOME
from mockup.formats.job_shape import job_shape
from mockup.words.glossary import as_markdown

SCHEMA_PATH = HOME / "docs" / "job-file.schema.json"
GLOSSARY_PATH = HOME / "docs" / "glossary.md"


def schema_text() -> str:
    """Return the schema as it is in the documentation."""
    schema = {"$schema": "https://json-schema.org/draft/2020-12/schema", **job_shape().model_json_schema()}
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    SCHEMA_PATH.write_text(schema_text())
    GLOSSARY_PATH.write_text(as_markdown())
