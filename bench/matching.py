"""Matching against reading the same records: `./kettle run python bench/matching.py`"""

from __future__ import annotations

from corpus import write
from kettlesort.core import formats, matching
from kettlesort.core.record import Record
from measure import FOLDER, best, tell


def main() -> None:
    path = write(FOLDER / "30k.ris", 30_000)
    records: list[Record] = []

    def read() -> None:
        records[:] = [entry.record for entry in formats.open_reading(path.open("rb"))]

    reading, match = best(read, lambda: matching.match(records), runs=3)
    tell("matching 30,000 records, times as long as reading them", match / reading, 5, at_most=True, detail=f"{match:.1f} s")


if __name__ == "__main__":
    main()
