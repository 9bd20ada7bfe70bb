"""What all benches share: the best of several runs, peak memory, one line a result.

Times are printed for orientation; only the ratio to the peer in the same run means anything.
"""

from __future__ import annotations

import resource
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

FOLDER = Path(__file__).parents[1] / ".kettle" / "bench"


def best(*works: Callable[[], object], runs: int = 9) -> list[float]:
    """The shortest time of each work, taken in turns so that a slow moment hits all alike; seconds."""
    shortest = [float("inf")] * len(works)
    for _ in range(runs):
        for k, work in enumerate(works):
            begun = time.perf_counter()
            work()
            shortest[k] = min(shortest[k], time.perf_counter() - begun)
    return shortest


def tell(what: str, ratio: float, wanted: float, *, at_most: bool, detail: str = "") -> bool:
    """Print a ratio with what is wanted; whether it is reached."""
    reached = ratio <= wanted if at_most else ratio >= wanted
    print(f"{'reached ' if reached else 'MISSED  '} {what}: {ratio:.2f} (wanted {'≤' if at_most else '≥'} {wanted:g}) {detail}", flush=True)
    return reached


def peak_of(code: str) -> float:
    """The peak memory of a Python process that runs ``code``, in MB."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss
    out = subprocess.run(
        [sys.executable, "-c", code + "\nimport resource; print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)"],
        check=True,
        capture_output=True,
        text=True,
    ).stdout
    del before
    return int(out.split()[-1]) / 1024
