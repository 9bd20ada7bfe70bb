"""Lists of records and of copies: which rows a figure counts, and filters on them.

Every figure of the ribbon and the flow diagram has a list key; `where` turns a key and
a filter into conditions, so that a figure and the list that it opens cannot disagree.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from sqlmodel import Session

from kettlesort.core.languages import language_named, spellings_of
from kettlesort.core.record import Record
from kettlesort.core.screening.lists import COPIES, named_by_some, read_by_two
from kettlesort.store.base import Row
from kettlesort.store.sql import row, rows, scalar

_OBTAINED = "s.first = 'include' AND s.fulltext = 'obtained'"
_IN_PLAY = "s.first NOT IN ('exclude', 'aside')"
_SHORT_NAME = r"^[^,]*,\s*(([[:alpha:]]|[[:upper:]]{1,3})([\s.\-]+|$))+$"
"""A name with initials in place of given names, as PostgreSQL sees it."""
RECORD_LISTS = {
    "all": "TRUE",
    "in_play": _IN_PLAY,
    "short_names": f"{_IN_PLAY} AND (cardinality(r.authors) = 0 OR EXISTS (SELECT 1 FROM unnest(r.authors) a WHERE a ~ '{_SHORT_NAME}' OR a ILIKE '%et al%'))",
    "open": "s.first IN ('open', 'unsure', 'differs')",
    "to_read": "s.first IN ('open', 'unsure')",
    "unsure": "s.first = 'unsure'",
    "differs": "s.first = 'differs'",
    "decided": "s.first IN ('include', 'exclude')",
    "excluded": "s.first = 'exclude'",
    "aside": "s.first = 'aside'",
    "automated": "s.first = 'aside' AND NOT (SELECT n.by_hand FROM narrowing n WHERE n.id = s.narrowing_id)",
    "removed": "s.first = 'aside' AND (SELECT n.by_hand FROM narrowing n WHERE n.id = s.narrowing_id)",
    "screened": "s.first <> 'aside'",
    "sought": "s.first = 'include'",
    "waiting": "s.first = 'include' AND s.fulltext = 'sought'",
    "missing": "s.first = 'include' AND s.fulltext = 'missing'",
    "assessed": _OBTAINED,
    "second_open": f"{_OBTAINED} AND s.second IN ('open', 'unsure', 'differs')",
    "second_to_read": f"{_OBTAINED} AND s.second IN ('open', 'unsure')",
    "second_differs": f"{_OBTAINED} AND s.second = 'differs'",
    "second_unsure": f"{_OBTAINED} AND s.second = 'unsure'",
    "reports_excluded": f"{_OBTAINED} AND s.second = 'exclude'",
    "included": f"{_OBTAINED} AND s.second = 'include'",
    "studies": f"{_OBTAINED} AND s.second = 'include'",
    "seeds": "s.seed",
    "not_seeds": "NOT s.seed",
}
KEYED_LISTS = ("narrowed", "label", "new", "group")
MAIN_KINDS = "('database', 'register')"


@dataclass(frozen=True)
class Wanted:
    """What a person asked to see. Empty fields do not narrow."""

    list: str = "all"
    source: str = ""
    year_from: int | None = None
    year_to: int | None = None
    abstract: bool | None = None
    words: str = ""
    verdict: str = ""
    criterion: int | None = None
    pass_number: int = 1
    query: str = ""
    typed: str = ""
    label: int | None = None
    kind: str = ""
    language: str = ""
    doi: bool | None = None
    pdf: bool | None = None
    """Whether a full text is attached."""
    descriptor: str = ""
    """A descriptor, or one with a qualifier after a slash."""
    shared: int | None = None
    """At least so many descriptors in common with the seeds."""
    shared_qualified: int | None = None
    """At least so many of them with the same qualifier."""
    person: int | None = None
    """Whoever decided in the pass, as far as the viewer may know."""
    chosen: tuple[int, ...] = ()
    """Records that were picked one by one."""
    order: int = 0
    """Another order than that by closeness."""
    found: tuple[int, ...] | None = None
    """The records that ``query`` and ``typed`` find, for whoever lists them."""

    @property
    def of_copies(self) -> bool:
        """Whether the list is one of copies, not of records."""
        return self.list.partition(":")[0] in COPIES


_QUALIFIED = "lower(btrim(split_part({0}, '/', 1), ' *')) || '/' || lower(btrim(q, ' *'))"
_QUALIFIERS = "unnest((string_to_array({0}, '/'))[2:]) q"
"""A source writes Bees/physiology, *Bees / physiology/genetics: what stands before the first slash is the descriptor, each part after it a qualifier.

