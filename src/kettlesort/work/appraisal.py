"""Appraisal: the team's form, what people answer and judge, where two differ, and what stands of each study."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort.core.charting import appraisal as core
from kettlesort.core.charting.appraisal import Domain, Form, NotAForm, Question
from kettlesort.core.charting.appraisal_picture import Judged
from kettlesort.core.charting.rules import Proposed, Rule
from kettlesort.store import appraisal as store
from kettlesort.store import chart as charts
from kettlesort.store.appraisal import Appraisal, AppraisalForm
from kettlesort.store.base import Row, snapshot
from kettlesort.store.chart import Study
from kettlesort.work.change import changing
from kettlesort.work.errors import Conflict, Invalid, NotAllowed, NotFound
from kettlesort.work.late import in_words
from kettlesort.work.studies import by_study, label_of, labels


def form_of(content: Mapping[str, Any]) -> Form:
    """A form from data, as it is kept and as it goes over the wire. Raises Invalid where it makes no sense."""
    domains = tuple(
        Domain(
            each["key"], each["name"], tuple(Question(**one) for one in each["questions"]), tuple(Rule(**one) for one in each["rules"]), each["otherwise"], each["help"],
        )
        for each in content["domains"]
    )  # fmt: skip
    return Form(
        content["name"], tuple(content["judgements"]), tuple(content["answers"]), domains, tuple(content["apart"]), tuple(Rule(**each) for each in content["overall"]),
        content["otherwise"], content["whole"], content["appraisers"], content["settling"],
    )  # fmt: skip


def as_data(form: Form) -> dict[str, Any]:
    """A form as data."""
    out = form._asdict()
    out["domains"] = [
        {**domain._asdict(), "questions": [one._asdict() for one in domain.questions], "rules": [one._asdict() for one in domain.rules]}
        for domain in form.domains
    ]
    out["overall"] = [each._asdict() for each in form.overall]
    return {name: list(value) if isinstance(value, tuple) else value for name, value in out.items()}


def form_in(db: Session, review: int) -> tuple[Form, int]:
    """The form that holds, and the number of its version; an empty one before the first."""
    found = store.latest_form(db, review)
    return (form_of(found.content), found.number) if found else (Form(), 0)


def form(review: int) -> tuple[Form, int]:
    """The form that holds, and the number of its version."""
    with snapshot() as db:
        return form_in(db, review)


class Touched(NamedTuple):
    """What another form does: judgements whose word it does not have any more, and those of domains that go."""

    unfit: int
    gone: int


def preview(review: int, said: Form) -> Touched:
    """What another form would do to the judgements there are."""
    wanted = _tidied(said)
    with snapshot() as db:
        return _touched(db, review, wanted)


def _touched(db: Session, review: int, wanted: Form) -> Touched:
    now, _ = form_in(db, review)
    mine = [row for row in store.said(db, review) if row["judgement"] in now.words and row["domain"] in {one.key for one in now.domains}]
    keys = {domain.key for domain in wanted.domains}
    return Touched(
        sum(row["domain"] in keys and row["judgement"] not in wanted.words for row in mine), sum(row["domain"] not in keys for row in mine)
    )


def _tidied(said: Form) -> Form:
    try:
        return core.tidied(said)
    except NotAForm as error:
        raise Invalid(str(error), field="form") from error


def set_form(review: int, account: int, said: Form, seen: int, *, agreed: bool = False) -> int:
    """Keep another version of the form, made from the version ``seen``; its number. Where it touches judgements, it has to be ``agreed`` to: they stay,
    out of sight or marked as not fitting, and come back with their words."""
    wanted = _tidied(said)
    with changing(review, account, "chart") as change:
        now, number = form_in(change.db, review)
        if number != seen:
            raise Conflict("Somebody else changed the form meanwhile. Copy what you need of yours, and load the page again.")
        if wanted == now:
            return number
        touched = _touched(change.db, review, wanted)
        if any(touched) and not agreed:
            raise Conflict("This change touches judgements. Look at what becomes of them, and save again.", look=True)
        change.db.add(AppraisalForm(review_id=review, number=number + 1, content=as_data(wanted), account_id=account))
        change.event("chart.appraisal_form", wanted.name, number, number + 1)
        return number + 1


def as_toml(review: int) -> str:
    """The form as a file."""
    return core.write_toml(form(review)[0])


def from_toml(text: str) -> Form:
    """A form from a file, to be looked at before it is kept."""
    try:
        return core.read_toml(text)
    except NotAForm as error:
        raise Invalid(str(error), field="file") from error


class Standing(NamedTuple):
    """Where a domain of a study stands for somebody. ``state``: "" (nobody judged it), "draft" and "mine" (they answered, or judged it, and it does not stand
    yet), "stands", "differ", "settled", "unfit" (by a word that the form does not have any more). ``judgement``: what stands, or what they said."""

    state: str
    judgement: str


class Of(NamedTuple):
    """What is said of one domain of one study."""

    said: list[Row]
    settled: Row | None

    @property
    def judged(self) -> list[Row]:
        """What people judged, who came first at first."""
        return [row for row in self.said if row["judgement"]]

    def holds(self, form: Form) -> Row | None:
        """What stands for all: what was settled, what both judged the same, or, with one appraiser, what was judged last."""
        if self.settled:
            return self.settled
        if form.appraisers == 1:
            return max(self.judged, key=lambda pair: int(pair["id"]), default=None)
        some = self.judged[:2]
        return some[0] if len(some) == 2 and some[0]["judgement"] == some[1]["judgement"] else None

    def mine(self, form: Form, account: int) -> Row | None:
        """What somebody goes on from: their own answers or, with one appraiser, those of whoever wrote last."""
        if form.appraisers == 1:
            return max(self.said, key=lambda pair: int(pair["id"]), default=None)
        return next((row for row in self.said if row["account_id"] == account), None)

    def standing(self, form: Form, account: int) -> Standing:
        """Where it stands for somebody."""
        held, mine = self.holds(form), self.mine(form, account)
        if held:
            unfit = held["judgement"] not in form.words
            return Standing("unfit" if unfit else "settled" if held["settles"] else "stands", held["judgement"])
        if len(self.judged) >= 2 and form.appraisers == 2:
            return Standing("differ", mine["judgement"] if mine else "")
        if mine and (mine["judgement"] or mine["answers"]):
            return Standing("mine" if mine["judgement"] else "draft", mine["judgement"])
        return Standing("", "")

    def seen_by(self, form: Form, account: int) -> list[Row]:
        """What others judged, as far as somebody may know it: once two have, or where one appraises."""
        open_ = form.appraisers == 1 or len(self.judged) >= 2
        return [row for row in self.judged if open_ and row["account_id"] != account]


def _of(rows: Sequence[Row]) -> dict[tuple[int, str], Of]:
    out: dict[tuple[int, str], Of] = {}
    for row in rows:
        at = (row["study_id"], row["domain"])
        held = out.setdefault(at, Of([], None))
        if not row["settles"]:
            held.said.append(row)
        elif not held.settled or row["id"] > held.settled["id"]:
            out[at] = held._replace(settled=row)
    return {
        at: domain._replace(settled=domain.settled if domain.settled and domain.settled["judgement"] else None)
        for at, domain in out.items()
    }


class Appraised(NamedTuple):
    """A study: where its domains stand for somebody, by key, and the judgement of the whole with why."""

    id: int
    label: str
    domains: dict[str, Standing]
    whole: Proposed


def appraised(review: int, account: int = 0) -> tuple[Form, int, list[Appraised]]:
    """The form with its version, and every included study as it stands for somebody."""
    with snapshot() as db:
        return appraised_in(db, review, account)


def appraised_in(db: Session, review: int, account: int = 0) -> tuple[Form, int, list[Appraised]]:
    """The same within a transaction."""
    held, number = form_in(db, review)
    grouped = by_study(charts.reports(db, review))
    of = _of(store.said(db, review))
    named = labels(grouped)
    out = []
    for study in sorted(grouped, key=lambda each: (named[each].casefold(), each)):
        domains = {domain.key: of.get((study, domain.key), Of([], None)) for domain in held.domains}
        stands = {key: row["judgement"] for key, one in domains.items() if (row := one.holds(held)) and row["judgement"] in held.words}
        out.append(
            Appraised(
                study, named[study], {key: domain.standing(held, account) for key, domain in domains.items()}, core.of_whole(held, stands)
            )
        )
    return held, number, out


def judged(review: int) -> tuple[Form, list[Judged]]:
    """What stands, for a drawing."""
    held, _, studies = appraised(review)
    return held, [
        Judged(
            study.label,
            {key: one.judgement for key, one in study.domains.items() if one.state in ("stands", "settled")},
            study.whole.judgement,
            str(study.id),
        )
        for study in studies
    ]


class DomainOf(NamedTuple):
    """A domain of a study for somebody: what they said, what others did as far as they may know, what stands, and what the team's rules propose."""

    domain: str
    mine: Row | None
    others: list[Row]
    stands: Row | None
    state: str
    proposed: Proposed


