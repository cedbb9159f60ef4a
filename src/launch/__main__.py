"""The commands behind ./mole: modules whose ``main(arguments)`` returns an exit code."""

import os
import sys
from importlib import import_module

COMMANDS = {
    "demo": "launch.demo",
    "test": "launch.tests",
    "check": "launch.check",
    "serve": "launch.serve",
    "manage": "launch.manage",
    "backup": "launch.backup:main_backup",
    "restore": "launch.restore",
    "bench": "launch.speed",
    "prove": "launch.prove",
    "gauge": "launch.gauge",
}


def main() -> int:
    """Run the command named by the first argument."""
    command, *arguments = sys.argv[1:] or ["help"]
    if command not in COMMANDS:
        print(f"There is no command “{command}”. There are: {', '.join(COMMANDS)}.", file=sys.stderr)
        return 2
    # No package here extends pydantic; searching for one reads the metadata of every package.
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
    module, _, name = COMMANDS[command].partition(":")
    code: int = getattr(import_module(module), name or "main")(arguments)
    return code


if __name__ == "__main__":
    sys.exit(main())