``descriptors`` of a record or copy are those of its keywords, each once, in small letters."""
_OF_SEEDS = "standing z JOIN record y ON y.id = z.record_id CROSS JOIN unnest(y.{of}) w{more} WHERE z.review_id = :review AND z.seed"
_SHARED = (
    f"(SELECT count(*) FROM unnest(r.descriptors) k WHERE k IN (SELECT w FROM {_OF_SEEDS.format(of='descriptors', more='')})) >= :shared"
)
_SHARED_QUALIFIED = f"""(SELECT count(DISTINCT {_QUALIFIED.format("k")}) FROM unnest(r.keywords) k CROSS JOIN {_QUALIFIERS.format("k")} WHERE {_QUALIFIED.format("k")}
    IN (SELECT {_QUALIFIED.format("w")} FROM {_OF_SEEDS.format(of="keywords", more=f" CROSS JOIN {_QUALIFIERS.format('w')}")})) >= :shared_qualified"""


def _words(text: str, alias: str, values: dict[str, Any]) -> list[str]:
    """Each word must occur in title, abstract, authors or descriptors; one that begins with - must not."""
    conditions = []
    for number, word in enumerate(text.split()[:12]):
        absent = word.startswith("-") and len(word) > 1
        values[f"word{number}"] = "%" + word.lstrip("-").replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
        searched = f"concat_ws(' ', {alias}.title, {alias}.abstract, array_to_string({alias}.authors, ' '), array_to_string({alias}.keywords, ' '), {alias}.doi, {alias}.accession)"
        conditions.append(f"{searched} {'NOT ILIKE' if absent else 'ILIKE'} :word{number}")
    return conditions


def _content(wanted: Wanted, values: dict[str, Any]) -> list[str]:
    """Conditions on what ``r``, a record or a copy, says: year, abstract, words."""
    conditions = _words(wanted.words, "r", values)
    if wanted.year_from is not None:
        values["year_from"] = wanted.year_from
        conditions.append("r.year >= :year_from")
    if wanted.year_to is not None:
        values["year_to"] = wanted.year_to
        conditions.append("r.year <= :year_to")
    if wanted.abstract is not None:
        conditions.append("r.abstract <> ''" if wanted.abstract else "r.abstract = ''")
    if wanted.doi is not None:
        conditions.append("r.doi <> ''" if wanted.doi else "r.doi = ''")
    if wanted.kind:
        values["kind"] = wanted.kind
        conditions.append("r.kind = :kind")
    if wanted.descriptor:
        name, qualifier = (part.strip(" *") for part in wanted.descriptor.lower().partition("/")[::2])
        values["descriptor"] = f"{name}/{qualifier}" if qualifier else name
        conditions.append(
            f"EXISTS (SELECT 1 FROM unnest(r.keywords) k CROSS JOIN {_QUALIFIERS.format('k')} WHERE {_QUALIFIED.format('k')} = :descriptor)"
            if qualifier
            else ":descriptor = ANY(r.descriptors)"
        )
    if wanted.shared:
        values["shared"] = wanted.shared
        conditions.append(_SHARED)
    if wanted.shared_qualified:
        values["shared_qualified"] = wanted.shared_qualified
        conditions.append(_SHARED_QUALIFIED)
    if wanted.language == "-":
        conditions.append("r.language = ''")
    elif wanted.language:
        values["languages"] = spellings_of(language_named(wanted.language))
        conditions.append("lower(r.language) = ANY(CAST(:languages AS text[]))")
    return conditions


_HAS_PDF = "EXISTS (SELECT 1 FROM placement p JOIN full_text t ON t.copy_id = p.copy_id WHERE p.record_id = s.record_id AND t.sha256 IS NOT NULL AND t.taken_off_at IS NULL)"
_DECIDED_BY = """EXISTS (SELECT 1 FROM placement p JOIN seen_verdict v ON v.copy_id = p.copy_id
    WHERE p.record_id = s.record_id AND v.pass_number = :pass_number AND v.account_id = :person AND v.withdrawn_at IS NULL)"""
_LABELLED = "EXISTS (SELECT 1 FROM placement p JOIN seen_labelled d ON d.copy_id = p.copy_id WHERE p.record_id = r.id AND d.label_id = :{})"


_SAID_BY = """(SELECT v.verdict || CASE WHEN :{0}_said LIKE '%/%' THEN '/' || coalesce(v.criterion_id, 0) ELSE '' END FROM placement p
    JOIN seen_verdict v ON v.copy_id = p.copy_id WHERE p.record_id = s.record_id AND v.pass_number = :of_pass AND v.account_id = :{0} AND v.withdrawn_at IS NULL
    AND NOT v.settles ORDER BY v.id DESC LIMIT 1) = :{0}_said"""
_SHARED_OUT = """(:sharing = 0 OR EXISTS (SELECT 1 FROM placement o JOIN allotment t ON t.copy_id = o.copy_id
    WHERE o.record_id = s.record_id AND t.sharing_id = :sharing))"""


def _read_by_two(key: str, values: dict[str, Any]) -> str:
    """Records that two people read independently, and what each said."""
    read = read_by_two(key)
    values |= {
        "of_pass": read.pass_number, "one": read.one, "one_said": read.said, "other": read.other, "other_said": read.other_said, "sharing": read.sharing,
    }  # fmt: skip
    blind = "s.first_blind" if read.pass_number == 1 else "s.second_blind"
    return f"NOT {blind} AND {_SAID_BY.format('one')} AND {_SAID_BY.format('other')} AND {_SHARED_OUT}"


_NAMED = {
    "any": "bool_or(w.named)",
    "all": "bool_and(w.named)",
    "other": "bool_or(w.named) AND NOT bool_and(w.named) AND bool_and(w.verdict = 'exclude')",
    "none": "bool_or(w.named) AND NOT bool_and(w.verdict = 'exclude')",
}


def _named_by_some(key: str, values: dict[str, Any]) -> str:
    """Records that several people read independently, by how they named a criterion."""
    read = named_by_some(key)
    values |= {"of_pass": read.pass_number, "named": read.criterion, "sharing": read.sharing}
    blind = "s.first_blind" if read.pass_number == 1 else "s.second_blind"
    return f"""NOT {blind} AND EXISTS (SELECT 1 FROM (
        SELECT DISTINCT ON (v.account_id) v.verdict, v.verdict = 'exclude' AND coalesce(v.criterion_id = :named, false) AS named
        FROM placement p JOIN seen_verdict v ON v.copy_id = p.copy_id WHERE p.record_id = s.record_id AND v.pass_number = :of_pass
        AND v.withdrawn_at IS NULL AND NOT v.settles ORDER BY v.account_id, v.id DESC) w HAVING count(*) > 1 AND {_NAMED[read.how]}) AND {_SHARED_OUT}"""


def where(wanted: Wanted, values: dict[str, Any]) -> str:
    """SQL conditions on ``r`` (record) and ``s`` (standing); their values are added to ``values``. KeyError for an unknown list."""
    key, _, rest = wanted.list.partition(":")
    conditions = ["s.review_id = :review"]
    if key == "reason":
        name, _, route = rest.rpartition(":") if rest.endswith((":main", ":other")) else (rest, "", "")
        values["reason"] = name
        conditions.append(
            f"{_OBTAINED} AND s.second = 'exclude' AND (SELECT c.name FROM criterion c WHERE c.id = s.second_criterion) = :reason"
        )
        rest = route
    elif key == "read":
        conditions.append(_read_by_two(rest, values))
    elif key == "named":
        conditions.append(_named_by_some(rest, values))
    elif key in KEYED_LISTS:
        values["key"] = int(rest)
        conditions.append(
            {
                "narrowed": "s.narrowing_id = :key",
                "label": _LABELLED.format("key"),
                "group": "EXISTS (SELECT 1 FROM placement p JOIN grouped g ON g.copy_id = p.copy_id WHERE p.record_id = r.id AND g.group_id = :key)",
                "new": "EXISTS (SELECT 1 FROM placement p JOIN batch b ON b.id = p.batch_id WHERE p.copy_id = r.id AND p.record_id = r.id AND b.run_id = :key)",
            }[key]
        )
    else:
        conditions.append(RECORD_LISTS[key])
    if rest in ("main", "other"):
        conditions.append("s.main" if rest == "main" else "NOT s.main")
    state = "s.first" if wanted.pass_number == 1 else "s.second"
    if wanted.verdict:
        values["verdict"] = wanted.verdict
        conditions.append(f"{state} = :verdict")
    if wanted.criterion is not None:
        values["criterion"] = wanted.criterion
        conditions.append(f"{state}_criterion = :criterion")
    if wanted.source:
        values["source"] = wanted.source
        conditions.append(
            "EXISTS (SELECT 1 FROM placement p JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id"
            " WHERE p.record_id = r.id AND q.source = :source)"
        )
    if wanted.label is not None:
        values["label"] = wanted.label
        conditions.append(_LABELLED.format("label"))
    if wanted.pdf is not None:
        conditions.append(_HAS_PDF if wanted.pdf else f"NOT {_HAS_PDF}")
    if wanted.person is not None:
        values |= {"person": wanted.person, "pass_number": wanted.pass_number}
        conditions.append(_DECIDED_BY)
    if wanted.chosen:
        values["chosen"] = list(wanted.chosen)
        conditions.append("r.id = ANY(CAST(:chosen AS bigint[]))")
    conditions += _content(wanted, values)
    conditions += _among(wanted, values, "r.id")
    return " AND ".join(conditions)


def _among(wanted: Wanted, values: dict[str, Any], column: str) -> list[str]:
    if wanted.found is None:
        return []
    values["found"] = list(wanted.found)
    return [f"{column} IN (SELECT unnest(CAST(:found AS bigint[])))"]


def _copy_where(wanted: Wanted, values: dict[str, Any]) -> str:
    key, _, rest = wanted.list.partition(":")
    conditions = ["p.review_id = :review"]
    if key == "copies":
        conditions.append("p.copy_id <> coalesce(claim.copy_id, p.record_id)")
        if rest in ("main", "other"):
            conditions.append(f"q.kind {'IN' if rest == 'main' else 'NOT IN'} {MAIN_KINDS}")
    elif key in ("source", "kind", "batch", "search", "run"):
        values["rest"] = rest if key in ("source", "kind") else int(rest or 0)
        column = {"source": "q.source", "kind": "q.kind", "batch": "p.batch_id", "search": "q.id", "run": "b.run_id"}[key]
        conditions.append(f"{column} = :rest")
    if wanted.label is not None:
        values["label"] = wanted.label
        conditions.append("EXISTS (SELECT 1 FROM seen_labelled d WHERE d.copy_id = p.copy_id AND d.label_id = :label)")
    if wanted.source:
        values["source"] = wanted.source
        conditions.append("q.source = :source")
    conditions += _content(wanted, values)
    conditions += _among(wanted, values, "p.record_id")
    return " AND ".join(conditions)


_COPIES_FROM = f"""
    FROM placement p JOIN copy r ON r.id = p.copy_id JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id
    JOIN standing s ON s.record_id = p.record_id
    LEFT JOIN LATERAL (
        SELECT p2.copy_id FROM placement p2 JOIN batch b2 ON b2.id = p2.batch_id JOIN search q2 ON q2.id = b2.search_id
        WHERE p2.record_id = p.record_id AND q2.kind IN {MAIN_KINDS} ORDER BY p2.copy_id LIMIT 1
    ) claim ON TRUE
