"""Appraisal by a team: an answer needs its support, a judgement follows the team's rule or says why, two judge blind, a third settles."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import pytest

from kettlesort.core.charting.appraisal import Domain, Form, Question
from kettlesort.core.charting.rules import Rule
from kettlesort.work import appraisal, chart, people, plan, report
from kettlesort.work.appraisal import Said
from kettlesort.work.errors import Conflict, Invalid, NotAllowed, NotFound
from tests.conftest import Room

DOMAIN = Domain("wraps", "How hives came to be wrapped", (Question("lots", "By lots?"),), (Rule("lots is yes", "sound"),), "doubt")
FORM = Form("Soundness", ("sound", "doubt"), ("yes", "no"), (DOMAIN, Domain("told", "What is told")))


@dataclass
class Judging(Room):
    """A review with a form for one appraiser, and a third person."""

    third: int = 0

    @property
    def study(self) -> int:
        return chart.evidence_table(self.review).studies[0].id

    def say(
        self, account: int, answer: str = "", judgement: str = "", reason: str = "", domain: str = "wraps", **more: Any
    ) -> appraisal.DomainOf:
        answers = {"lots": {"answer": answer, "support": more.pop("support", "by lots"), "none": more.pop("none", False)}} if answer else {}
        mine = self.of(account, domain).mine
        return appraisal.say(
            self.review, account, Said(self.study, domain, answers, judgement, reason, more.get("seen", mine["id"] if mine else None))
        )

    def of(self, account: int, domain: str = "wraps") -> appraisal.DomainOf:
        return next(it for it in appraisal.of_study(self.review, account, self.study) if it.domain == domain)

    def state(self, account: int = 0, domain: str = "wraps") -> tuple[str, str]:
        it = appraisal.appraised(self.review, account)[2][0].domains[domain]
        return it.state, it.judgement

    def two(self) -> None:
        form, version = appraisal.form(self.review)
        appraisal.set_form(self.review, self.lead, form._replace(appraisers=2), version)


@pytest.fixture
def judging(room: Room) -> Judging:
    room.include("Wraps in winter")
    third = people.make_account(f"third-{room.review}", "Third", "long enough").id or 0
    plan.add_member(room.review, room.lead, f"third-{room.review}", "reviewer")
    appraisal.set_form(room.review, room.lead, FORM, 0)
    return Judging(room.review, room.lead, room.reviewer, third)


def test_an_answer_needs_its_support_and_a_judgement_its_rule_or_reason(judging: Judging) -> None:
    with pytest.raises(Invalid, match="What supports “yes”"):
        judging.say(judging.lead, "yes", support=" ")
    it = judging.say(judging.lead, "no", support="", none=True)
    assert (it.state, it.proposed.judgement) == ("draft", "doubt")
    with pytest.raises(Invalid, match="the team’s rule says “doubt”"):
        judging.say(judging.lead, "no", "sound", support="", none=True)
    judging.say(judging.lead, "no", "sound", "They were alike all the same.", support="", none=True)
    assert judging.state() == ("stands", "sound")
    with pytest.raises(Invalid, match="none of the answers"):
        judging.say(judging.lead, "perhaps")
    with pytest.raises(Invalid, match="no rule leads to it"):
        judging.say(judging.lead, judgement="sound", domain="told")
    with pytest.raises(NotFound):
        appraisal.say(judging.review, judging.lead, Said(10**9, "wraps", {}))
    with pytest.raises(NotFound):
        appraisal.say(judging.review, judging.lead, Said(judging.study, "gone", {}))


def test_with_one_appraiser_nobody_takes_back_silently_what_another_wrote(judging: Judging) -> None:
    judging.say(judging.lead, "yes", "sound")
    seen = judging.of(judging.reviewer).mine
    assert seen
    judging.say(judging.reviewer, "no", "doubt")
    with pytest.raises(Conflict, match="wrote here meanwhile"):
        judging.say(judging.lead, "yes", "sound", seen=seen["id"])
    assert judging.state() == ("stands", "doubt")


def test_two_judge_blind_and_a_third_settles(judging: Judging) -> None:
    judging.two()
    judging.say(judging.lead, "yes", "sound")
    assert judging.state(judging.lead) == ("mine", "sound")
    assert judging.state(judging.reviewer) == judging.state() == ("", "")
    assert judging.of(judging.reviewer).others == []
    assert report.history(judging.review, None, 1)[1][0]["after"] is None
    assert "sound" not in {cell for row in appraisal.rows(judging.review) for cell in row}
    judging.say(judging.reviewer, "no", "doubt")
    assert judging.state(judging.lead) == ("differ", "sound")
    seen = [it["id"] for it in judging.of(judging.third).others]
    with pytest.raises(NotAllowed, match="have judged this"):
        judging.say(judging.third, "no", "doubt")
    with pytest.raises(NotAllowed, match="a third person"):
        appraisal.settle(judging.review, judging.lead, judging.study, "wraps", "", "", of=judging.lead, seen=seen)
    with pytest.raises(Invalid, match="neither of the two"):
        appraisal.settle(judging.review, judging.third, judging.study, "wraps", "sound", "", of=None, seen=seen)
    with pytest.raises(Conflict, match="changed meanwhile"):
        appraisal.settle(judging.review, judging.third, judging.study, "wraps", "", "", of=judging.lead, seen=[seen[0], 1])
    appraisal.settle(judging.review, judging.third, judging.study, "wraps", "", "", of=judging.reviewer, seen=seen)
    assert judging.state(judging.lead) == ("settled", "doubt")
    with pytest.raises(Conflict, match="settled"):
        judging.say(judging.lead, "no", "doubt")
    appraisal.reopen(judging.review, judging.third, judging.study, "wraps")
    assert judging.state(judging.lead) == ("differ", "sound")
    judging.say(judging.lead, "no", "doubt")
    assert judging.state() == ("stands", "doubt")


def test_a_form_changes_with_open_eyes_and_loses_nothing(judging: Judging) -> None:
    judging.say(judging.lead, "yes", "sound")
    judging.say(judging.lead, judgement="doubt", reason="Half is missing.", domain="told")
    form, version = appraisal.form(judging.review)
    other = form._replace(judgements=("fine", "doubt"), domains=(DOMAIN._replace(rules=()),))
    assert appraisal.preview(judging.review, other) == (1, 1)
    with pytest.raises(Conflict, match="touches judgements"):
        appraisal.set_form(judging.review, judging.lead, other, version)
    version = appraisal.set_form(judging.review, judging.lead, other, version, agreed=True)
    assert judging.state() == ("unfit", "sound")
    with pytest.raises(Conflict, match="Somebody else changed the form"):
        appraisal.set_form(judging.review, judging.lead, form, version - 1)
    assert appraisal.set_form(judging.review, judging.lead, other, version) == version, "the same again is no version"
    appraisal.set_form(judging.review, judging.lead, form, version, agreed=True)
    assert judging.state() == ("stands", "sound")
    assert judging.state(domain="told") == ("stands", "doubt")
    assert [row[6] for row in appraisal.rows(judging.review)[1:] if row[6]] == ["sound", "doubt", "doubt"], "two domains and the whole"
    assert appraisal.from_toml(appraisal.as_toml(judging.review)) == form
    with pytest.raises(Invalid, match="no TOML"):
        appraisal.from_toml("[[")
