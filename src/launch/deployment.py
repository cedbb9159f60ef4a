"""Django's own deployment checks, on the production settings; any warning fails."""

import os
import subprocess
import sys

from launch.places import HOME


def main() -> int:
    """Run ``check --deploy`` as a shop would be served."""
    environment = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "web.settings.production",
        "SECRET_KEY": "long-enough-and-different-enough-for-the-check-0123456789-abcdefghij",
        "ALLOWED_HOSTS": "bench.example",
        "STATIC_ROOT": str(HOME / "static-collected"),
    }
    command = [sys.executable, "-m", "django", "check", "--deploy", "--fail-level", "WARNING"]
    return subprocess.run(command, env=environment, cwd=HOME).returncode


if __name__ == "__main__":
    sys.exit(main())
