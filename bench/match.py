"""How fast copies are found: `./kettle run python bench/match.py [fast]`

30,000 noisy records beside splink on the same records in the same run; then time and memory from 10,000 to 1,000,000
records, from the file to the groups, each in a process of its own. With ``fast`` the last stops at 100,000.
"""

from __future__ import annotations

import math
import subprocess
import sys
import time

from corpus import write
from kettlesort.core import matching
from measure import FOLDER, best, tell
from noisy import noisy
from peers import by_splink, table

_ONE = """
import sys, time
from kettlesort.core import formats, matching
begun = time.perf_counter()
found = matching.match(entry.record for entry in formats.open_reading(open(sys.argv[1], "rb")))
print(sum(len(it) > 1 for it in found.groups.all()), time.perf_counter() - begun)
print(next(int(line.split()[1]) / 1024 for line in open("/proc/self/status") if line.startswith("VmHWM")))
"""


def beside_splink() -> bool:
    """The ratio of the times on 30,000 records."""
    records = noisy(30_000, seed=9001).records
    frame = table(records)
    ours, splink = best(lambda: matching.match(records), lambda: by_splink(frame), runs=3)
    return tell("30,000 records, times faster than splink", splink / ours, 5, at_most=False, detail=f"{ours:.1f} s and {splink:.1f} s")


def growth(sizes: list[int]) -> bool:
    """The exponent of growth, and the memory of the largest."""
    times: list[float] = []
    memory = 0.0
    for size in sizes:
        path = write(FOLDER / f"{size}.ris", size)
        runs = []
        for _ in range(3 if size <= 100_000 else 1):
            said = subprocess.run([sys.executable, "-c", _ONE, str(path)], check=True, capture_output=True, text=True).stdout.split()
            runs.append(float(said[1]))
            memory = float(said[2])
        times.append(min(runs))
        print(f"         {size:9,} records: {times[-1]:7.1f} s, {memory:6.0f} MB, {said[0]} groups", flush=True)
    exponent = math.log(times[-1] / times[0]) / math.log(sizes[-1] / sizes[0])
    reached = tell(f"exponent of growth from {sizes[0]:,} to {sizes[-1]:,}", exponent, 1.15, at_most=True)
    return tell(f"memory with {sizes[-1]:,} records, GB", memory / 1024, 6, at_most=True) and reached


def main() -> None:
    """Print all."""
    begun = time.perf_counter()
    fast = "fast" in sys.argv[1:]
    reached = [beside_splink(), growth([10_000, 30_000, 100_000] if fast else [10_000, 30_000, 100_000, 300_000, 1_000_000])]
    print(f"         {time.perf_counter() - begun:.0f} s")
    sys.exit(not all(reached))


if __name__ == "__main__":
    main()
