"""./mole bench: run the speed measurements of benchmarks/."""

import subprocess
import sys

from launch.places import HOME


def main(arguments: list[str]) -> int:
    """Run every benchmark, or the ones named."""
    names = arguments or sorted(path.stem for path in (HOME / "benchmarks").glob("speed_*.py"))
    codes = [subprocess.run([sys.executable, str(HOME / "benchmarks" / f"{name}.py")]).returncode for name in names]
    return max(codes, default=0)
