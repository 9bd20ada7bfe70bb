"""How often a proposed value is right, on invented reports.

`./kettle run python bench/propose.py [N]` fits the weights five times without a fifth of the writers of `articles_apart.py` and of the reports of `written/`,
and reports on those that were left out, of N (56) and of all of `written/`;
with `held` or `tuned` it reports on that half of the wordings of `articles.py` with the weights as they are; `misses` prints what is wrong.
`./kettle run python bench/propose.py fit [N]` fits the weights on all of them and writes them; with `held` or `tuned` on that half alone. Wanted: right at
first place 0.80, within five 0.92, every quote true, absent ones left empty 0.88, Brier 0.15.
"""

from __future__ import annotations

import io
import json
import re
import sys
import time
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any, NamedTuple

import kettlesort.core.charting.proposals as core
from articles import Invented, invented
from articles_apart import WRITERS, apart
from kettlesort.core.charting.proposals.passages import passages
from kettlesort.core.charting.proposals.speaks import Speech
from kettlesort.core.charting.proposals.weights import FAMILY, crossed, families, kept
from kettlesort.core.fulltext.article import Article, normal, of_pdf, of_record
from measure import tell
from written import written

WEIGHTS = Path(core.__file__).parent / "weights.json"


def article_of(it: Invented) -> Article:
    """A report as it is read."""
    return of_pdf(io.BytesIO(it.pdf)) if it.pdf else of_record(it.title, it.abstract)


def right(kind: str, value: Any, truth: Any) -> bool:
    """Whether a proposed value is the true one; of texts, whether most of their words are the same, or all of the true ones are in a value not much longer."""
    if kind in ("mean_sd", "median_range") and not isinstance(truth["n"], int):
        return {**value, "n": 0} == {**truth, "n": 0} and (truth["n"] == "elsewhere" or value["n"] in truth["n"])
    if kind != "text":
        if kind == "quantity":
            return bool(value["value"] == truth["value"] and value["unit"].rstrip("s") == truth["unit"].rstrip("s"))
        if kind == "choices":
            return set(value) == set(truth)
        return bool(value == truth)
    own, true = (re.findall(r"\w+", str(text).lower()) for text in (value, truth))
    common = len(set(own) & set(true))
    share = 2 * common / (len(set(own)) + len(set(true))) if own and true else 0
    return share >= 0.6 or (set(true) <= set(own) and len(own) <= 2.5 * len(true))


class Case(NamedTuple):
    """An item of a report, for one arm: its kind, its true value (None if the report does not say it), and its candidates."""

    report: int
    key: tuple[str, str | None]
    kind: str
    truth: Any
    found: list[Any]


def cases(seed: int, half: int | None) -> list[Case]:
    """All items of one report: of a half of the wordings, of all (2), or of those written apart (None)."""
    return _cases(seed, apart(seed) if half is None else invented(seed, half if half < 2 else None))


def _cases(report: int, it: Invented) -> list[Case]:
    items = core.items_of(it.items)
    kinds = {item.id: item.kind for item in items}
    found = core.candidates(article_of(it), items)
    return [Case(report, key, kinds[key[0]], truth, found.get(key, [])) for key, truth in it.truth.items()]


def _tune(seed: int) -> list[Case]:
    return cases(seed, 0)


def _held(seed: int) -> list[Case]:
    return cases(seed, 1)


def _apart(seed: int) -> list[Case]:
    return cases(seed, None)


FOLDS = 5
WRITTEN = 0.6
"""How much of the weight in fitting is that of the reports that were written one by one; the rest is shared by those that are invented in numbers."""


def of_written(k: int) -> list[Case]:
    """All items of one of the reports that were written one by one."""
    return _cases(k, written()[k])


ABSENT = 6
"""So many items of other reports are asked of each of those written one by one in fitting: what a report does not speak of has no value in it."""


def of_absent(k: int) -> list[Case]:
    """Items of other reports of which a report says nothing: the most telling word of their name is unlike any in it."""
    it, others = written()[k], [other for at, other in enumerate(written()) if at != k]
    arms = next((item["arms"] for item in it.items if "arms" in item), [])
    article = article_of(it)
    asked = []
    for at, other in enumerate(others[(7 * k) % len(others) :] + others[: (7 * k) % len(others)]):
        item = other.items[(at + k) % len(other.items)]
        if "arms" not in item or arms:
            asked.append({**item, "id": f"{at}", **({"arms": arms} if "arms" in item else {})})
    items = core.items_of(asked)
    speech = Speech(passages(article).texts, items)
    absent = [item for item in items if item.kind not in ("choice", "choices", "yesno", "date") and speech.unheard(item) > 0.7][:ABSENT]
    found = core.candidates(article, absent)
    keys = [(item, arm) for item in absent for arm in ([arm.id for arm in item.arms] or [None])]
    return [Case(k, (item.id, arm), item.kind, None, found.get((item.id, arm), [])) for item, arm in keys]


