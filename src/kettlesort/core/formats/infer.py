"""A file that no reader knows: its labels, where its records may begin, and which label is which field."""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.guess import field_named, fields_by_likeness, likeness
from kettlesort.core.formats.people import People
from kettlesort.core.formats.recipe import LOOSE, NUMBERED, RULE, SHAPES, Recipe, shipped
from kettlesort.core.formats.settle import Settling
from kettlesort.core.formats.source import Problem
from kettlesort.core.formats.tagged import entry_of, records_of

MOST_LINES = 6000
MOST_LABELS = 80
_SAMPLES = 60


class Label(NamedTuple):
    """A label: how many ``times`` it stands in the text, the first line with it, some of its values, and the field it is taken for."""

    tag: str
    times: int
    line: int
    samples: tuple[str, ...]
    field: str


class Beginning(NamedTuple):
    """Where a record may begin: how many records that gives, and how even they are, from 0 to 1."""

    begin: str
    start: str
    end: str
    records: int
    evenness: float


class Proposal(NamedTuple):
    """How a text may be read: the recipe thought best, its labels, and all places where a record may begin, the best first."""

    recipe: Recipe
    labels: tuple[Label, ...]
    beginnings: tuple[Beginning, ...]
    score: float


def lines_of(text: str) -> list[tuple[int, str]]:
    """The lines that are looked at, numbered from 1."""
    return list(enumerate(text.split("\n")[:MOST_LINES], 1))


def propose(text: str, shape: str | None = None) -> Proposal | None:
    """The best way to read a text as labelled lines, ``None`` if it has none that repeat.

    Every shape of a label is tried, or only the one that is asked for.
    """
    lines = lines_of(text)
    found = [it for name in ([shape] if shape else SHAPES) if (it := _of_shape(name, lines))]
    return max(found, key=lambda it: it.score) if found else None


def _of_shape(shape: str, lines: Sequence[tuple[int, str]]) -> Proposal | None:
    values, places, sequence = _labels(shape, lines)
    if not values:
        return None
    beginnings = _beginnings(sequence, lines, set(values))
    fields = fields_by_likeness(values)
    for tag in values:  # what has a name that is known and is not taken yet
        fields[tag] = fields[tag] or _known_tag(shape, tag)
    end = beginnings[0].end if beginnings else ""
    best = beginnings[0] if beginnings else Beginning("blank", "", "", 1, 0.0)
    fields = {tag: field for tag, field in fields.items() if tag != end}
    held = set(fields.values()) - {""}
    solid = (
        ("title" in held)
        + bool(held & {"year", "date"})
        + bool(held & {"authors"})
        + bool(held & {"doi", "journal", "abstract", "accession"})
    )
    counts = Counter(tag for _, tag in sequence if tag)
    covered = sum(counts[tag] for tag in values) / max(1, sum(1 for _, text in lines if text.strip()))
    recipe = Recipe(
        name="New recipe", shape=shape, begin=best.begin, start=best.start, end=end, fields=_ordered(fields, values),
        lines=tuple(field for field in ("authors", "references", "keywords") if _each_line(shape, lines, fields, field)),
    )  # fmt: skip
    labels = tuple(
        Label(tag, counts[tag], places[tag], tuple(values[tag][:5]), fields.get(tag, ""))
        for tag in sorted(values, key=lambda it: places[it])
    )
    rigid = 0.0 if shape in LOOSE else 0.15
    return Proposal(recipe, labels, tuple(beginnings), solid / 4 + 0.5 * best.evenness + 0.4 * min(1.0, covered) + rigid)


def _ordered(fields: dict[str, str], values: dict[str, list[str]]) -> dict[str, str]:
    """Labels in the order of the text, but of those for one field the fuller first."""
    order = sorted(fields, key=lambda tag: -len(values.get(tag, ())))
    return {tag: fields[tag] for tag in order}


def _known_tag(shape: str, tag: str) -> str:
    for key in ("refer",) if shape == "sign" else ("ris", "nbib") if shape in ("dash", "space") else ():
        if field := shipped()[key].fields.get(tag):
            return field
    return field_named(tag) or ""


