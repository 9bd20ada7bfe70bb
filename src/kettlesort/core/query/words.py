"""Words as a query and the index see them: the same on both sides, or nothing would be found."""

from __future__ import annotations

import re
import unicodedata

_WORD = re.compile(r"[^\W_]+")
_WILD = re.compile(r"[*?]*[^\W_][^\W_*?]*(?:[*?]+[^\W_]*)*")
_SPELLED = str.maketrans({"ß": "ss", "æ": "ae", "œ": "oe", "ø": "o", "đ": "d", "ł": "l", "ı": "i"})


def folded(text: str) -> str:
    """``text`` in small letters, without accents."""
    text = text.lower()
    if text.isascii():
        return text
    plain = "".join(sign for sign in unicodedata.normalize("NFKD", text) if not unicodedata.combining(sign))
    return plain.translate(_SPELLED)


def words_of(text: str) -> list[str]:
    """The words of ``text``: letters and digits, folded, parted at every other sign.

    >>> words_of("Honey-bees’ Überwinterung, 2°C")
    ['honey', 'bees', 'uberwinterung', '2', 'c']
    """
    return _WORD.findall(folded(text))


def parted(text: str) -> tuple[str, ...]:
    """The words of a query's word or phrase as typed, with the ``*`` and ``?`` that stand in them.

    >>> parted("Wom?n* hive-wrap")
    ('Wom?n*', 'hive', 'wrap')
    """
    return tuple(_WILD.findall(unicodedata.normalize("NFC", text)))