def of_study(review: int, account: int, study: int) -> list[DomainOf]:
    """All domains of a study."""
    with snapshot() as db:
        _known(db, review, study)
        held, _ = form_in(db, review)
        of = _of(store.said(db, review, study))
    return [_domain_of(held, domain, of.get((study, domain.key), Of([], None)), account) for domain in held.domains]


def _known(db: Session, review: int, study: int) -> None:
    found = db.get(Study, study)
    if found is None or found.review_id != review:
        raise NotFound("There is no such study in this review.")


def _domain_of(held: Form, domain: Domain, of: Of, account: int) -> DomainOf:
    mine = of.mine(held, account)
    given = {key: one["answer"] for key, one in (mine["answers"] if mine else {}).items()}
    return DomainOf(
        domain.key, mine, of.seen_by(held, account), of.holds(held), of.standing(held, account).state, core.of_domain(held, domain, given)
    )


class Said(NamedTuple):
    """What somebody says of a domain: answers by the key of their question, each with ``answer``, its ``support`` (or that there is ``none``), ``page`` and
    ``record``; a judgement, or "" as long as there is none, with the reason where it is not the proposed one. ``seen`` is the row that they went on from."""

    study: int
    domain: str
    answers: Mapping[str, Mapping[str, Any]]
    judgement: str = ""
    reason: str = ""
    seen: int | None = None