"""
"""A record counts once: for its first copy from a database or register, or else for its first copy; the others are removed."""


def listed_copies(db: Session, review: int, wanted: Wanted, offset: int, limit: int) -> tuple[int, Sequence[Row]]:
    """How many copies there are in a list, and the rows from ``offset``, in the order of their files."""
    values: dict[str, Any] = {"review": review}
    conditions = _copy_where(wanted, values)
    total = scalar(db, f"SELECT count(*) {_COPIES_FROM} WHERE {conditions}", **values)
    page = rows(
        db,
        f"""SELECT p.record_id AS id, r.title, r.authors, r.year, r.journal, NULL::text AS mine, NULL::bigint AS rank, NULL::float AS closeness,
            s.first, s.fulltext, s.second, s.seed, r.abstract <> '' AS has_abstract, 1 AS copies, r.doi, r.kind, r.language, r.accession,
            ARRAY(SELECT DISTINCT l.name FROM seen_labelled d JOIN label l ON l.id = d.label_id WHERE d.copy_id = p.copy_id AND l.removed_at IS NULL ORDER BY l.name) AS labels,
            ARRAY[q.source] AS sources,
            q.source || ', search ' || q.number || ', ' || b.filename || ', line ' || r.line AS origin, '' AS reason
            {_COPIES_FROM} WHERE {conditions} ORDER BY q.number, p.batch_id, r.position LIMIT :limit OFFSET :offset""",
        **values, limit=limit, offset=offset,
    )  # fmt: skip
    return total, page


def ids(db: Session, review: int, wanted: Wanted) -> list[int]:
    """The records of a list in no order; of a list of copies, the records that they belong to."""
    values: dict[str, Any] = {"review": review}
    if wanted.of_copies:
        conditions = _copy_where(wanted, values)
        return scalar(db, f"SELECT array_agg(DISTINCT p.record_id) {_COPIES_FROM} WHERE {conditions}", **values) or []
    conditions = where(wanted, values)
    return scalar(db, f"SELECT array_agg(s.record_id) FROM {_tables(conditions)} WHERE {conditions}", **values) or []


def _tables(conditions: str) -> str:
    """What conditions are on: records are looked at only where they ask for something of them."""
    return "standing s JOIN record r ON r.id = s.record_id" if "r." in conditions else "standing s"


def counted(db: Session, review: int, *lists: Wanted) -> list[int]:
    """How many records each of some lists holds, in one look at all of them. ValueError for a list that is narrowed by a value."""
    values: dict[str, Any] = {"review": review}
    shares = ", ".join(f"count(*) FILTER (WHERE {where(wanted, values)}) AS n{k}" for k, wanted in enumerate(lists))
    if len(values) > 1:
        raise ValueError("lists that are narrowed by values of their own are counted one by one")
    found = row(db, f"SELECT {shares} FROM {_tables(shares)} WHERE s.review_id = :review", **values)
    return [int(count) for count in found.values()] if found else [0] * len(lists)


def described(db: Session, review: int, records: Sequence[int], second: bool) -> Sequence[Row]:
    """What a list shows of these records, in the given order; ``second`` asks for the reason of the second pass.

    ``mine`` is the viewer's own verdict on a record that is read blind.
    """
    state = "second" if second else "first"
    return rows(
        db,
        f"""SELECT r.id, r.title, r.authors, r.year, r.journal, s.first, s.fulltext, s.second, s.seed,
            r.abstract <> '' AS has_abstract, (SELECT count(*) FROM placement p WHERE p.record_id = r.id) AS copies, '' AS origin, r.doi, r.kind, r.language, r.accession,
            ARRAY(SELECT DISTINCT l.name FROM placement p JOIN seen_labelled d ON d.copy_id = p.copy_id JOIN label l ON l.id = d.label_id
                WHERE p.record_id = r.id AND l.removed_at IS NULL ORDER BY l.name) AS labels,
            ARRAY(SELECT DISTINCT q.source FROM placement p JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id WHERE p.record_id = r.id ORDER BY q.source) AS sources,
            coalesce((SELECT c.name FROM criterion c WHERE c.id = s.{state}_criterion), '') AS reason,
            CASE WHEN s.{state}_blind THEN (SELECT v.verdict FROM placement p JOIN seen_verdict v ON v.copy_id = p.copy_id WHERE p.record_id = r.id
                AND v.pass_number = {2 if second else 1} AND v.withdrawn_at IS NULL ORDER BY v.id DESC LIMIT 1) END AS mine
            FROM unnest(CAST(:records AS bigint[])) WITH ORDINALITY u(id, place) JOIN record r ON r.id = u.id JOIN standing s ON s.record_id = r.id
            WHERE r.review_id = :review ORDER BY u.place""",
        review=review, records=list(records),
    )  # fmt: skip


def order_made_at(db: Session, review: int) -> Any:
    """When the latest order of a review's records was made, ``None`` if never."""
    return scalar(db, "SELECT made_at FROM ranking WHERE review_id = :review", review=review)


