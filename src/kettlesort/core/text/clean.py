"""Text as it may be kept: without what no database, drawing or document can hold."""

from __future__ import annotations

import re
from typing import Any

NEVER_KEPT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x84\x86-\x9f\ud800-\udfff]")
"""Control characters other than tab, line end and next line, and halves of surrogate pairs."""
_NO_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")


def kept(text: str) -> str:
    """``text`` without control characters (but tab and line end) and lone surrogates.

    >>> kept("Hives\\x00 in\\twinter\\ud800")
    'Hives in\\twinter'
    """
    return NEVER_KEPT.sub("", text) if NEVER_KEPT.search(text) else text


def for_xml(text: str) -> str:
    """``text`` without what XML 1.0 cannot hold (Extensible Markup Language, W3C, 2008, production 2)."""
    return _NO_XML.sub("", text) if _NO_XML.search(text) else text


def kept_within(value: Any) -> Any:
    """A value as JSON has it with all its texts, and names, cleaned by `kept`; no depth brings it down that JSON's own reader survived."""
    if isinstance(value, str):
        return kept(value)
    if isinstance(value, list):
        return [kept_within(one) for one in value]
    if isinstance(value, dict):
        return {kept(name): kept_within(one) for name, one in value.items()}
    return value
