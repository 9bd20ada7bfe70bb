"""What is underlined in a title and an abstract, and where the parts of a structured abstract begin."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Sequence
from typing import NamedTuple

LONGEST, MOST = 100, 500
"""Letters of a word or phrase to underline, and how many there may be for each side."""
_LABEL = re.compile(
    r"(?:(?<=^)|(?<=[.;:!?)\]] )|(?<=\n))"
    r"(?P<label>(?:[A-Z][A-Z&/ -]{1,48}[A-Z])(?=\s*[:.–—-]\s+\S)|(?:"
    r"(?:Study )?(?:Background|Introduction|Context|Aims?|Objectives?|Purpose|Importance|Rationale|Hypothesis|Question|Design|Setting|Participants|Patients|Population|Data sources?|"
    r"Study selection|Data extraction|Interventions?|Exposures?|Comparators?|Measurements?|Main outcomes?(?: and measures?| measures?)?|Outcomes?|Methods?|Materials and methods|"
    r"Results?|Findings|Main results|Limitations?|Conclusions?|Interpretation|Discussion|Implications|Registration|Trial registration|Funding)(?: and [a-z]+)?)(?=\s*[:—]\s+\S))"
)


class Underlined(NamedTuple):
    """From where to where a text is underlined, whether for belonging, and whether by a word of the team's own."""

    begin: int
    end: int
    supports: bool
    own: bool


class NotAWord(ValueError):
    """A line is no word or phrase that can be underlined; the message says why."""


def words_of_lines(text: str) -> list[str]:
    """Words and phrases, one a line, without what stands there twice. Raises NotAWord.

    >>> words_of_lines("winter*\\nhoney bee\\n\\nWinter*")
    ['winter*', 'honey bee']
    """
    found: dict[str, str] = {}
    for line in text.splitlines():
        word = re.sub(r"\s+", " ", line).strip()
        if not word:
            continue
        if len(word) > LONGEST:
            raise NotAWord(f"“{word[:40]}…” is longer than {LONGEST} letters; underline the words that matter in it")
        if not re.search(r"\w{2}", word) or "*" in word.rstrip("*"):
            raise NotAWord(f"“{word}” cannot be underlined: write a word or a phrase, with * at the end for all that begins so")
        found.setdefault(word.casefold(), word)
    if len(found) > MOST:
        raise NotAWord(f"{len(found)} words are more than {MOST}; everything would be underlined")
    return list(found.values())


def underlined(text: str, words: Iterable[tuple[str, bool]], learned: Sequence[tuple[int, int, bool]] = ()) -> list[Underlined]:
    """Where words of the team (with whether they speak for) and what was learned stand in a text: in order, none over another; the longer and the team's own first.

    Words are found whole, whatever their case and accents; ``*`` at the end stands for any letters.

    >>> [(text_[it.begin:it.end], it.supports, it.own) for text_ in ["Honey-bee colonies in winter"] for it in underlined(text_, [("honey bee*", True), ("coloni*", False)], [(19, 21, True)])]
    [('Honey-bee', True, True), ('colonies', False, True), ('in', True, False)]
    """
    found = [Underlined(begin, end, supports, False) for begin, end, supports in learned]
    wanted = list(words)
    plain, places = _folded(text) if wanted else ("", ())
    for word, supports in wanted:
        pieces = [re.escape(part) for part in re.split(r"[\s-]+", _folded(word.rstrip("*"))[0]) if part]
        if not pieces:
            continue
        pattern = r"(?<!\w)" + r"[\s-]+".join(pieces) + (r"\w*" if word.endswith("*") else r"(?!\w)")
        found += [Underlined(places[match.start()], places[match.end() - 1] + 1, supports, True) for match in re.finditer(pattern, plain)]
    out: list[Underlined] = []
    taken: list[tuple[int, int]] = []
    for one in sorted(found, key=lambda each: (not each.own, each.begin - each.end, each.begin)):
        if one.begin < one.end and all(one.end <= a or one.begin >= b for a, b in taken):
            taken.append((one.begin, one.end))
            out.append(one)
    return sorted(out)


def _folded(text: str) -> tuple[str, Sequence[int]]:
    """A text in lower case without accents, and where each of its letters stands in the given one."""
    if text.isascii():
        return text.lower(), range(len(text))
    out: list[str] = []
    places: list[int] = []
    for k, letter in enumerate(text):
        for word in unicodedata.normalize("NFKD", letter.lower()):
            if not unicodedata.combining(word):
                out.append(word)
                places.append(k)
    return "".join(out), places


def parts(abstract: str) -> list[tuple[int, int]]:
    """From where to where the labels of a structured abstract stand; none if it has only one, as any abstract may by chance.

    >>> [("AIM: To count. RESULTS: We counted."[a:b]) for a, b in parts("AIM: To count. RESULTS: We counted.")]
    ['AIM', 'RESULTS']
    """
    found = [(match.start("label"), match.end("label")) for match in _LABEL.finditer(abstract)]
    return found if len(found) > 1 else []