def order(db: Session, review: int) -> tuple[list[int], list[float]]:
    """The latest order of a review's records by closeness, and how close each is."""
    found = rows(
        db,
        """SELECT k.record_id, k.closeness FROM place k JOIN ranking o ON o.review_id = k.review_id AND o.version = k.version
        WHERE k.review_id = :review ORDER BY k.rank""",
        review=review,
    )
    return [row["record_id"] for row in found], [row["closeness"] for row in found]


_YES_NO = "SELECT CASE WHEN {column} THEN 'yes' ELSE 'no' END AS v, count(*) AS n FROM listed GROUP BY 1"
_DIVIDED = {
    "sources": "SELECT q.source AS v, count(DISTINCT l.id) AS n FROM listed l JOIN placement p ON {joined} JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id GROUP BY 1",
    "labels": "SELECT t.id || ':' || t.name AS v, count(DISTINCT l.id) AS n FROM listed l JOIN placement p ON {joined} JOIN seen_labelled d ON d.copy_id = p.copy_id JOIN label t ON t.id = d.label_id WHERE t.removed_at IS NULL GROUP BY 1",
    "kinds": "SELECT kind AS v, count(*) AS n FROM listed GROUP BY 1",
    "languages": "SELECT language AS v, count(*) AS n FROM listed GROUP BY 1",
    "years": "SELECT coalesce(year::text, '') AS v, count(*) AS n FROM listed GROUP BY 1",
    "abstract": _YES_NO.format(column="abstract"),
    "doi": _YES_NO.format(column="doi"),
    "pdf": _YES_NO.format(column="pdf"),
    "descriptors": "SELECT k AS v, count(*) AS n FROM listed l CROSS JOIN unnest(l.descriptors) k GROUP BY 1",
    "states": "SELECT state AS v, count(*) AS n FROM listed GROUP BY 1",
    "people": "SELECT a.id || ':' || a.full_name AS v, count(DISTINCT l.id) AS n FROM listed l JOIN placement p ON {joined} JOIN seen_verdict v ON v.copy_id = p.copy_id AND v.pass_number = :pass_number AND v.withdrawn_at IS NULL JOIN account a ON a.id = v.account_id GROUP BY 1",
    "reasons": "SELECT c.id || ':' || c.name AS v, count(*) AS n FROM listed l JOIN criterion c ON c.id = l.criterion GROUP BY 1",
}  # fmt: skip
_NARROWS: dict[str, dict[str, Any]] = {
    "sources": {"source": ""}, "labels": {"label": None}, "kinds": {"kind": ""}, "languages": {"language": ""}, "years": {"year_from": None, "year_to": None},
    "abstract": {"abstract": None}, "doi": {"doi": None}, "pdf": {"pdf": None}, "states": {"verdict": ""}, "people": {"person": None}, "reasons": {"criterion": None},
    "descriptors": {"descriptor": ""},
}  # fmt: skip
"""What of a filter narrows by each way of dividing, and its value when it does not."""


