"""Reads the demo's files, and one of every other kind, mutated 10,000 times: no trace of Python, nothing over 5 s, memory below 500 MB.

`./kettle run python bench/fuzz_read.py [mutations] [seed]`
"""

from __future__ import annotations

import io
import random
import resource
import signal
import sys
import time
import traceback
import zipfile

from kettlesort.core import formats
from kettlesort.core.formats.infer import propose
from kettlesort.core.formats.source import TextSource
from kettlesort.core.formats.suspicion import Watch
from kettlesort.core.formats.trace import trace
from kettlesort.demo.files import FOLDER

SLOWEST, MOST_MEMORY = 5.0, 500
NASTY = [
    b"\x00", b"\xff\xfe", b"\xef\xbb\xbf", b"\r", b"\n", b"\r\n", b"\t", b'"', b"'", b"{" * 300, b"}" * 300, b"[" * 2000, b"<" * 200, b"&lol;", b"&#0;", b"@", b"=",
    b"TY  - ", b"ER  - \n", b"PMID- ", b"      ", b"%0 ", b"\\" * 80, b"$" * 80, b"]]>", b"<![CDATA[", b"<!ENTITY a 'b'>", b"10.5555/", b";" * 300, b"\xed\xa0\x80",
    "\u202e\u0000\ud7ff".encode(), b"9" * 5000, b"a" * 70_000, b"AU  - x, y\n" * 2000, b" and " * 500, b"<MedlineCitation>", b"(" * 500, b"\xc3\x28", b"PK\x03\x04",
]  # fmt: skip


def samples() -> dict[str, bytes]:
    """One file of every kind, from the demo and written from it."""
    found = {path.name: path.read_bytes() for path in sorted(FOLDER.iterdir()) if path.is_file()}
    records = [entry.record for entry in formats.open_reading(io.BytesIO(found["vitalis-index.nbib"]))][:40]
    for format in formats.WRITABLE:
        out = io.BytesIO()
        formats.write(records, format, out)
        found[f"written.{format}"] = out.getvalue()
    xml = "<?xml version='1.0'?>\n<MedlineCitationSet>" + "\n".join(
        f"<MedlineCitation><PMID>{it.accession}</PMID><Article><ArticleTitle>{k} hives</ArticleTitle></Article></MedlineCitation>"
        for k, it in enumerate(records)
    )
    found["written.xml"] = f"{xml}</MedlineCitationSet>".encode()
    found["refer.txt"] = "".join(f"%0 Journal Article\n%T {it.title}\n%D {it.year}\n\n" for it in records).encode()
    found["identifiers.txt"] = "\n".join(it.doi for it in records).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name in ("citation-chasing.ris", "written.csljson", "identifiers.txt"):
            archive.writestr(name, found[name])
    found["several.zip"] = out.getvalue()
    return found


def mutated(rng: random.Random, data: bytes, other: bytes) -> bytes:
    """A file after one to six accidents."""
    it = bytearray(
        data
        if len(data) < 60_000 or rng.random() < 0.1
        else data[(at := rng.randrange(len(data) - 50_000)) : at + 50_000]
        if rng.random() < 0.5
        else data[:50_000]
    )
    for _ in range(rng.randint(1, 6)):
        at = rng.randrange(len(it) + 1)
        sort = rng.randrange(8)
        if sort == 0 and it:
            it[at % len(it)] = rng.randrange(256)
        elif sort == 1:
            del it[at : at + rng.randint(1, 400)]
        elif sort == 2:
            it[at:at] = rng.choice(NASTY)
        elif sort == 3:
            it[at:at] = rng.randbytes(rng.randint(1, 60))
        elif sort == 4:
            del it[at:]
        elif sort == 5:
            begin = rng.randrange(len(other) + 1)
            it[at:at] = other[begin : begin + rng.randint(1, 3000)]
        elif sort == 6:
            piece = it[at : at + rng.randint(1, 200)]
            it[at:at] = piece * rng.randint(2, 60)
        else:
            it = it.replace(
                *rng.choice([(b"\n", b"\r"), (b"\n", b""), (b"  - ", b" - "), (b",", b";"), (b'"', b""), (b"{", b""), (b"=", b":")])
            )  # type: ignore[arg-type]
    return bytes(it)


def read(data: bytes) -> str:
    """Read all of it, look at it as the application does; what became of it."""
    try:
        reading = formats.open_reading(io.BytesIO(data))
    except formats.NotReadable:
        propose(TextSource(io.BytesIO(data)).sample)
        return "refused"
    watch = Watch()
    try:
        for entry in watch.over(reading):
            if entry.position <= 3:
                trace(
                    reading.format, entry.raw, entry.line, entry.record, reading.header, reading.fields, reading.recipe, reading.delimiter
                )
    except formats.NotReadable:
        return "refused"
    watch.suspicions()
    return reading.format


def main() -> None:
    times, seed = (int(sys.argv[1]) if len(sys.argv) > 1 else 10_000), int(sys.argv[2]) if len(sys.argv) > 2 else 1
    rng, files = random.Random(seed), samples()
    names, became, slowest, faults = list(files), dict[str, int](), (0.0, ""), 0
    for k in range(times):
        name, other = rng.choice(names), rng.choice(names)
        data = mutated(rng, files[name], files[other])
        signal.alarm(60)
        begun = time.perf_counter()
        try:
            what = read(data)
        except Exception:
            faults += 1
            what = "fault"
            print(f"FAULT    mutation {k} of {name}")
            traceback.print_exc()
        became[what] = became.get(what, 0) + 1
        slowest = max(slowest, (time.perf_counter() - begun, f"mutation {k} of {name}"))
    signal.alarm(0)
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"{times:,} mutations: " + ", ".join(f"{n:,} {what}" for what, n in sorted(became.items(), key=lambda it: -it[1])))
    print(f"{'reached ' if not faults else 'MISSED  '} faults: {faults} (wanted 0)")
    print(f"{'reached ' if slowest[0] <= SLOWEST else 'MISSED  '} slowest: {slowest[0]:.2f} s, {slowest[1]} (wanted ≤ {SLOWEST:g} s)")
    print(f"{'reached ' if memory <= MOST_MEMORY else 'MISSED  '} peak memory: {memory:.0f} MB (wanted ≤ {MOST_MEMORY} MB)")
    sys.exit(bool(faults) or slowest[0] > SLOWEST or memory > MOST_MEMORY)


if __name__ == "__main__":
    main()
