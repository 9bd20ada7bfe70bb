"""The demo's form of appraisal, of its team's own making, and what two of them have judged by it so far."""

from __future__ import annotations

from typing import Any

from kettlesort.core.charting.appraisal import Domain, Form, Question, of_domain, tidied
from kettlesort.core.charting.rules import Rule
from kettlesort.demo.document import Document
from kettlesort.demo.papers import ALLOCATED, facts
from kettlesort.demo.team import Team
from kettlesort.work import appraisal, chart

SEEN = "Colonies were counted as alive if a laying queen and brood were seen at the first spring inspection."
FORM = tidied(
    Form(
        "Soundness of wintering studies", ("sound", "some doubt", "serious doubt"), ("yes", "partly", "no", "not stated"),
        (
            Domain(
                "wrapping", "How hives came to be wrapped",
                (
                    Question("chance", "Was it left to chance which hives were wrapped?", "Lots, a table, a computer; not every second hive."),
                    Question("alike", "Were wrapped and plain hives alike in autumn?", "In strength, food and place."),
                ),
                (Rule("chance is no", "serious doubt"), Rule("chance is yes and alike is yes, not stated", "sound")), "some doubt",
            ),
            Domain(
                "lost", "Hives lost from sight", (Question("accounted", "Are all hives of autumn accounted for in spring?"),),
                (Rule("accounted is yes", "sound"), Rule("accounted is no", "serious doubt")), "some doubt",
            ),
            Domain(
                "survival", "How survival was seen",
                (
                    Question("same", "Was survival seen in one way in all hives?"),
                    Question("unknowing", "Did whoever looked not know which hives had been wrapped?", "Hives are unwrapped by somebody else before."),
                ),
                (Rule("same is no", "serious doubt"), Rule("all yes", "sound")), "some doubt",
            ),
            Domain(
                "told", "What is told", (Question("planned", "Is everything told that the methods announce?"),),
                (Rule("planned is yes", "sound"), Rule("planned is not stated", "cannot be judged")), "some doubt",
            ),
        ),
        ("cannot be judged",), appraisers=2,
    )
)  # fmt: skip


def appraise(review: int, team: Team, truth: dict[int, Document]) -> None:
    """Nine studies judged by two, of which they judge some differently, and one is settled; two more by the first alone. A single person judges alone."""
    alone = team.lead == team.second
    appraisal.set_form(review, team.lead, FORM._replace(appraisers=1 if alone else 2), 0)
    for k, study in enumerate(chart.evidence_table(review).studies[:11]):
        report = study.reports[0]["record_id"]
        for reader in (team.lead,) if alone or k > 8 else (team.lead, team.second):
            _judge(review, reader, study.id, report, k, truth[report], other=reader == team.second and not alone)
    if not alone:
        _settle_first(review, team)


def _judge(review: int, reader: int, study: int, report: int, k: int, document: Document, *, other: bool) -> None:
    said = facts(document)
    alike = "not stated" if k % 3 else "yes" if k % 2 else "partly"
    chance = {"Randomised": "yes", "Quasi-random": "partly", "Cohort": "no"}[said.design]
    if other and said.design == "Quasi-random":
        chance = "no"  # every second hive: where two differ
    answers = {
        "wrapping": {"chance": (chance, ALLOCATED[said.design]), "alike": (alike, "")},
        "lost": {"accounted": ("yes" if k % 4 else "no", "")},
        "survival": {"same": ("yes", SEEN), "unknowing": ("no" if k % 5 else "not stated", "")},
        "told": {"planned": ("yes" if said.weighed else "not stated", "")},
    }
    for domain in FORM.domains:
        given: dict[str, dict[str, Any]] = {
            key: {"answer": word, "support": words, "none": not words, "page": "1" if words else "", "record": report if words else None}
            for key, (word, words) in answers[domain.key].items()
        }
        judgement = of_domain(FORM, domain, {key: entry["answer"] for key, entry in given.items()}).judgement
        appraisal.say(review, reader, appraisal.Said(study, domain.key, given, judgement))


def _settle_first(review: int, team: Team) -> None:
    for study in appraisal.appraised(review)[2]:
        for key, domain in study.domains.items():
            if domain.state == "differ":
                both = next(one for one in appraisal.of_study(review, team.third, study.id) if one.domain == key).others
                appraisal.settle(review, team.third, study.id, key, "", "", of=team.lead, seen=[one["id"] for one in both])
                return
