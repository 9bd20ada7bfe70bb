"""Reading and writing a query of 500 terms, words of 50 seeds, and a trial against PostgreSQL's full-text search: `./kettle run python bench/query.py [records]`

Both sides answer the same: the count of the whole, of five groups, and of a hundred
terms, over titles, abstracts and descriptors. A word of a query is a prefix on both.
"""

from __future__ import annotations

import os
import sys
import time

import numpy as np
import psycopg

from corpus import SUBJECTS, invented
from kettlesort.core.query import Index, Parts, Searched, SeedText, Settings, parse, try_on, write
from kettlesort.core.query import mine as mine_words
from kettlesort.work.searchable import LARGEST_PART
from measure import best, tell


def texts(n: int) -> list[Searched]:
    return [Searched(it.title, it.abstract, it.keywords, it.authors, it.journal, it.year, "eng", "article") for it in invented(n)]


def hundred_terms(index: Index) -> list[list[str]]:
    """Five groups of twenty terms: the subjects, and words from all over the vocabulary, cut to a prefix."""
    rare = index.vocabulary[:: max(1, len(index.vocabulary) // 200)]
    words = [*SUBJECTS[:25], *[word[:6] for word in rare if len(word) > 6 and word.isalpha()]][:100]
    return [words[k::5] for k in range(5)]


def main() -> None:
    n = int(sys.argv[1]) if len(sys.argv) > 1 else 100_000
    records = texts(n)
    begun = time.perf_counter()
    packed = [Index(records[k : k + LARGEST_PART]).pack() for k in range(0, n, LARGEST_PART)]
    print(f"         index of {n:,} records built in {time.perf_counter() - begun:.1f} s, kept in {sum(map(len, packed)) / 1e6:,.0f} MB")
    begun = time.perf_counter()
    parts = [Index.unpack(it) for it in packed]
    print(f"         loaded after a restart in {time.perf_counter() - begun:.1f} s")
    begun = time.perf_counter()
    Index(records[:100])
    print(f"         brought up to date by 100 records in {time.perf_counter() - begun:.2f} s")
    index = Parts(parts, [np.arange(k * LARGEST_PART, k * LARGEST_PART + it.size) for k, it in enumerate(parts)])
    groups = hundred_terms(parts[0])
    node = parse(" AND ".join("(" + " OR ".join(f"{word}*" for word in group) + ")" for group in groups)).node

    long = parse(" AND ".join("(" + " OR ".join(f"title:word{k}{m}*" for m in range(50)) + ")" for k in range(10))).node
    (reading,) = best(lambda: parse(write(long)))
    tell("reading and writing a query of 500 terms, ms", reading * 1000, 20, at_most=True)

    chosen = range(0, n, max(1, n // 50))
    seeds = [SeedText(k, records[k].title, records[k].abstract, records[k].keywords) for k in list(chosen)[:50]]
    begun = time.perf_counter()
    found = mine_words(seeds, index, Settings(longest=3))
    detail = f"{len(found):,} words and phrases"
    tell(f"words of 50 seeds beside {n:,} records, s", time.perf_counter() - begun, 2, at_most=True, detail=detail)

    mine: list[int] = []

    def ours() -> None:
        mine[:] = [it.hits for it in try_on(node, index, [0, 1, 2]).branches]

    (own,) = best(ours, runs=3)
    name = f"bench_{os.getpid()}"
    with psycopg.connect(os.environ["KETTLE_DATABASE"], autocommit=True) as db:
        db.execute(f"CREATE TABLE {name} (words tsvector)".encode())
        try:
            with db.cursor().copy(f"COPY {name} FROM STDIN".encode()) as out:
                for it in records:
                    text = " ".join([it.title, it.abstract, *it.keywords])
                    out.write_row((" ".join(f"{word}:{k % 16000 + 1}" for k, word in enumerate(set(words(text)))),))
            db.execute(f"CREATE INDEX ON {name} USING gin (words)".encode())
            db.execute(f"VACUUM ANALYZE {name}".encode())

            def count(query: str) -> int:
                row = db.execute(f"SELECT count(*) FROM {name} WHERE words @@ %s::tsquery".encode(), (query,)).fetchone()
                return int(row[0]) if row else 0

            branches = [" & ".join("(" + " | ".join(f"{word}:*" for word in group) + ")" for group in groups)]
            for group in groups:
                branches += [" | ".join(f"{word}:*" for word in group), *(f"{word}:*" for word in group)]
            theirs: list[int] = []

            def peer() -> None:
                theirs[:] = [count(branch) for branch in branches]

            (other,) = best(peer, runs=3)
        finally:
            db.execute(f"DROP TABLE {name}".encode())
    if mine != theirs:
        raise SystemExit(f"the counts differ: {mine[:10]} {theirs[:10]}")
    tell(f"trial of 100 terms on {n:,} records, times as fast as full-text search", other / own, 10, at_most=False, detail=f"{own:.2f} s")


def words(text: str) -> list[str]:
    from kettlesort.core.query.words import words_of

    return words_of(text)


if __name__ == "__main__":
    main()
