"""Where a file comes from, as far as its records and its name say: source, kind of source, date, and of which export it is a part."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from kettlesort.core.record import Record

LOOKED_AT = 400
_NAMING = (
    "db",
    "dp",
    "database",
    "database name",
    "source database",
    "databank",
    "datenbank",
    "base de données",
    "base de datos",
    "source of record",
    "%w",
)
"""Labels and columns, in small letters, under which sources name themselves."""
_PART = re.compile(
    r"(?:[\s_.-]+|\b)(?:part|pt|teil|partie|parte|no|nr)?[\s_.-]*[(\[]?(\d{1,3})(?:[\s_.-]*(?:of|von|de|/)[\s_.-]*\d{1,3})?[)\]]?$", re.I
)
_DATE = re.compile(r"(?<!\d)((?:19|20)\d\d)[-_.]?(0[1-9]|1[0-2])(?:[-_.]?(0[1-9]|[12]\d|3[01]))?(?!\d)")
_WORDS = re.compile(
    r"\b(?:export(?:ed)?|results?|records?|citations?|references?|search|download(?:ed)?|list|data|final|new|copy|ris|nbib|bib|txt|csv)\b",
    re.I,
)
_CHASING = re.compile(r"\b(?:citation|cited|citing|forward|backward|snowball\w*|chasing)\b", re.I)


class Origin(NamedTuple):
    """``source`` and ``kind`` are proposals, "" where nothing says; ``dated`` is YYYY-MM-DD or ""; files with one ``stem`` are of one export."""

    source: str
    kind: str
    dated: str
    stem: str
    part: int


def origin_of(filename: str, records: Iterable[Record], known: Sequence[str] = ()) -> Origin:
    """The origin of a file. ``known`` are names of sources that the review has: one of them is taken where the file means it.

    >>> origin_of("agrarica-2026-02-04-part-2.ris", [])
    Origin(source='Agrarica', kind='database', dated='2026-02-04', stem='agrarica', part=2)
    """
    stem = re.sub(r"\.[A-Za-z0-9]{1,6}$", "", filename.replace("\\", "/").rpartition("/")[2])
    found = _DATE.search(stem)
    dated = "-".join(found.groups()) if found and found[3] else ""
    bare = _DATE.sub("", stem).strip(" _.-")
    part = _PART.search(bare)
    bare = bare[: part.start()].strip(" _.-(") if part and part.start() else bare
    named, kinds, seen = Counter[str](), Counter[str](), 0
    for one, _ in zip(records, range(LOOKED_AT), strict=False):
        seen += 1
        kinds[one.kind] += 1
        named.update({" ".join(value.split()) for name, value in one.extra if name.lower() in _NAMING and 1 < len(value) < 80})
    said, times = named.most_common(1)[0] if named else ("", 0)
    spoken = re.sub(r"[\s_.-]+", " ", bare)
    chased = bool(_CHASING.search(spoken))
    source = said if times > 0.5 * seen else _named(spoken)
    kind = "citation" if chased else "register" if seen and kinds["registration"] > 0.5 * seen else "database"
    for name in known:
        if _folded(name) == _folded(source) or (len(_folded(name)) > 3 and _folded(spoken).startswith(_folded(name))):
            source = name
    return Origin(source, kind, dated, _folded(bare) or stem.lower(), int(part[1]) if part and part.start() else 0)


def _named(spoken: str) -> str:
    """A source's name from what a file is called; "" where only the sort of file is."""
    words = _WORDS.sub(" ", spoken) if not _CHASING.search(spoken) else spoken
    words = " ".join(re.sub(r"\(\d+\)", " ", words).split())
    if not re.search(r"[^\W\d_]{3}", words):
        return ""
    return " ".join(
        word if any(sign.isupper() for sign in word) else word.capitalize() if k == 0 or len(word) > 3 else word
        for k, word in enumerate(words.split())
    )


def _folded(text: str) -> str:
    return re.sub(r"[\W_]+", " ", text).strip().lower()
