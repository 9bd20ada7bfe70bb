"""Common words of titles and abstracts."""

from __future__ import annotations

from whoosh.lang.stopwords import stoplists

_OF_ABSTRACTS = """
aim aims also although among background conclusion conclusions could either however introduction may method methods might must objective objectives
per purpose result results studies study thus upon use used using whether within without would
"""
OF_ABSTRACTS = frozenset(_OF_ABSTRACTS.split())
"""Words that abstracts are full of, whatever they are about."""
STOP_WORDS = frozenset([*stoplists["en"], *OF_ABSTRACTS])
"""The common words of English, and those of abstracts."""
