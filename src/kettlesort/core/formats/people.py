"""The people of a file, each by the manner in which its first records write theirs."""

from __future__ import annotations

import re
from collections.abc import Iterable

from kettlesort.core.formats.entry import Entry
from kettlesort.core.names import Judgement, Manner, is_one_name, manner_of, names_in
from kettlesort.core.text.glance import plain_names

LOOKED_AT = 400
"""Records whose names are looked at before the first is given out."""
WHOLE = "\x1f"
"""Stands before a name that is to stay as it is; a reader sets it, and no file can: control characters do not get so far."""
_SURE = re.compile(
    r"(?:(?:van|von|de|der|den|di|da|la|le|du) )*[A-Z]['’]?[A-Za-zÀ-ÿ-]*[a-zà-ÿ], [A-Z](?:[a-zà-ÿ]+|\.?)(?:[ -]?[A-Z](?:[a-zà-ÿ]+|\.?)){0,3}"
)
_SIGNS = re.compile(r"[;|\n\"\x00-\x1f]|,$")


def whole(name: str) -> str:
    """A name that is neither to be taken apart nor to be turned round."""
    return WHOLE + name


def comes_back(name: str) -> bool:
    """Whether a name is read as it is where a value is one person's: one that is not has to be protected when it is written."""
    if _SURE.fullmatch(name):
        return True
    return not _SIGNS.search(name) and is_one_name(name)


class People:
    """Takes apart and turns round the names of a file, once its manner is known.

    ``wanted`` is the manner that a person chose. Afterwards ``judged`` says which was found, and ``example`` is a value
    that would be read otherwise by the other manner, if there is one as likely.
    """

    def __init__(self, wanted: Manner | None = None) -> None:
        self.wanted = wanted
        self.judged = Judgement(wanted or Manner())
        self.example = ""
        self._single = False

    def both(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """What the example is read as, and what it would be by the other manner."""
        return self._several(self.example), names_in(self.example, self.judged.rival or Manner(), self._single)

    def judge(self, entries: Iterable[Entry]) -> None:
        """Find out how names are written from the first records of a file."""
        named = [entry.record.authors for entry in entries if entry.record.authors]
        self._single = sum(len(one) > 1 for one in named) > 0.3 * len(named)
        if self.wanted:
            return
        values = [value for one in named for value in one if value[0] != WHOLE]
        self.judged = manner_of(values, single=self._single)
        if other := self.judged.rival:
            self.example = next((value for value in values if names_in(value, other) != self._several(value)), "")

    @property
    def one_each(self) -> bool:
        """Whether a value names one person in this file, so that nothing is to be done where it is "Family, Given"."""
        return self.judged.manner.parted == "one"

    def names(self, values: tuple[str, ...]) -> tuple[str, ...]:
        """The people in the authors of a record as "Family, Given"; the same values where they are so."""
        return (
            values
            if self.one_each and plain_names(values)
            else tuple([name for value in values for name in ((value[1:],) if value[0] == WHOLE else self._several(value))])
        )

    def _several(self, value: str) -> tuple[str, ...]:
        if self.judged.manner.parted == ";" and plain_names(parts := value.split("; ")):  # most of them
            return tuple(parts)
        return names_in(value, self.judged.manner, self._single)
