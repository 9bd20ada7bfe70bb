"""Whom a note names: ``@`` and the name that a colleague signs in with."""

from __future__ import annotations

import re
from collections.abc import Iterable

_NAMED = re.compile(r"(?<![\w@])@([\w][\w.\-]*)")


def named_in(text: str, names: Iterable[str]) -> set[str]:
    """Which of some names a text calls; a full stop that ends a sentence is none of the name.

    >>> sorted(named_in("@Odile, and @rudd.b. too; mail to x@tamsin", ["odile", "rudd.b", "tamsin"]))
    ['odile', 'rudd.b']
    """
    known = {name.casefold(): name for name in names}
    said = {found[1].casefold() for found in _NAMED.finditer(text)}
    return {known[word] for one in said for word in (one, one.rstrip(".-")) if word in known}
