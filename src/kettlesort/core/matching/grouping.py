"""From pairs to groups: no chain of links joins what was found to differ."""

from __future__ import annotations

from collections.abc import Iterable


class Groups:
    """Positions 0 to n - 1 in disjoint groups; ``apart`` pairs never end up in one."""

    def __init__(self, size: int, apart: Iterable[tuple[int, int]] = ()) -> None:
        self._of = list(range(size))
        self._members: dict[int, list[int]] = {}
        self._apart: dict[int, set[int]] = {}
        for i, j in apart:
            self.keep_apart(i, j)

    def keep_apart(self, i: int, j: int) -> None:
        """Never join the groups of ``i`` and ``j``."""
        self._apart.setdefault(i, set()).add(j)
        self._apart.setdefault(j, set()).add(i)

    def of(self, i: int) -> int:
        """The number of the group of ``i``: the lowest position in it."""
        return self._of[i]

    def members(self, i: int) -> list[int]:
        """All positions in the group of ``i``, ascending."""
        return self._members.get(self._of[i], [self._of[i]])

    def join(self, i: int, j: int) -> bool:
        """Join the groups of ``i`` and ``j``; ``False`` when something in them must stay apart."""
        a, b = self._of[i], self._of[j]
        if a == b:
            return True
        if a > b:
            a, b = b, a
        one, two = self.members(a), self.members(b)
        few, many = (one, two) if len(one) < len(two) else (two, one)
        for k in few:
            if k in self._apart and not self._apart[k].isdisjoint(many):
                return False
        for k in two:
            self._of[k] = a
        self._members[a] = sorted(one + two)
        self._members.pop(b, None)
        return True

    def all(self) -> list[list[int]]:
        """Every group, by its lowest position."""
        return [self.members(k) for k, group in enumerate(self._of) if k == group]
