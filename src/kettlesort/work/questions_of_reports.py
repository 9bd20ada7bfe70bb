"""What a report is asked for values: a question for each item, outcome and time of the codebook, and the cell that an answer belongs to."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import product
from typing import NamedTuple

from kettlesort.core.charting.items import BY_ARM, FACTORS
from kettlesort.core.charting.proposals import Arm, Asked
from kettlesort.store.codebook import Level
from kettlesort.work.codebook import ItemWording, core_item
from kettlesort.work.double import Levels


class Questions(NamedTuple):
    """What a report is asked, and what each question is about: an item and its levels, by the name of the question and of its arm."""

    asked: list[Asked]
    about: dict[tuple[str, str | None], tuple[int, Levels]]

    def of(self, asked: Asked, arm: str | None) -> tuple[int, Levels]:
        """The item and the levels that an answer is for."""
        return self.about[asked.id, arm]


def questions_of(items: Sequence[ItemWording], levels: Sequence[Level], study: int) -> Questions:
    """One question for each item and combination of outcome and time; arms are told apart by the answer where a value is one of a group."""
    of = {factor: [one for one in levels if one.factor == factor and one.study_id in (None, study)] for factor in FACTORS}
    questions = Questions([], {})
    for item in items:
        by_reading = item.kind in BY_ARM
        ways = [of[factor] if factor in item.per and not (factor == "arm" and by_reading) else [None] for factor in FACTORS]
        for arm, outcome, time in product(*ways):
            named = [one for one in (arm, outcome, time) if one is not None]
            key = ":".join(str(part) for part in (item.id, *(one.id for one in named)))
            words = " ".join(word for one in named for word in one.words)
            arms = [Arm(str(one.id), one.name, tuple(one.words)) for one in of["arm"]] if by_reading and "arm" in item.per else []
            questions.asked.append(
                Asked(
                    key, " ".join([item.name, *(one.name for one in named)]), core_item(item).kind,
                    " ".join(part for part in (item.instructions, words) if part), item.unit, tuple(item.choices), tuple(arms),
                )
            )  # fmt: skip
            rest = (outcome.id if outcome else None, time.id if time else None)
            questions.about[key, None] = (item.id or 0, (arm.id if arm else None, *rest))
            for group in arms:
                questions.about[key, group.id] = (item.id or 0, (int(group.id), *rest))
    return questions