def say(review: int, account: int, said: Said) -> DomainOf:
    """Keep what somebody says of a domain of a study; how it stands then."""
    with changing(review, account, "chart") as change:
        _known(change.db, review, said.study)
        held, domain = _domain(change.db, review, said.domain)
        of = _of(store.said(change.db, review, said.study)).get((said.study, said.domain), Of([], None))
        mine = of.mine(held, account)
        if (mine["id"] if mine else None) != said.seen:
            raise Conflict(
                f"{mine['by'] if mine else 'Somebody'} wrote here meanwhile: {in_words(mine['judgement'] if mine else '')}. Look at it, and go on from there."
            )
        others = [one["by"] for one in of.judged if one["account_id"] != account]
        if held.appraisers == 2 and len(others) >= 2:
            raise NotAllowed(f"{' and '.join(others[:2])} have judged this; what they judge differently is settled.")
        if of.settled:
            raise Conflict("This is settled. Take that back first.")
        answers = _answers(held, domain, said.answers)
        reason = said.reason.strip()
        _check(held, domain, answers, said.judgement, reason)
        change.db.add(
            Appraisal(
                review_id=review, study_id=said.study, domain=said.domain, answers=answers, judgement=said.judgement, reason=reason, account_id=account
            )
        )  # fmt: skip
        change.db.flush()
        if said.judgement and said.judgement != (mine["judgement"] if mine else ""):
            blind = held.appraisers == 2  # what was judged is the appraiser's own until both have
            change.event("chart.judged", f"{label_of(change.db, said.study)}: {domain.name}", None, None if blind else said.judgement)
        now = _of(store.said(change.db, review, said.study))[said.study, said.domain]
        return _domain_of(held, domain, now, account)


def _domain(db: Session, review: int, key: str) -> tuple[Form, Domain]:
    held, _ = form_in(db, review)
    domain = next((one for one in held.domains if one.key == key), None)
    if domain is None:
        raise NotFound("The form has changed meanwhile; load the page again.")
    return held, domain


def _answers(held: Form, domain: Domain, given: Mapping[str, Mapping[str, Any]]) -> dict[str, Any]:
    """Answers as they are kept; those that are not given are left out. Raises Invalid for one without its support."""
    questions = {question.key: question for question in domain.questions}
    out = {}
    for key, entry in given.items():
        if key not in questions:
            raise NotFound("The form has changed meanwhile; load the page again.")
        answer, support, none = entry["answer"], str(entry.get("support") or "").strip(), bool(entry.get("none"))
        if not answer:
            continue
        if answer not in held.answers:
            raise Invalid(f"“{answer}” is none of the answers: {', '.join(held.answers)}.", field=key)
        if not support and not none:
            raise Invalid(f"What supports “{answer}”? Mark the words in the report, or say that there are none.", field=key)
        out[key] = {
            "answer": answer, "support": support, "none": none and not support, "page": str(entry.get("page") or "")[:40], "record": entry.get("record")
        }  # fmt: skip
    return out


