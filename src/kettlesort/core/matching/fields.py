"""The fields that are compared, the levels of their agreement, and what each level is worth to begin with.

For each level stand m, how often it occurs among copies of one report, and u, how often among different
reports that are worth comparing at all. The natural logarithm of m/u is its weight (Fellegi IP, Sunter AB.
A theory for record linkage. J Am Stat Assoc 1969;64:1183-1210). These are starting values; a review's
own copies move them (`weights`). Levels of one *block* exclude each other and their m and their u each sum
to one; a field has several blocks where it depends on another field, or on what the two records say at all.
"""

from __future__ import annotations

from typing import NamedTuple


class Level(NamedTuple):
    """A level of agreement: a name, the words for it, m and u."""

    name: str
    says: str
    m: float
    u: float


class Field(NamedTuple):
    """A compared field. Level 0 is that one of the two does not say; the levels of all blocks are numbered on from 1.

    A field that is not ``estimated`` keeps its weights: it agrees too rarely to learn from.
    """

    name: str
    blocks: tuple[tuple[Level, ...], ...]
    estimated: bool = True

    @property
    def levels(self) -> tuple[Level, ...]:
        """All levels from 1 on."""
        return tuple(level for block in self.blocks for level in block)


def _field(name: str, *blocks: list[tuple[str, str, float, float]], estimated: bool = True) -> Field:
    return Field(name, tuple(tuple(Level(*level) for level in block) for block in blocks), estimated)


FIELDS = (
    _field(
        "title",
        [
            ("same rare", "the same, and such a title is rare", 0.59, 0.0003),
            ("same", "the same, a title that others may have", 0.07, 0.0008),
            ("same common", "the same, a few common words", 0.02, 0.003),
            ("same untitled", "the same, but it only names a kind of piece", 0.01, 0.012),
            ("cut rare", "one is cut off or lacks its subtitle", 0.07, 0.0004),
            ("cut", "one is the beginning or end of the other, a few words", 0.02, 0.004),
            ("close", "the same but for a few letters", 0.13, 0.0010),
            ("near", "nearly the same", 0.05, 0.006),
            ("partly", "partly the same", 0.03, 0.05),
            ("unlike", "different", 0.01, 0.9224),
        ],
    ),
    _field(
        "authors",
        [
            ("all", "the same names", 0.66, 0.03),
            ("one", "the only author is the same", 0.09, 0.02),
            ("most", "most names are the same", 0.10, 0.02),
            ("some", "some names are the same", 0.06, 0.09),
            ("close", "names spelled alike, or given and family names swapped", 0.03, 0.01),
            ("initials", "the same family names with other initials", 0.02, 0.03),
            ("none", "different names", 0.04, 0.80),
        ],
    ),
    _field(
        "year",
        [
            ("same", "the same", 0.86, 0.28),
            ("one", "one apart, as print and online may be", 0.105, 0.12),
            ("two", "two apart", 0.02, 0.08),
            ("far", "three or more apart", 0.015, 0.52),
        ],
    ),
    _field(
        "journal",
        [
            ("same", "the same, or abbreviated", 0.81, 0.13),
            ("partly", "partly the same", 0.06, 0.05),
            ("unlike", "different", 0.08, 0.815),
            ("renamed", "the same by another name, as other copies here have it", 0.05, 0.005),
        ],
    ),
    _field(
        "place",
        [
            ("both", "volume and first page are the same", 0.90, 0.01),
            ("volume", "the volume is the same, the first page differs", 0.03, 0.09),
            ("page", "the first page is the same, the volume differs", 0.04, 0.01),
            ("neither", "volume and first page differ", 0.03, 0.89),
        ],
        [("only page", "the first page is the same", 0.94, 0.02), ("no page", "the first page differs", 0.06, 0.98)],
        [("only volume", "the volume is the same", 0.94, 0.12), ("no volume", "the volume differs", 0.06, 0.88)],
    ),
    _field("issue", [("same", "the same", 0.93, 0.40), ("other", "different", 0.07, 0.60)]),
    _field(
        "doi",
        [
            ("same", "the same", 0.945, 0.001),
            ("shared", "the same, but reports with other titles have it too", 0.01, 0.01),
            ("version", "the same but for the version", 0.01, 0.003),
            ("near", "one or two letters apart", 0.015, 0.015),
            ("other", "different", 0.02, 0.971),
        ],
    ),
    _field(
        "abstract",
        [
            ("same", "begins the same", 0.86, 0.20),
            ("alike", "begins alike", 0.05, 0.06),
            ("partly", "partly alike", 0.03, 0.09),
            ("unlike", "different", 0.06, 0.65),
        ],
        [
            ("same, title not", "begins the same, though the titles differ", 0.88, 0.006),
            ("alike, title not", "begins alike, though the titles differ", 0.05, 0.006),
            ("partly, title not", "partly alike", 0.02, 0.05),
            ("unlike, title not", "different", 0.05, 0.938),
        ],
    ),
    _field("accession", [("same", "the same", 0.60, 0.004)], estimated=False),
    _field("kind", [("same", "the same", 0.90, 0.75), ("other", "different", 0.10, 0.25)]),
    _field("language", [("same", "the same", 0.98, 0.93), ("other", "different", 0.02, 0.07)], estimated=False),
)
NAMES = tuple(field.name for field in FIELDS)
CODE = {field.name: {level.name: k for k, level in enumerate(field.levels, 1)} for field in FIELDS}
"""The number of each level, by field and name."""
