"""The demo's analyses."""

from __future__ import annotations

from kettlesort.demo.team import Team
from kettlesort.work import chart, pooling, summary
from kettlesort.work.pool_wording import BY_YEAR, Wording
from kettlesort.work.summary import Doubt, RowWording, SummaryWording


def pool(review: int, team: Team) -> None:
    """How many colonies survived, in groups by design and by the thickness of the wrap, how much food they used, three ways to winter at once, and what it all means."""
    evidence = chart.evidence_table(review)
    items = {one.name: one.id or 0 for one in evidence.book.items}
    arms = {one.name: one.id or 0 for one in evidence.levels if one.factor == "arm" and one.study_id is None}
    wrapped, plain = (arms["Wrapped"],), (arms["Plain"],)
    survival = pooling.keep(
        review, team.lead,
        Wording(
            "Survival of winter", "RR", items["Survived"], wrapped, plain, group=items["Design"], moderators=(BY_YEAR, items["Thickness"]), left="plain hives survive more", right="wrapped hives survive more"
        ),
    )  # fmt: skip
    food = pooling.keep(
        review, team.second,
        Wording("Stored food used", "MD", items["Food used"], wrapped, plain, hk=True, order="effect", left="wrapped hives use less", right="plain hives use less"),
    )  # fmt: skip
    pooling.keep(
        review, team.lead,
        Wording("Three ways to winter", "OR", items["Survived"], (arms["Plain"], arms["Wrapped"], arms["Indoors"]), kind="network"),
    )  # fmt: skip
    domains = ("How studies were done", "How far they agree", "How near to the question", "How exact", "What may be missing")
    summary.keep(
        review, team.lead,
        SummaryWording(
            summary.WORDS, domains,
            (
                RowWording(
                    survival,
                    doubts=(
                        Doubt("How studies were done", "some", "Where beekeepers chose which hives to wrap, wraps seem to help more."),
                        Doubt("What may be missing", "some", "Small studies show more than large ones."),
                    ),
                    certainty="unsure",
                ),
                RowWording(food),
            ),
        ), 0,
    )  # fmt: skip
