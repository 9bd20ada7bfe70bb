"""The order of a review's records, worked out in the background."""

from __future__ import annotations

import json
from collections import OrderedDict
from hashlib import blake2b

import numpy as np

from kettlesort.core import ranking
from kettlesort.core.ranking import TermMatrix
from kettlesort.core.text import text_of
from kettlesort.store.base import run, session, snapshot
from kettlesort.store.records import all_texts
from kettlesort.store.screen import decided
from kettlesort.work.change import tell

_KEPT = 4
_TERMS = 20000
_matrices: OrderedDict[int, tuple[bytes, TermMatrix]] = OrderedDict()
"""Term matrices by review, with the fingerprint of the texts they were made from: costly, and the same after every decision."""


def rank_review(review: int) -> None:
    """Rank the records of a review by its seeds and decisions as they are now."""
    with snapshot() as db:
        found = all_texts(db, review)
        belong, excluded = decided(db, review)
    if not found:
        return
    ids = [it["id"] for it in found]
    texts = [text_of(it["title"], it["abstract"], it["keywords"]) for it in found]
    matrix = _matrix(review, ids, texts)
    position = {record: k for k, record in enumerate(ids)}
    order = ranking.rank(matrix, [position[r] for r in belong if r in position], [position[r] for r in excluded if r in position])
    heavy = np.argsort(-np.abs(order.weights))[:_TERMS]
    weights = {str(matrix.terms[k]): round(float(order.weights[k]), 4) for k in heavy if abs(order.weights[k]) > 1e-3}
    with session() as db:
        run(
            db,
            """INSERT INTO ranking (review_id, made_at, decisions, record_ids, closeness, weights) VALUES (:v, now(), :d, :ids, :c, CAST(:w AS jsonb))
            ON CONFLICT (review_id) DO UPDATE SET made_at = now(), decisions = excluded.decisions, record_ids = excluded.record_ids,
            closeness = excluded.closeness, weights = excluded.weights""",
            v=review, d=len(belong) + len(excluded), ids=[ids[k] for k in order.order], c=[float(order.closeness[k]) for k in order.order], w=json.dumps(weights),
        )  # fmt: skip
        tell(db, review, "ranking")


def _matrix(review: int, ids: list[int], texts: list[str]) -> TermMatrix:
    digest = blake2b(digest_size=16)
    for record, text in zip(ids, texts, strict=True):
        digest.update(f"{record}:{len(text)}:{text[:40]}".encode())
    mark = digest.digest()
    kept = _matrices.get(review)
    if kept is None or kept[0] != mark:
        kept = (mark, ranking.build(texts))
        _matrices[review] = kept
        while len(_matrices) > _KEPT:
            _matrices.popitem(last=False)
    _matrices.move_to_end(review)
    return kept[1]