def values_of(db: Session, review: int, wanted: Wanted) -> dict[str, list[tuple[str, int]]]:
    """What the records or copies of a list divide into, each value with its count under all other filters.

    One statement for all ways that the filter does not narrow by: the list is worked out once; one more for each way that it does.
    """
    narrowed = [name for name, none in _NARROWS.items() if any(getattr(wanted, field) != value for field, value in none.items())]
    out = _divided(db, review, wanted, [name for name in _DIVIDED if name not in narrowed])
    for name in narrowed:
        out |= _divided(db, review, replace(wanted, **_NARROWS[name]), [name])
    return {name: out[name] for name in _DIVIDED}


def _divided(db: Session, review: int, wanted: Wanted, names: Sequence[str]) -> dict[str, list[tuple[str, int]]]:
    values: dict[str, Any] = {"review": review, "pass_number": wanted.pass_number}
    if wanted.of_copies:
        kept, joined = f"{_COPIES_FROM} WHERE {_copy_where(wanted, values)}", "p.copy_id = l.id"
    else:
        kept, joined = f"FROM standing s JOIN record r ON r.id = s.record_id WHERE {where(wanted, values)}", "p.record_id = l.id"
    state = "s.first" if wanted.pass_number == 1 else "s.second"
    chosen = f"r.id, r.kind, r.language, r.year, r.descriptors, r.abstract <> '' AS abstract, r.doi <> '' AS doi, {_HAS_PDF} AS pdf, {state} AS state, {state}_criterion AS criterion"
    ways = " UNION ALL ".join(
        f"(SELECT '{name}' AS way, d.v, d.n FROM ({_DIVIDED[name].format(joined=joined)}) d ORDER BY {'2' if name == 'years' else '3 DESC, 2'} LIMIT 200)"
        for name in names
    )
    out: dict[str, list[tuple[str, int]]] = {name: [] for name in names}
    for entry in rows(db, f"WITH listed AS MATERIALIZED (SELECT {chosen} {kept}) {ways}", **values) if names else ():
        out[entry["way"]].append((entry["v"], entry["n"]))
    return out


