"""What matching is compared with: splink set up as its documentation advises, and plain exact matching."""

from __future__ import annotations

import logging
import re
import warnings
from collections import defaultdict
from collections.abc import Sequence
from typing import Any

from kettlesort.core.matching.grouping import Groups
from kettlesort.core.record import Record, folded

Pairs = set[tuple[int, int]]


def table(records: Sequence[Record]) -> Any:
    """The records as splink wants them, cleaned as its documentation advises."""
    import pandas as pd

    titles = [folded(it.title) for it in records]
    return pd.DataFrame(
        {
            "unique_id": range(len(records)),
            "title": [it or None for it in titles],
            "begins": [it[:20] or None for it in titles],
            "first_author": [folded(it.authors[0].partition(",")[0]) if it.authors else None for it in records],
            "year": [str(it.year) if it.year else None for it in records],
            "journal": [folded(it.journal or it.journal_short) or None for it in records],
            "volume": [it.volume or None for it in records],
            "page": [re.split("[–-]", it.pages)[0] or None for it in records],
            "doi": [it.doi or None for it in records],
            "abstract": [folded(it.abstract[:200]) or None for it in records],
        }
    ).astype(dict.fromkeys(("title", "begins", "first_author", "year", "journal", "volume", "page", "doi", "abstract"), "string"))


def by_splink(frame: Any, chance: float = 0.95) -> Pairs:
    """Pairs of one cluster at a match probability of ``chance``: probabilistic linkage with term frequencies, u from the default random sample."""
    import splink.comparison_library as cl
    from splink import DuckDBAPI, Linker, SettingsCreator, block_on

    logging.getLogger("splink").setLevel(logging.ERROR)
    warnings.simplefilter("ignore")
    settings = SettingsCreator(
        link_type="dedupe_only",
        comparisons=[
            cl.JaroWinklerAtThresholds("title", [0.97, 0.92, 0.85]).configure(term_frequency_adjustments=True),
            cl.JaroWinklerAtThresholds("first_author", [0.92, 0.8]).configure(term_frequency_adjustments=True),
            cl.ExactMatch("year"),
            cl.JaroWinklerAtThresholds("journal", [0.92, 0.8]).configure(term_frequency_adjustments=True),
            cl.ExactMatch("volume"),
            cl.ExactMatch("page"),
            cl.ExactMatch("doi"),
            cl.JaroWinklerAtThresholds("abstract", [0.92, 0.8]),
        ],
        blocking_rules_to_generate_predictions=[
            block_on("doi"),
            block_on("begins"),
            block_on("first_author", "year"),
            block_on("year", "volume", "page"),
        ],
    )
    linker = Linker(DuckDBAPI().register(frame), settings, log_level=logging.ERROR)
    linker.training.estimate_probability_two_random_records_match([block_on("doi"), block_on("title", "year")], recall=0.8)
    linker.training.estimate_u_using_random_sampling()
    linker.training.estimate_parameters_using_expectation_maximisation(block_on("begins"))
    linker.training.estimate_parameters_using_expectation_maximisation(block_on("first_author", "year"))
    found = linker.inference.predict(threshold_match_probability=chance)
    clusters = linker.clustering.cluster_pairwise_predictions_at_threshold(found, threshold_match_probability=chance).as_pandas_dataframe()
    return _pairs(clusters.groupby("cluster_id")["unique_id"].apply(list))


def by_exact(records: Sequence[Record]) -> Pairs:
    """Pairs with the same DOI, or the same normalised title and year, and what follows from them."""
    groups = Groups(len(records))
    seen: dict[tuple[str, ...], int] = {}
    for k, it in enumerate(records):
        title = folded(it.title).replace(" ", "")
        for key in ([("doi", it.doi)] if it.doi else []) + ([("title", title, str(it.year))] if title and it.year else []):
            groups.join(seen.setdefault(key, k), k)
    return _pairs(groups.all())


def _pairs(groups: Sequence[Sequence[int]]) -> Pairs:
    out: Pairs = set()
    for group in groups:
        members = sorted(group)
        out.update((i, j) for at, i in enumerate(members) for j in members[at + 1 :])
    return out


def truth(labels: Sequence[object]) -> Pairs:
    """Pairs of positions with the same label."""
    groups: dict[object, list[int]] = defaultdict(list)
    for k, label in enumerate(labels):
        groups[label].append(k)
    return _pairs(list(groups.values()))
