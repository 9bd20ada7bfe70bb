"""A file that no reader knows: its labels, where its records may begin, and which label is which field."""

from __future__ import annotations

import itertools
import re
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.guess import field_named, fields_by_likeness, likeness, with_full_names
from kettlesort.core.formats.people import WHOLE, People
from kettlesort.core.formats.recipe import LOOSE, MANY, NUMBER, RULE, SHAPES, Recipe, begins_record, labelled, shipped, unquoted
from kettlesort.core.formats.settle import Settling
from kettlesort.core.formats.source import CHUNK, Problem
from kettlesort.core.formats.tagged import entry_of, records_of
from kettlesort.core.names import manner_of, name_of

MOST_LINES = 6000
JUDGED_LINES = 1500
_JUDGED_RECORDS = 60
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

    Every shape of a label is tried, or only the one that is asked for, with every place where a record may begin; each
    is judged by the records that come of it.
    """
    lines = lines_of(text if len(text) < CHUNK // 4 else text.rpartition("\n")[0])  # the last line may be cut
    rough = [proposal for name in ([shape] if shape else SHAPES) if (proposal := _of_shape(name, lines))]
    rough.sort(key=lambda one: -one.score)
    judged = [_judged(proposal, lines[:JUDGED_LINES]) for proposal in rough[:5]]
    return max(judged, key=lambda one: one.score) if judged else None


def _judged(proposal: Proposal, lines: Sequence[tuple[int, str]]) -> Proposal:
    """A proposal with the beginning of records of which most comes, and how much that is, from 0 to 1."""
    best: tuple[float, Recipe, Beginning] | None = None
    for begun in proposal.beginnings[:6]:
        recipe = proposal.recipe.model_copy(update={"begin": begun.begin, "start": begun.start})
        worth = _worth(recipe, lines)
        if best is None or worth > best[0] + 0.02:
            best = worth, recipe, begun
    if best is None:
        return proposal._replace(score=_worth(proposal.recipe, lines))
    rest = tuple(begun for begun in proposal.beginnings if begun is not best[2])
    return Proposal(best[1], proposal.labels, (best[2], *rest), best[0])


def _worth(recipe: Recipe, lines: Sequence[tuple[int, str]]) -> float:
    """How much a recipe makes of a text, from 0 to 1: titles, people and years in nearly every record, the same labels in each, little left over."""
    begun = list(records_of(recipe, lines, []))[:_JUDGED_RECORDS]
    if len(begun) > 2:
        begun = begun[:-1]  # it may be cut
    if not begun:
        return 0.0
    read = [entry_of(recipe, k, one, []) for k, one in enumerate(begun, 1)]
    records = [entry.record for entry in read]
    n = len(records)
    titled = sum(8 <= len(record.title) <= 400 and len(record.title.split()) > 1 for record in records) / n
    unlike = len({record.title for record in records if record.title}) / n
    named = sum(bool(record.authors) and _is_person(record.authors[0]) for record in records) / n
    dated = sum(record.year is not None for record in records) / n
    placed = sum(bool(record.journal or record.doi or record.abstract or record.publisher) for record in records) / n
    tags = [[tag for _, tag, _ in held if tag] for held, _ in begun]
    even = _evenness(tags, recipe.end)
    last_line = begun[-1][0][-1][0]
    labelled_lines = sum(map(len, tags)) / max(1, sum(bool(text.strip()) for _, text in lines[:last_line]))
    once = sum(_never_twice([tag for tag in said if recipe.fields.get(tag) in ("title", "year")]) for said in tags) / n
    few = 0.75 if n == 1 else 1.0
    before = list(itertools.takewhile(lambda line: line[0] < begun[0][0][0][0], lines))
    lost = any(recipe.fields.get(tag) in ("title", "authors") for _, tag, _ in labelled(recipe, before))
    worth = (
        0.34 * min(titled, unlike)
        + 0.16 * named
        + 0.14 * dated
        + 0.08 * placed
        + 0.14 * even
        + 0.06 * min(1.0, labelled_lines)
        + 0.08 * once
    )
    return few * worth + (0.0 if recipe.shape in LOOSE else 0.01) - 0.05 * lost


def _never_twice(tags: Sequence[str]) -> bool:
    return len(set(tags)) == len(tags)


def _is_person(value: str) -> bool:
    return manner_of([value.removeprefix(WHOLE)]).manner.parted != "one" or name_of(value.removeprefix(WHOLE)).quality >= 0.4


def _of_shape(shape: str, lines: Sequence[tuple[int, str]]) -> Proposal | None:
    """A first proposal for a shape: its labels, their fields, and all places where records may begin."""
    values, places, sequence = _labels(shape, lines)
    if not values:
        return None
    beginnings = _beginnings(sequence, lines, set(values))
    end = beginnings[0].end if beginnings else ""
    values = {tag: [value.removesuffix(f"\n{end}") for value in said] for tag, said in values.items()} if end else values
    counts = Counter(tag for _, tag in sequence if tag)
    usual = {tag: said for tag, said in values.items() if counts[tag] >= 0.15 * max(counts.values())}
    fields = _fields_of(shape, usual)
    for tag, field in _fields_of(shape, values).items():  # of a heading, say, or of few records: what no other label is
        fields.setdefault(tag, field if field not in fields.values() else "")
    fields.pop(end, None)
    for tag in _in_a_row(sequence):  # several short values in each record are descriptors, if they are nothing else
        if not fields.get(tag) and "keywords" not in fields.values() and max(map(len, values[tag]), default=99) < 60:
            fields[tag] = "keywords"
    covered = sum(counts[tag] for tag in values) / max(1, sum(1 for _, text in lines if text.strip()))
    best = beginnings[0] if beginnings else Beginning("blank", "", "", 1, 0.0)
    recipe = Recipe(
        name="New recipe", shape=shape, begin=best.begin, start=best.start, end=end, fields=_ordered(fields, values),
        lines=tuple(field for field in ("authors", "references", "keywords") if _each_line(shape, lines, fields, field)),
    )  # fmt: skip
    labels = tuple(
        Label(tag, counts[tag], places[tag], tuple(values[tag][:5]), fields.get(tag, ""))
        for tag in sorted(values, key=lambda one: places[one])
    )
    solid = len({"title", "year", "authors", "abstract", "doi", "journal"} & set(fields.values())) / 6
    return Proposal(recipe, labels, tuple(beginnings), solid + min(1.0, covered) + (0.5 * best.evenness))


def _fields_of(shape: str, values: dict[str, list[str]]) -> dict[str, str]:
    """Which field each label fills, by its name and by what it holds."""
    bare = {tag: tag.strip("%*#~.@$!+: ") if shape == "sign" and len(tag) > 3 else tag for tag in values}
    told = fields_by_likeness({bare[tag]: said for tag, said in values.items()})
    fields = with_full_names({tag: told[bare[tag]] for tag in values}, values)
    taken = set(fields.values())
    for tag in values:  # what has a name that is known and is not taken yet
        known = _known_tag(shape, tag)
        if not fields[tag] and known and (known not in taken or known in MANY):
            fields[tag] = known
    return fields


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
    numbers = _number_line(_counted([], lines))
    seen: list[tuple[int, str, str]] = []
    for number, text in lines:
        found = pattern.match(text)
        tag = found[1].strip().rstrip(":") if found else ""
        if tag and loose and (len(tag.split()) > 5 or not re.search(r"[^\W\d]", tag)):
            tag = ""
        said = "" if RULE.match(text) or (numbers and numbers.match(text)) else text
        seen.append((number, tag, unquoted((found[2] or "").strip()) if found and tag else said))
        counts[tag] += bool(tag)
    blocks = 1 + sum(1 for (_, a), (_, b) in itertools.pairwise(lines) if not a.strip() and b.strip())
    least = 2 if sum(counts.values()) > 12 else 1
    if loose and blocks > 3:
        least = max(2, min(blocks // 8, 30))
    kept = {tag for tag, n in counts.most_common(MOST_LABELS) if n >= least or (field_named(tag) and shape != "heading")}
    if shape == "heading":
        kept = _headings(seen, counts)
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
            values[last][-1] = f"{values[last][-1]}\n{said.strip()}".strip()[:3000]
        elif not said.strip():
            last = "" if not loose else last
    return values, places, sequence


def _headings(seen: Sequence[tuple[int, str, str]], counts: Counter[str]) -> set[str]:
    """Lines that stand over values: of those that recur, in capitals or with a colon where most are, the ones nearly every record has."""
    styled = [{tag for tag in counts if tag and tag.isupper()}, {tag for tag in counts if tag}]
    for tags in styled:
        most = max((counts[tag] for tag in tags), default=0)
        kept = {tag for tag in tags if counts[tag] >= max(2, 0.4 * most) or (most < 4 and field_named(tag))}
        if len(kept) >= 3:
            return kept
    return set()


def _counted(sequence: Sequence[tuple[int, str]], lines: Sequence[tuple[int, str]]) -> str:
    """What a line with the number of a record looks like, with `NUMBER` for the number; "" if there are none that count on."""
    labelled_at = {number for number, tag in sequence if tag}
    found: dict[str, list[int]] = {}
    for number, text in lines:
        said = text.strip()
        if number not in labelled_at and len(said) <= 32 and (digits := re.search(r"\d{1,7}", said)):
            found.setdefault(said[: digits.start()] + NUMBER + said[digits.end() :], []).append(int(digits[0]))
    best = max(found, key=lambda one: len(found[one]), default="")
    numbers = found.get(best, [])
    return best if len(numbers) > 1 and sum(b - a == 1 for a, b in itertools.pairwise(numbers)) >= 0.9 * (len(numbers) - 1) else ""


def _number_line(looks: str) -> re.Pattern[str] | None:
    return begins_record(Recipe(name="-", shape="colon", begin="number", start=looks, fields={})) if looks else None


def _beginnings(sequence: Sequence[tuple[int, str]], lines: Sequence[tuple[int, str]], tags: set[str]) -> list[Beginning]:
    """Where records may begin, the most even first."""
    text_of = dict(lines)
    end = _end(sequence, text_of)
    counts = Counter(tag for _, tag in sequence if tag)
    candidates: list[tuple[str, str, list[list[str]]]] = []
    for tag in sorted(tags - {end}, key=lambda one: next(number for number, other in sequence if other == one))[:30]:
        if counts[tag] > 1 or len(counts) == sum(counts.values()):
            candidates.append(("tag", tag, _cut(_runs(sequence), lambda number, said, gap, tag=tag: said == tag)))
    candidates.append(("blank", "", _cut(sequence, lambda number, said, gap: bool(said) and gap, text_of)))
    if looks := _counted(sequence, lines):
        numbers = _number_line(looks)
        candidates.append(("number", looks, _cut(sequence, lambda number, said, gap: bool(numbers and numbers.match(text_of[number])))))
    if any(RULE.match(text) for _, text in lines):
        candidates.append(("rule", "", _cut(sequence, lambda number, said, gap: bool(RULE.match(text_of[number])))))
    first = next((tag for _, tag in sequence if tag), "")
    out = []
    for begin, start, records in candidates:
        records = [record for record in records if record]
        if records:
            evenness = _evenness(records, end)
            bonus = 0.03 * (begin == "tag" and start == first) + 0.05 * (begin == "number")
            out.append((evenness + bonus, Beginning(begin, start, end, len(records), round(evenness, 3))))
    out.sort(key=lambda pair: (-round(pair[0], 3), -pair[1].records))
    return [beginning for _, beginning in out[:8]]


def _runs(sequence: Sequence[tuple[int, str]]) -> list[tuple[int, str]]:
    """The labels, but of one that stands several times in a row the first only."""
    out, last = [], ""
    for number, tag in sequence:
        out.append((number, "" if tag == last else tag))
        last = tag or last
    return out


def _in_a_row(sequence: Sequence[tuple[int, str]]) -> list[str]:
    """Labels that usually stand several times in a row."""
    tags = [tag for _, tag in sequence if tag]
    runs, longer = Counter[str](), Counter[str]()
    for tag, run in itertools.groupby(tags):
        runs[tag] += 1
        longer[tag] += sum(1 for _ in run) > 1
    return [tag for tag in runs if runs[tag] > 1 and longer[tag] > 0.4 * runs[tag]]


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
    labelled_end = max((tag for tag in total if tag != first and empty[tag] == total[tag]), key=lambda tag: total[tag], default="")
    return labelled_end or _end_word(sequence, text_of, first)


def _end_word(sequence: Sequence[tuple[int, str]], text_of: dict[int, str], first: str) -> str:
    """A line of one word without a label that closes nearly every record; "" if there is none."""
    closing: Counter[str] = Counter()
    numbers = _number_line(_counted(sequence, list(text_of.items())))
    for k, (number, tag) in enumerate(sequence):
        said = text_of[number].strip()
        after = sequence[k + 1] if k + 1 < len(sequence) else None
        if (
            not tag
            and said.isalpha()
            and len(said) < 20
            and (after is None or not text_of[after[0]].strip() or after[1] == first or (numbers and numbers.match(text_of[after[0]])))
        ):
            closing[said] += 1
    begun = sum(tag == first for _, tag in sequence)
    word, n = closing.most_common(1)[0] if closing else ("", 0)
    return word if n > 1 and n >= 0.8 * begun else ""


def _evenness(records: Sequence[Sequence[str]], end: str) -> float:
    """How alike records are in their labels: the mean, over labels that most records have, of the share with it exactly once or always several times.

    A single record is not even with anything: 0.3.
    """
    if len(records) == 1:
        return 0.3
    counted = [Counter(record) for record in records]
    usual = [tag for tag in set().union(*counted) if sum(tag in one for one in counted) >= 0.5 * len(counted)]
    if not usual:
        return 0.0
    shares = []
    for tag in usual:
        once = sum(one[tag] == 1 for one in counted) / len(counted)
        present = sum(one[tag] > 0 for one in counted) / len(counted)
        several = sum(one[tag] > 1 for one in counted) / len(counted)
        shares.append(max(once, 0.9 * present if several > 0.3 and _apart(records, tag) else once))
    heads = Counter(record[0] for record in records if record)
    return sum(shares) / len(shares) * (0.7 + 0.3 * heads.most_common(1)[0][1] / len(records))


def _apart(records: Sequence[Sequence[str]], tag: str) -> bool:
    """Whether a label that occurs several times in a record stands there side by side, as those of authors do."""
    together = apart = 0
    for record in records[:200]:
        at = [k for k, word in enumerate(record) if word == tag]
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
        return likeness(more).get("authors", 0) > 0.7 and not any(";" in word for word in more[:20])
    if field == "references":
        return sum(bool(re.search(r"(?:19|20)\d\d", word)) for word in more) > 0.6 * len(more)
    return not any(";" in one or "," in one[-1:] for one in [*more, *ends][:60]) and max(map(len, more)) < 60


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