def fit(n: int, halves: tuple[int, ...] = (0, 1), without: int | None = None) -> None:
    """Fit the weights of each family, on both halves or on one, on the reports written apart and on those written one by one, but those of one fold."""
    import numpy as np

    others = [seed for seed in range(2 * n) if without is None or (seed % len(WRITERS)) % FOLDS != without] if len(halves) > 1 else []
    single = [k for k in range(len(written())) if without is None or k % FOLDS != without] if len(halves) > 1 else []
    with ProcessPoolExecutor(2) as pool:
        every = [case for half in halves for some in pool.map((_tune, _held)[half], range(n), chunksize=8) for case in some]
        every += [case for some in pool.map(_apart, others, chunksize=8) for case in some]
        one_by_one = [case for some in pool.map(of_written, single, chunksize=2) for case in some]
        absent = [case for some in pool.map(of_absent, single, chunksize=2) for case in some]
    worth = WRITTEN / (1 - WRITTEN) * len(every) / max(1, len(one_by_one))
    foreign = {id(case) for case in absent}
    weighed = [(case, 1.0) for case in every] + [(case, worth) for case in one_by_one] + [(case, worth / 2) for case in absent]
    out: dict[str, Any] = {}
    for family in sorted(set(FAMILY.values())):
        mine = [(case, weight) for case, weight in weighed if FAMILY[case.kind] == family]
        rows = [
            (crossed(c.signs), case.truth is not None and right(case.kind, c.value, case.truth), weight / len(case.found) ** 0.5)
            for case, weight in mine
            for c in case.found
        ]
        names = sorted({name for signs, _, _ in rows for name in signs})
        x = np.array([[signs.get(name, 0.0) for name in names] for signs, _, _ in rows])
        y = np.array([good for _, good, _ in rows])
        found = _logistic(x, y, np.array([w for _, _, w in rows]), names)
        weights = {name: round(float(w), 4) for name, w in zip(names, found[:-1], strict=True) if abs(w) > 5e-5}
        out[family] = {
            "intercept": round(float(found[-1]), 4),
            "weights": weights,
            "least": _least([case for case, _ in mine if id(case) not in foreign], names, found),
        }
        WEIGHTS.write_text(json.dumps(out, indent=1, sort_keys=True) + "\n", "utf-8")
        if without is None:
            print(family, len(mine), "items", len(rows), "candidates", f"{y.mean():.3f} right")


FOR = "confirmed|own time|per asked|claimed|setting|what: own|exact|what: own|where: own|statistic|agent|labelled|country|name|near|key|label|instructions|sense|pattern|arm|same time|unit|sum|in all|counted|places|right end|said where it stands|a place|sole unit|deed|named before|largest|exactly|named so|said|covered|fits|again|whole|name and near|name squared|arm and near|plainly|headed|baseline|only|of all|several|affirmed|implied unit|said before|said after|id: id|where: proper|who: proper"
AGAINST = "outdone|statistic elsewhere|nameless|unheard and nameless|not its time|unheard|apiece|front|of several|no country|within labelled|below deed|total of others|allotted|other statistic|limit|gone|other agent|below country|below counted|odd|contrary|other time|below name|below near|other unit|percent|year|sd|money or time|part|no count|counting|wrong end|negated|rivals|spread|unsaid|fits not|repeats|long|single|far|no words|empty|unknown unit|compound|no implied unit"

SURELY = ("others", "cites")
"""What always counts against a value, also in a family whose reports hold too few of it to learn so."""


def _logistic(x: Any, y: Any, weight: Any, names: list[str]) -> Any:
    """Weights, and the intercept last, of a logistic regression with L2 in which what speaks for a value cannot count against it, nor the other way."""
    import numpy as np
    from scipy.optimize import minimize

    scale = np.maximum(x.std(axis=0), 0.05)
    z = np.hstack([x / scale, np.ones((len(x), 1))])
    penalty = np.append(np.full(len(names), 0.006 * weight.sum()), 0.0)

    def loss(w: Any) -> tuple[float, Any]:
        score = z @ w
        chances = 1 / (1 + np.exp(-np.clip(score, -30, 30)))
        value = (weight * np.logaddexp(0, np.where(y, -score, score))).sum() + 0.5 * (penalty * w * w).sum()
        return float(value), z.T @ (weight * (chances - y)) + penalty * w

    pro, contra = FOR.split("|"), AGAINST.split("|")
    bounds = [
        (None, -2.5 * by) if name in SURELY else (0, None) if name in pro else (None, 0) if name in contra else (None, None)
        for name, by in zip(names, scale, strict=True)
    ]
    found = minimize(loss, np.zeros(z.shape[1]), jac=True, bounds=[*bounds, (None, None)], method="L-BFGS-B", options={"maxiter": 3000})
    return np.append(found.x[:-1] / scale, found.x[-1])


