"""Words of titles and abstracts in any language: folded, stemmed, without the common ones."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Iterable
from functools import lru_cache

import snowballstemmer
from whoosh.lang.stopwords import stoplists

from kettlesort.core.text import OF_ABSTRACTS

_LANGUAGES = {
    "da": "danish", "nl": "dutch", "en": "english", "fi": "finnish", "fr": "french", "de": "german", "hu": "hungarian", "it": "italian",
    "no": "norwegian", "pt": "portuguese", "ru": "russian", "es": "spanish", "sv": "swedish", "tr": "turkish",
}  # fmt: skip
_UNSPACED = "\u0e00-\u0eff\u1000-\u109f\u1780-\u17ff\u3040-\u30ff\u3400-\u4dbf\u4e00-\u9fff\uf900-\ufaff"
"""Thai, Lao, Burmese, Khmer, Kana and Han: written without blanks between words."""
_INDIC = "\u0900-\u0963\u0966-\u0dff"
"""Scripts whose vowel signs are no letters to a regular expression."""
_WORD = re.compile(rf"[{_UNSPACED}]+|(?:[^\W_{_UNSPACED}]|[{_INDIC}])+")
_IS_UNSPACED = re.compile(f"[{_UNSPACED}]")
_ACCENTS = re.compile("[\u0300-\u036f\u0591-\u05c7\u064b-\u065f\u0670]")


def _folded(text: str) -> str:
    """Lower case, without accents on Latin, Greek and Cyrillic letters and points on Hebrew and Arabic ones."""
    if text.isascii():
        return text.lower()
    return unicodedata.normalize("NFKC", _ACCENTS.sub("", unicodedata.normalize("NFKD", text.lower())))


STOP_WORDS = {code: frozenset(map(_folded, stoplists[code])) for code in _LANGUAGES}
_SPEAKS: dict[str, tuple[str, ...]] = {}
for _code, _words in STOP_WORDS.items():
    for _word in _words:
        _SPEAKS[_word] = (*_SPEAKS.get(_word, ()), _code)


def words_of(text: str) -> list[str]:
    """The words of a text in order, folded; where no blanks part them, overlapping pairs of characters.

    >>> words_of("Überwinterung: 蜂群越冬 of 2nd hives")
    ['uberwinterung', '蜂群', '群越', '越冬', 'of', '2nd', 'hives']
    """
    found = _WORD.findall(_folded(text))
    if text.isascii():
        return found
    out: list[str] = []
    for word in found:
        if _IS_UNSPACED.match(word) and len(word) > 2:
            out += [word[k : k + 2] for k in range(len(word) - 1)]
        else:
            out.append(word)
    return out


def language_of(words: Iterable[str]) -> str:
    """The language whose common words are most among ``words``, as two letters; English where none tells.

    >>> language_of("die kolonien wurden im winter nicht gewogen und die beuten nicht gedämmt".split())
    'de'
    """
    told = Counter(code for word in words for code in _SPEAKS.get(word, ()))
    return max(told, key=lambda code: (told[code], code == "en")) if told else "en"


@lru_cache(maxsize=len(_LANGUAGES))
def _stemmer(language: str) -> snowballstemmer.stemmer:
    return snowballstemmer.stemmer(_LANGUAGES[language])


@lru_cache(maxsize=500_000)
def stem_of(word: str, language: str) -> str:
    """The stem of a folded word (Snowball, Porter MF 2001); empty for a common word or a single letter."""
    if word in STOP_WORDS[language] or word in OF_ABSTRACTS or (len(word) < 2 and not _IS_UNSPACED.match(word)):
        return ""
    return str(_stemmer(language).stemWord(word)) if word.isalpha() else word
