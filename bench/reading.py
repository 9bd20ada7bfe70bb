"""Reading RIS against rispy and NBIB against Biopython, and a million records in constant memory.

`./kettle run python bench/reading.py [records for the memory run]`
"""

from __future__ import annotations

import sys

import rispy
from Bio import Medline

from corpus import write
from kettlesort.core import formats
from measure import FOLDER, best, peak_of, tell


def ours(path: str) -> int:
    return sum(1 for _ in formats.open_reading(open(path, "rb")))


def main() -> None:
    ris, nbib = write(FOLDER / "10k.ris", 10_000), write(FOLDER / "10k.nbib", 10_000, "nbib")
    mine, peer = best(lambda: ours(str(ris)), lambda: len(rispy.load(ris.open(encoding="utf-8"))))
    tell("reading RIS, times as fast as rispy", peer / mine, 5, at_most=False, detail=f"{mine * 100:.0f} µs a record")
    mine, peer = best(lambda: ours(str(nbib)), lambda: sum(1 for _ in Medline.parse(nbib.open(encoding="utf-8"))))
    tell("reading NBIB, times as fast as Biopython", peer / mine, 5, at_most=False, detail=f"{mine * 100:.0f} µs a record")
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 1_000_000
    path = write(FOLDER / f"{many}.ris", many)
    code = f"from kettlesort.core import formats\nprint(sum(1 for _ in formats.open_reading(open({str(path)!r}, 'rb'))))"
    tell(f"peak memory for {many:,} records, MB", peak_of(code), 300, at_most=True)


if __name__ == "__main__":
    main()