def _least(mine: list[Case], names: list[str], found: Any) -> float:
    """The chance below which nothing is proposed, so that those that are right at first place or within five and those left empty are most."""
    import numpy as np

    best = []
    for case in mine:
        if not case.found:
            continue
        x = np.array([[crossed(c.signs).get(name, 0.0) for name in names] for c in case.found])
        chances = 1 / (1 + np.exp(-(x @ found[:-1] + found[-1])))
        first = [case.truth is not None and right(case.kind, case.found[k].value, case.truth) for k in (-chances).argsort()[: core.MOST]]
        best.append((float(chances.max()), case.truth is None, (first[0] + any(first)) / 2))
    absent, there = (max(1, sum(gone == it for _, it, _ in best)) for gone in (True, False))

    def worth(least: float) -> float:
        return (
            sum(sure < least for sure, gone, _ in best if gone) / absent + 6 * sum(good for sure, _, good in best if sure >= least) / there
        )

    return max((k / 100 for k in range(6, 44, 2)), key=worth)


Rated = tuple[Case, list[tuple[float, Any]]]


def _rate(case: Case) -> Rated:
    return case, kept(case.kind, core._rated(case.kind, case.found))[: core.MOST]


def _left_out(fold: int, n: int) -> list[Rated]:
    """The reports of one fold of writers, and of those written one by one, with weights that were fitted without them; the fitted weights are put back."""
    before = WEIGHTS.read_bytes()
    try:
        fit(max(28, n // 2), (0, 1), without=fold)
        families.cache_clear()
        seeds = [seed for seed in range(10_000, 10_000 + n) if (seed % len(WRITERS)) % FOLDS == fold]
        told = [case for seed in seeds for case in cases(seed, None)]
        return [_rate(case) for case in [*told, *(case for k in range(fold, len(written()), FOLDS) for case in of_written(k))]]
    finally:
        WEIGHTS.write_bytes(before)
        families.cache_clear()


def report(n: int, half: int | None = None, verbose: bool = False) -> bool:
    """Measure, each report with weights that know nothing of its writer; or on one half of the wordings."""
    begun = time.perf_counter()
    if half is None:
        rated = [it for fold in range(FOLDS) for it in _left_out(fold, n)]
    else:
        with ProcessPoolExecutor(2) as pool:
            rated = [_rate(case) for some in pool.map((_tune, _held)[half], range(10_000, 10_000 + n), chunksize=4) for case in some]
    seconds = time.perf_counter() - begun
    by: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    for case, made in rated:
        good = [case.truth is not None and right(case.kind, it.value, case.truth) for _, it in made]
        for kind in (case.kind, "all"):
            if case.truth is None:
                by[kind]["left empty"].append(float(not made))
            else:
                by[kind]["first"].append(float(bool(good) and good[0]))
                by[kind]["five"].append(float(any(good)))
                by[kind]["found at all"].append(float(any(right(case.kind, it.value, case.truth) for it in case.found)))
            if made:
                by[kind]["brier"] += [(made[0][0] - good[0]) ** 2]
        if verbose and ((case.truth is not None and not (good and good[0])) or (case.truth is None and made)):
            print(
                case.report,
                case.kind,
                case.key,
                "TRUE",
                case.truth,
                "| MADE",
                [(round(p, 2), it.value) for p, it in made[:3]],
                "|",
                made[0][1].quote.text[:160] if made else f"({len(case.found)} candidates)",
            )
    for kind, figures in sorted(by.items(), key=lambda pair: pair[0] == "all"):
        print(f"{kind:13}", "  ".join(f"{name} {sum(some) / len(some):.3f} ({len(some)})" for name, some in figures.items()))
    mean = {name: sum(some) / len(some) for name, some in by["all"].items()}
    print(f"{n} reports in {seconds:.0f} s on two processes")
    return all([
        tell("right at first place", mean["first"], 0.80, at_most=False), tell("right within five", mean["five"], 0.92, at_most=False),
        tell("absent left empty", mean["left empty"], 0.88, at_most=False), tell("Brier", mean["brier"], 0.15, at_most=True), _quotes(min(n, 40)),
    ])  # fmt: skip


def _quotes(n: int) -> bool:
    """Whether every quote stands on its page."""
    true = every = pages = 0
    begun = time.perf_counter()
    for seed in range(10_000, 10_000 + n):
        it = apart(seed)
        article = article_of(it)
        pages += max(1, len(article.pages))
        for proposal in core.propose(article, core.items_of(it.items)):
            every += 1
            text = article.pages[proposal.page] if proposal.page else f"{it.title} {it.abstract}"
            true += proposal.quote in normal(text)
    print(f"{(time.perf_counter() - begun) / pages:.2f} s a page, the making of the report counted too")
    return tell("quotes true", true / max(1, every), 1.0, at_most=False, detail=f"of {every}")


if __name__ == "__main__":
    given = sys.argv[1:]
    number = next((int(it) for it in given if it.isdigit()), 0)
    if "fit" in given:
        fit(number or 56, (0,) if "tuned" in given else (1,) if "held" in given else (0, 1))
    else:
        sys.exit(0 if report(number or 56, 0 if "tuned" in given else 1 if "held" in given else None, "misses" in given) else 1)