def _check(held: Form, domain: Domain, answers: Mapping[str, Any], judgement: str, reason: str) -> None:
    if not judgement:
        return
    if judgement not in held.words:
        raise Invalid(f"“{judgement}” is none of the judgements: {', '.join(held.words)}.", field="judgement")
    proposed = core.of_domain(held, domain, {key: answer["answer"] for key, answer in answers.items()})
    if judgement != proposed.judgement and not reason:
        said = f"the team’s rule says “{proposed.judgement}”" if proposed.judgement else "no rule leads to it"
        raise Invalid(f"Say why it is “{judgement}”: {said}.", field="reason")


def settle(review: int, account: int, study: int, domain: str, judgement: str, reason: str, *, of: int | None, seen: Sequence[int]) -> None:
    """Say what stands where two judged differently: what one of them did (``of``, by account), or another judgement with its reason. ``seen``: the two rows."""
    with changing(review, account, "chart") as change:
        _known(change.db, review, study)
        held, known = _domain(change.db, review, domain)
        found = _of(store.said(change.db, review, study)).get((study, domain), Of([], None))
        both = found.judged[:2]
        if len(both) < 2 or held.appraisers != 2:
            raise NotFound("There are no two judgements of this domain.")
        if [int(one["id"]) for one in both] != list(seen):
            raise Conflict("What was judged has changed meanwhile. Look again.")
        _may_settle(held, found, account)
        base = next((one for one in both if one["account_id"] == of), None)
        if of is not None and base is None:
            raise NotFound("This person has not judged this domain.")
        stands = base["judgement"] if base else judgement
        if stands not in held.words:
            raise Invalid(f"“{stands}” is none of the judgements: {', '.join(held.words)}.", field="judgement")
        why = reason.strip() or (base["reason"] if base else "")
        if base is None and not why:
            raise Invalid("Say why, as neither of the two judged so.", field="reason")
        change.db.add(
            Appraisal(
                review_id=review, study_id=study, domain=domain, answers=dict((base or both[0])["answers"]), judgement=stands, reason=why, settles=True,
                account_id=account,
            )
        )  # fmt: skip
        change.event(
            "chart.judgement_settled", f"{label_of(change.db, study)}: {known.name}", " / ".join(one["judgement"] for one in both), stands
        )


def _may_settle(held: Form, found: Of, account: int) -> None:
    if held.settling == "third" and account in {one["account_id"] for one in found.judged}:
        raise NotAllowed("You have judged this yourself; a third person settles it.")


def reopen(review: int, account: int, study: int, domain: str) -> None:
    """Take back how a domain was settled."""
    with changing(review, account, "chart") as change:
        _known(change.db, review, study)
        held, known = _domain(change.db, review, domain)
        found = _of(store.said(change.db, review, study)).get((study, domain), Of([], None))
        if not found.settled:
            raise Conflict("This is not settled any more; look again.")
        _may_settle(held, found, account)
        # who settled it says that nothing is settled by them: what holds is what came last
        change.db.add(
            Appraisal(review_id=review, study_id=study, domain=domain, judgement="", settles=True, account_id=found.settled["account_id"])
        )
        change.event("chart.judgement_settled_back", f"{label_of(change.db, study)}: {known.name}", found.settled["judgement"], None)


def rows(review: int) -> list[list[str]]:
    """All that stands, a row for each answer and each judgement, for CSV."""
    with snapshot() as db:
        held, _ = form_in(db, review)
        grouped = by_study(charts.reports(db, review))
        of = _of(store.said(db, review))
    named = labels(grouped)
    out = [["study", "domain", "question", "answer", "support", "page", "judgement", "reason", "by", "settled"]]
    for study in sorted(grouped, key=lambda one: (named[one].casefold(), one)):
        stands = {}
        for domain in held.domains:
            found = of.get((study, domain.key))
            held_row = found.holds(held) if found else None
            if held_row is None or held_row["judgement"] not in held.words:
                continue
            stands[domain.key] = held_row["judgement"]
            for question in domain.questions:
                get = held_row["answers"].get(question.key)
                if get:
                    out.append(
                        [named[study], domain.name, question.text, get["answer"], get["support"], get["page"], "", "", held_row["by"], ""]
                    )
            out.append([
                named[study], domain.name, "", "", "", "", held_row["judgement"], held_row["reason"], held_row["by"], "yes" if held_row["settles"] else ""
            ])  # fmt: skip
        whole = core.of_whole(held, stands)
        if whole.judgement:
            out.append([named[study], "", "", "", "", "", whole.judgement, whole.because, "", ""])
    return out
