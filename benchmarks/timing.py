"""How the benchmarks measure: medians of repeats, as ratios to plain Python."""

import statistics
import time
from collections.abc import Callable

ALLOWED = 1.0
_missed: list[str] = []


def median_seconds(work: Callable[[], object], repeats: int = 15) -> float:
    """Median time of one run, after one run to warm up."""
    work()
    times = []
    for _ in range(repeats):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def yardstick() -> float:
    """A million additions in plain Python: what this machine is worth [s]."""

    def loop() -> int:
        total = 0
        for number in range(1_000_000):
            total += number
        return total

    return median_seconds(loop, 7)


def report(name: str, seconds: float, budget: float) -> None:
    """Print a time, its ratio to the budget, and to the yardstick."""
    base = yardstick()
    verdict = "within" if seconds <= budget * ALLOWED else "OVER"
    if verdict == "OVER":
        _missed.append(name)
    print(
        f"{name:<52} {seconds * 1000:8.2f} ms   {seconds / budget:5.2f} of the budget ({verdict})"
        f"   {seconds / base:6.2f} yardsticks"
    )


def ratio(name: str, seconds: float, slow_seconds: float) -> None:
    """Print how many times longer a plain way takes."""
    print(f"{name:<52} {slow_seconds * 1000:8.0f} ms   {slow_seconds / seconds:6.1f} times as long")


def finish() -> int:
    """Return a script's exit code: 1 if a budget was missed, which is printed again."""
    for name in _missed:
        print(f"missed: {name}")
    return min(len(_missed), 1)
