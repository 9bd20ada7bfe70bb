"""The demo's analyses."""

from __future__ import annotations

from kettlesort.demo.team import Team
from kettlesort.work import chart, pooling
from kettlesort.work.pool_wording import Wording


def pool(review: int, team: Team) -> None:
    """How many colonies survived, in groups by material, and how much food they used."""
    evidence = chart.evidence_table(review)
    items = {one.name: one.id or 0 for one in evidence.book.items}
    wrapped, plain = ((one.id or 0,) for one in evidence.levels if one.factor == "arm" and one.study_id is None)
    pooling.keep(
        review, team.lead,
        Wording(
            "Survival of winter", "RR", items["Survived"], wrapped, plain, group=items["Material"], left="plain hives survive more", right="wrapped hives survive more"
        ),
    )  # fmt: skip
    pooling.keep(
        review, team.second,
        Wording("Stored food used", "MD", items["Food used"], wrapped, plain, hk=True, order="effect", left="wrapped hives use less", right="plain hives use less"),
    )  # fmt: skip