FIELDS = tuple(Record._fields)
COLUMNS = ", ".join(f'"{name}"' for name in FIELDS)
_TUPLES = ("authors", "keywords", "references")


def record_of(row: Row) -> Record:
    """A row of copy or record as a Record."""
    values: dict[str, Any] = {name: tuple(row[name]) if name in _TUPLES else row[name] for name in FIELDS if name != "extra"}
    return Record(**values, extra=tuple((a, b) for a, b in row["extra"]))


def all_texts(db: Session, review: int) -> Sequence[Row]:
    """Id, title, abstract and descriptors of every record, for ranking."""
    return rows(db, "SELECT id, title, abstract, keywords FROM record WHERE review_id = :review ORDER BY id", review=review)


def citations(db: Session, review: int) -> Sequence[Row]:
    """Id, DOI, references and what has no field, of every record, for telling how often each was cited."""
    return rows(db, 'SELECT id, doi, "references", extra FROM record WHERE review_id = :review ORDER BY id', review=review)


def kept(db: Session, review: int, record: int) -> Row | None:
    """A record with all its fields, and ``whose`` each of them is."""
    return row(db, f"SELECT id, whose, {COLUMNS} FROM record WHERE id = :record AND review_id = :review", record=record, review=review)


def in_short(db: Session, review: int, records: Sequence[int], *, lock: bool = False) -> Sequence[Row]:
    """Records by title, year and DOI, with whether they are seeds and what was decided first.

    With ``lock`` nobody decides on them or joins them with others until this transaction ends.
    """
    return rows(
        db,
        f"""SELECT r.id, r.title, r.year, r.doi, s.seed, s.first FROM standing s JOIN record r ON r.id = s.record_id
        WHERE s.review_id = :review AND s.record_id = ANY(CAST(:records AS bigint[])) ORDER BY s.record_id {"FOR UPDATE OF s" if lock else ""}""",
        review=review, records=list(records),
    )  # fmt: skip
