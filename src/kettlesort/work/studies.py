"""Studies: what they are called, which reports are theirs, which arms, outcomes and time points they have for themselves."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from datetime import UTC, datetime
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort.core.charting.items import FACTORS
from kettlesort.core.charting.studies import belong_together, signs_of, study_labels
from kettlesort.core.record import Record, short_citation
from kettlesort.store import asking, codebook, proposals
from kettlesort.store import chart as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.chart import Study, StudyReport, ToldApart
from kettlesort.store.codebook import Level
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.late import Both, conflict, in_words


def by_study(reports: Sequence[Row]) -> dict[int, list[Row]]:
    """Reports by the study that they belong to."""
    out: dict[int, list[Row]] = {}
    for report in reports:
        out.setdefault(report["study_id"], []).append(report)
    return out


def labels(grouped: dict[int, list[Row]]) -> dict[int, str]:
    """What studies are called: as the team said, or by author and year of the first report, told apart where two would be the same."""
    ids = sorted(grouped)
    named = study_labels([_citation(grouped[study]) for study in ids])
    return {study: grouped[study][0]["label"] or name for study, name in zip(ids, named, strict=True)}


def labels_of(db: Session, review: int) -> dict[int, str]:
    """What the included studies of a review are called."""
    return labels(by_study(store.reports(db, review)))


def _citation(reports: Sequence[Row]) -> str:
    first = reports[0]
    return short_citation(Record(title=first["title"], authors=tuple(first["authors"]), year=first["year"]))


def label_of(db: Session, study: int) -> str:
    """What a study is called in the history."""
    found = db.get(Study, study)
    if found and found.label:
        return found.label
    reports = store.reports_of(db, study)
    return _citation(list(reports)) if reports else f"Study {study}"


def rename_study(review: int, account: int, study: int, label: str, seen: str | None = None) -> None:
    """Give a study a name of the team's own; an empty one returns to author and year. ``seen`` is the name that it had, the team's or that which was shown."""
    with changing(review, account, "chart") as change:
        found = _study(change, study)
        label = " ".join(label.split())[:120]
        if seen is not None and label != found.label and seen not in (found.label, labels_of(change.db, review).get(study)):
            both = [Both("Name", in_words(found.label), in_words(label))]
            raise conflict(change.db, review, "chart.study_renamed", "this name", both, found.label, label)
        before, found.label = found.label, label
        change.event("chart.study_renamed", f"Study {study}", before, found.label)


def _study(change: Change, study: int) -> Study:
    found = change.db.get(Study, study)
    if found is None or found.review_id != change.review:
        raise NotFound("There is no such study in this review.")
    return found


def link_report(review: int, account: int, record: int, study: int | None) -> None:
    """Say that a report belongs to another report's study, or, with ``None``, to one of its own. Values that were read from it, or, if it is the only
    report of its study, all values go with it; where the other study has a value, that one stands and the other is in its history."""
    with changing(review, account, "chart") as change:
        if study is not None:
            _study(change, study)
        there = {r["record_id"]: r["study_id"] for r in store.reports(change.db, review)}
        before = there.get(record)
        if before is None:
            raise NotFound("This report is not among the included ones.")
        if before == study:
            return
        store.unlink(change.db, record)
        if study is None:
            store.ensure_study(change.db, review, record, own=True)
            change.db.flush()
            study = {r["record_id"]: r["study_id"] for r in store.reports(change.db, review)}[record]
        else:
            change.db.add(StudyReport(copy_id=record, review_id=review, study_id=study))
        alone = sum(other == before for other in there.values()) == 1
        _move_values(change, record, before, study, whole=alone, returns=study not in there.values())
        proposals.read_anew(change.db, review, record)
        change.event("chart.report_linked", f"Record {record}", before, study)


_CELL = ("reader_id", "item_id", "arm_id", "outcome_id", "time_id")
_NOTHING = {"text": "", "quote": "", "page": "", "copy_id": None, "unfit": "", "derived": None, "how": "carried", "model": ""}


def _by_cell(values: Iterable[Row]) -> dict[tuple[Any, ...], dict[str, Any]]:
    return {tuple(value[name] for name in _CELL): dict(value) for value in values}


def _move_values(change: Change, record: int, before: int, after: int, *, whole: bool, returns: bool) -> None:
    """Values follow a report: those that were read from it, or, of a study that is left without one, all. A study that was left so, to which its report
    ``returns``, is again as it was."""
    standing = [v for v in store.values(change.db, change.review, [before, after], read=True) if v["text"]]
    mine, theirs = (_by_cell(v for v in standing if v["study_id"] == study) for study in (before, after))
    left = _by_cell(store.left_behind(change.db, after)) if returns else {}
    copies = set(store.copies_of(change.db, record))
    own = {one.id for one in codebook.levels(change.db, change.review) if one.study_id == before}
    moving = own if whole else own & {level for cell in left for level in cell[2:]}
    for number in moving:  # the arms that a study had for itself go with it
        level = change.db.get(Level, number)
        assert level is not None
        level.study_id = after

    def write(value: Mapping[str, Any], study: int, **other: Any) -> None:
        store.append_value(change.db, change.review, change.account, {**value, "study_id": study, **other})

    for cell, value in mine.items():
        levels = set(cell[2:])
        came = cell in left and value["how"] == "carried" and value["text"] == left[cell]["text"]
        follows = levels & moving or (not levels & own and (whole or value["copy_id"] in copies))
        if not came and not follows:
            continue
        if came:
            write(left.pop(cell), after)
        elif cell not in theirs or theirs[cell]["text"] != value["text"]:
            left.pop(cell, None)
            write(value, after, how="carried")
            if cell in theirs:  # which stands, with the other one in its history
                write(theirs[cell], after)
        write(value, before, **_NOTHING)
    for value in left.values():
        write(value, after)


class Pair(NamedTuple):
    """Two included reports that may be of one study, with what speaks for it; whether values are charted for both studies, so that the same participants
    may be counted twice."""

    left: Row
    right: Row
    labels: tuple[str, str]
    why: tuple[str, ...]
    both_charted: bool


def together(review: int) -> list[Pair]:
    """Pairs of included reports that may be of one study and that nobody has told apart, the likeliest first."""
    with snapshot() as db:
        reports = {report["record_id"]: report for report in store.reports(db, review)}
        texts = {text["record_id"]: " ".join(passage[0] for passage in text["passages"]) for text in asking.texts(db, review)}
        apart = store.told_apart(db, review)
    named = labels(by_study(list(reports.values())))
    signs = [
        signs_of(number, report["study_id"], report["title"], report["authors"], texts.get(number) or report["abstract"])
        for number, report in reports.items()
    ]
    found = [one for one in belong_together(signs) if (min(one.left, one.right), max(one.left, one.right)) not in apart]
    asked = {reports[number]["study_id"] for one in found for number in (one.left, one.right)}
    with snapshot() as db:
        charted = store.charted_among(db, review, asked)
    out = []
    for one in found:
        left, right = reports[one.left], reports[one.right]
        both = {left["study_id"], right["study_id"]} <= charted
        out.append(Pair(left, right, (named[left["study_id"]], named[right["study_id"]]), one.why, both))
    return out


def tell_apart(review: int, account: int, left: int, right: int, *, back: bool = False) -> None:
    """Say that two reports are of different studies, so that they are not asked again; or take that ``back``."""
    with changing(review, account, "chart") as change:
        known = {one["record_id"] for one in store.reports(change.db, review)}
        if not {left, right} <= known or left == right:
            raise NotFound("These are not two of the included reports.")
        held = store.apart_with(change.db, review, left, right)
        if bool(held) is not back:
            return
        for number in held:
            said = change.db.get(ToldApart, number)
            assert said is not None
            said.withdrawn_at = datetime.now(UTC)
        if not back:
            change.db.add(ToldApart(review_id=review, left_copy=left, right_copy=right, account_id=account))
        change.event("chart.told_apart_back" if back else "chart.told_apart", f"Records {left} and {right}")


def add_level(review: int, account: int, study: int, factor: str, name: str, words: Sequence[str] = ()) -> int:
    """Give a study an arm, an outcome or a time point that others do not have; its number."""
    name = " ".join(name.split())[:120]
    if factor not in FACTORS:
        raise Invalid("A level is an arm, an outcome or a time point.", field="factor")
    if not name:
        raise Invalid("How is it called?", field="name")
    with changing(review, account, "chart") as change:
        _study(change, study)
        present = [one for one in codebook.levels(change.db, review) if one.factor == factor and one.study_id in (None, study)]
        if any(one.name.casefold() == name.casefold() for one in present):
            raise Invalid(f"“{name}” is there already.", field="name")
        made = Level(
            review_id=review, study_id=study, factor=factor, name=name, position=len(present),
            words=[" ".join(word.split())[:120] for word in words if word.strip()][:50],
        )  # fmt: skip
        change.db.add(made)
        change.db.flush()
        change.event("chart.level_added", label_of(change.db, study), None, name)
        assert made.id is not None
        return made.id


def remove_level(review: int, account: int, level: int, *, back: bool = False) -> None:
    """Take away what a study had for itself, or bring it ``back``; its values go out of sight and come back with it."""
    with changing(review, account, "chart") as change:
        found = change.db.get(Level, level)
        if found is None or found.review_id != review or found.study_id is None:
            raise NotFound("There is no such arm, outcome or time point of a single study.")
        found.removed_at = None if back else datetime.now(UTC)
        change.event("chart.level_added" if back else "chart.level_removed", label_of(change.db, found.study_id), None, found.name)