def _labels(shape: str, lines: Sequence[tuple[int, str]]) -> tuple[dict[str, list[str]], dict[str, int], list[tuple[int, str]]]:
    """The values of each label that repeats, the first line of each, and the label of every line, "" for none."""
    pattern = SHAPES[shape]
    loose = shape in LOOSE
    counts: Counter[str] = Counter()
    seen: list[tuple[int, str, str]] = []
    for number, text in lines:
        found = pattern.match(text)
        tag = found[1].strip().rstrip(":") if found else ""
        if tag and loose and (len(tag.split()) > 4 or not re.search(r"[^\W\d]", tag)):
            tag = ""
        seen.append((number, tag, (found[2] or "").strip() if found and tag else text))
        counts[tag] += bool(tag)
    blocks = 1 + sum(1 for (_, a), (_, b) in itertools.pairwise(lines) if not a.strip() and b.strip())
    least = 2 if sum(counts.values()) > 12 else 1
    if loose and blocks > 3:
        least = max(2, min(blocks // 8, 30))
    kept = {tag for tag, n in counts.most_common(MOST_LABELS) if n >= least or field_named(tag)}
    if len(kept) < 3:
        return {}, {}, []
    values: dict[str, list[str]] = {}
    places: dict[str, int] = {}
    sequence: list[tuple[int, str]] = []
    last = ""
    for number, tag, said in seen:
        tag = tag if tag in kept else ""
        sequence.append((number, tag))
        if tag:
            places.setdefault(tag, number)
            values.setdefault(tag, [])
            if len(values[tag]) < _SAMPLES:
                values[tag].append(said)
                last = tag
            else:
                last = ""
        elif last and said.strip() and values[last]:
            values[last][-1] = f"{values[last][-1]} {said.strip()}".strip()[:3000]
        elif not said.strip():
            last = "" if not loose else last
    return values, places, sequence


def _beginnings(sequence: Sequence[tuple[int, str]], lines: Sequence[tuple[int, str]], tags: set[str]) -> list[Beginning]:
    """Where records may begin, the most even first."""
    text_of = dict(lines)
    end = _end(sequence, text_of)
    counts = Counter(tag for _, tag in sequence if tag)
    candidates: list[tuple[str, str, list[list[str]]]] = []
    for tag in sorted(tags - {end}, key=lambda it: next(number for number, other in sequence if other == it))[:30]:
        if counts[tag] > 1 or len(counts) == sum(counts.values()):
            candidates.append(("tag", tag, _cut(sequence, lambda number, said, gap, tag=tag: said == tag)))
    candidates.append(("blank", "", _cut(sequence, lambda number, said, gap: bool(said) and gap, text_of)))
    if any(NUMBERED.match(text) and text.strip() for _, text in lines):
        candidates.append(
            (
                "number",
                "",
                _cut(sequence, lambda number, said, gap: bool(text_of[number].strip()) and bool(NUMBERED.match(text_of[number]))),
            )
        )
    if any(RULE.match(text) for _, text in lines):
        candidates.append(("rule", "", _cut(sequence, lambda number, said, gap: bool(RULE.match(text_of[number])))))
    first = next((tag for _, tag in sequence if tag), "")
    out = []
    for begin, start, records in candidates:
        records = [it for it in records if it]
        if records:
            evenness = _evenness(records, end)
            bonus = 0.03 * (begin == "tag" and start == first) + 0.05 * (begin in ("number", "rule"))
            out.append((evenness + bonus, Beginning(begin, start, end, len(records), round(evenness, 3))))
    out.sort(key=lambda it: (-round(it[0], 3), -it[1].records))
    return [it for _, it in out[:8]]


def _cut(sequence: Sequence[tuple[int, str]], begins: object, text_of: dict[int, str] | None = None) -> list[list[str]]:
    records: list[list[str]] = []
    gap, started = True, False
    for number, tag in sequence:
        if begins(number, tag, gap):  # type: ignore[operator]
            records.append([])
            started = True
        if tag and started:
            records[-1].append(tag)
        if text_of is not None:
            gap = not text_of[number].strip() or (gap and not tag)
    return records


def _end(sequence: Sequence[tuple[int, str]], text_of: dict[int, str]) -> str:
    """A label that never has a value and after which an empty line or the first label follows: the end of a record."""
    first = next((tag for _, tag in sequence if tag), "")
    empty: Counter[str] = Counter()
    total: Counter[str] = Counter()
    for k, (number, tag) in enumerate(sequence):
        if not tag:
            continue
        total[tag] += 1
        after = sequence[k + 1] if k + 1 < len(sequence) else None
        value = re.sub(r"^\W*" + re.escape(tag) + r"[\W_]*", "", text_of[number])
        if not value and (after is None or not text_of[after[0]].strip() or after[1] == first):
            empty[tag] += 1
    return max((tag for tag in total if tag != first and empty[tag] == total[tag]), key=lambda tag: total[tag], default="")


def _evenness(records: Sequence[Sequence[str]], end: str) -> float:
    """How alike records are in their labels: the mean, over labels that most records have, of the share with it exactly once or always several times.

    A single record is not even with anything: 0.3.
    """
    if len(records) == 1:
        return 0.3
    counted = [Counter(record) for record in records]
    usual = [tag for tag in set().union(*counted) if sum(tag in it for it in counted) >= 0.5 * len(counted)]
    if not usual:
        return 0.0
    shares = []
    for tag in usual:
        once = sum(it[tag] == 1 for it in counted) / len(counted)
        present = sum(it[tag] > 0 for it in counted) / len(counted)
        several = sum(it[tag] > 1 for it in counted) / len(counted)
        shares.append(max(once, 0.9 * present if several > 0.3 and _apart(records, tag) else once))
    heads = Counter(record[0] for record in records if record)
    return sum(shares) / len(shares) * (0.7 + 0.3 * heads.most_common(1)[0][1] / len(records))


def _apart(records: Sequence[Sequence[str]], tag: str) -> bool:
    """Whether a label that occurs several times in a record stands there side by side, as those of authors do."""
    together = apart = 0
    for record in records[:200]:
        at = [k for k, it in enumerate(record) if it == tag]
        together += sum(b - a <= 2 for a, b in itertools.pairwise(at))
        apart += sum(b - a > 2 for a, b in itertools.pairwise(at))
    return together >= apart


def _each_line(shape: str, lines: Sequence[tuple[int, str]], fields: dict[str, str], field: str) -> bool:
    """Whether lines that go on below a label of ``field`` are values of their own."""
    tags = {tag for tag, filled in fields.items() if filled == field}
    pattern, loose = SHAPES[shape], shape in LOOSE
    more: list[str] = []
    ends: list[str] = []
    inside, before = False, ""
    for _, text in lines:
        found = pattern.match(text)
        tag = found[1].strip().rstrip(":") if found else ""
        if tag and (not loose or tag in fields):
            inside, before = tag in tags, (found[2] or "").strip() if found else ""
        elif inside and text.strip():
            if before:
                ends.append(before)
            more.append(text.strip())
            before = text.strip()
        elif not text.strip():
            inside = False
    if len(more) < 2:
        return False
    if field == "authors":
        return likeness(more).get("authors", 0) > 0.7 and not any(";" in it for it in more[:20])
    if field == "references":
        return sum(bool(re.search(r"(?:19|20)\d\d", it)) for it in more) > 0.6 * len(more)
    return not any(";" in it or "," in it[-1:] for it in [*more, *ends][:60]) and max(map(len, more)) < 60


class Tried(NamedTuple):
    """What a recipe makes of the beginning of a text."""

    entries: tuple[Entry, ...]
    records: int
    problems: tuple[Problem, ...]


def try_recipe(recipe: Recipe, text: str, most: int = 30) -> Tried:
    """Read the beginning of a text by a recipe: the first ``most`` records, how many there are in it, what is wrong."""
    problems: list[Problem] = []
    read = (entry_of(recipe, k, begun, problems) for k, begun in enumerate(records_of(recipe, lines_of(text), problems), 1))
    entries = list(Settling(People()).over(read))
    return Tried(tuple(entries[:most]), len(entries), tuple(problems[:100]))
