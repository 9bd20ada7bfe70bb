"""One name: its parts, wherever a source puts them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple


def _words(text: str) -> frozenset[str]:
    return frozenset(text.split())


PARTICLES = _words(
    "van von vom der den de del della dello delle degli di da das do dos du des la le les lo las los ter ten te zu zur zum af av al el bin ibn "
    "ben abu st st. san santa 't op und y e"
)
GROUP = re.compile(
    r"\b(?:group|collaborat\w+|consortium|committee|network|team|society|association|institut\w*|universit\w*|ministry|organi[sz]ation|council|"
    r"centre|center|department|investigators|foundation|federation|agency|task force|panel|board|office|programme|program|initiative|"
    r"study|trialists|registry|bureau|commission|college|academy|hospital|laborator\w+|alliance|union|authority|"
    r"gruppe|gesellschaft|verband|arbeitskreis|ministerium|groupe|société|sociedad|asociación|ministerio|grupo|società|gruppo)\b",
    re.I,
)
"""Words by which a name is no person's."""
_SUFFIX = re.compile(r"(?:jr|sr|junior|senior|ii|iii|iv|2nd|3rd)\.?$", re.I)
_DEGREES = _words("phd md msc bsc mph rn dvm ma ba mbbs mbchb frcp drph dphil dsc pharmd edd mba rd bn msn dnp scd psyd")
_TITLES = _words("dr prof professor mr mrs ms sir dame herr frau")
_INITIALS = re.compile(
    r"(?:[^\W\d_]\.[ -]?){1,5}$|(?:[^\W\d_]\.?-)+[^\W\d_]\.?$|[^\W\d_]{1,3}$|[^\W\d_]{1,3}\.$|[^\W\d_](?:\.[^\W\d_]){1,4}\.?$"
)
WORD = re.compile(r"[^\W\d_](?:[^\W\d_]|['’`´-])*\.?$")
QUOTED = re.compile(r'"((?:[^"]|"")+)"')
"""A name that is to stay as it is; a quote within it is doubled."""
NO_CASE = re.compile(r"[\u0590-\u08ff\u0900-\u0dff\u0e00-\u0eff\u10a0-\u10ff\u1100-\u11ff\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af]")
LONGEST = 300
"""Signs of a name, at most."""


class Name(NamedTuple):
    """A name in its parts, and how much it is like a person's (or a group's) name, from 0 to 1."""

    family: str
    given: str
    quality: float

    def shown(self) -> str:
        """As "Family, Given"."""
        return f"{self.family}, {self.given}" if self.given else self.family


def is_initials(token: str) -> bool:
    """Whether a word is made of initials: "W", "W.K.", "WK", "J.-P.", "Ch."."""
    if not _INITIALS.match(token):
        return False
    if len(token) == 1:
        return token not in ("y", "e", "i")
    if token[-1] == "." and token[:-1].isalpha() and len(token) > 2:
        return token[0].isupper() and token.casefold() not in PARTICLES and not _SUFFIX.match(token)  # "Ch.", "Yu."
    return token.replace(".", "").replace("-", "").isupper() and not _SUFFIX.match(token)


def is_suffix(text: str) -> bool:
    """Whether a word is "Jr", "III" and the like."""
    return bool(_SUFFIX.match(text))


def shorts(tokens: Sequence[str]) -> list[bool]:
    """Which tokens are initials; "DE" in "DE LORN T" is none, as it is in "Lorn DE"."""
    return [
        is_initials(token)
        and not (
            token.casefold() in PARTICLES and len(token) > 1 and k < len(tokens) - 1 and tokens[k + 1].isupper() and len(tokens[k + 1]) > 2
        )
        for k, token in enumerate(tokens)
    ]


def tokens_of(text: str) -> list[str]:
    """The words of a name, without titles before and degrees after it."""
    tokens = text.split()
    while len(tokens) > 1 and tokens[0].rstrip(".").casefold() in _TITLES:
        tokens = tokens[1:]
    while len(tokens) > 2 and is_degree(tokens[-1]) and not (is_initials(tokens[-1]) and any(map(is_initials, tokens[1:-1]))):
        tokens = tokens[:-1]
    return tokens


def is_degree(text: str) -> bool:
    """Whether a word is an academic degree."""
    return text.replace(".", "").casefold() in _DEGREES


def _suffix(tokens: list[str]) -> tuple[list[str], str]:
    if len(tokens) > 1 and _SUFFIX.match(tokens[-1]) and not (len(tokens) == 2 and tokens[-1].isupper()):
        return tokens[:-1], tokens[-1]
    return tokens, ""


@lru_cache(maxsize=1 << 17)
def name_of(text: str, given_first: bool = True, capitals: bool = False, middle: bool = False, inverted: bool = False) -> Name:
    """One name from a text that holds one; groups stay as they are."""
    text = " ".join(text.split()).strip(" ;")
    quoted = QUOTED.fullmatch(text)
    if quoted:
        return Name(quoted[1].replace('""', '"').strip(), "", 1.0)
    text = text.strip(" ,")
    if not text or len(text) > LONGEST:
        return Name(text, "", 0.0)
    if GROUP.search(text):
        return Name(text, "", 0.8 if len(text) < 200 else 0.3)
    if "," in text:
        return _inverted(text)
    tokens, suffix = _suffix(tokens_of(text))
    if len(tokens) == 1:
        quality = 0.95 if NO_CASE.search(text) else 0.0 if is_initials(tokens[0]) else 0.4 if WORD.match(tokens[0]) else 0.1
        return Name(text, "", quality)
    cut, quality = _by_capitals(tokens) if capitals else (0, 0.0)
    if not cut:
        cut, quality = _cut(tokens, given_first)
    if inverted and len(tokens) > 3 and not any(shorts(tokens)):
        return Name(text, "", quality)
    if middle and cut == len(tokens) - 1 > 1 and not is_initials(tokens[cut - 1]):
        cut = _family_words(tokens, 1)
    first, last = " ".join(tokens[: abs(cut)]), " ".join(tokens[abs(cut) :])
    family, given = (first, last) if cut > 0 else (last, first)
    return Name(family, f"{given}, {suffix}" if suffix else given, quality * (1.0 if all(map(_fits, tokens)) else 0.15))


def _fits(token: str) -> bool:
    return bool(WORD.match(token)) or is_initials(token)


def _by_capitals(tokens: Sequence[str]) -> tuple[int, float]:
    """The cut of a name whose family name alone is in capitals; 0 where it is not."""
    upper = [(token.isupper() and not token.endswith(".")) or (token.startswith(("d'", "d’")) and token[2:].isupper()) for token in tokens]
    if all(upper) or not any(upper):
        return 0, 0.0
    if upper[0]:
        cut = upper.index(False)
        return (0, 0.0) if any(upper[cut:]) else (cut, 0.95)
    cut = upper.index(True)
    return (0, 0.0) if not all(upper[cut:]) else (-cut, 0.95)


def _cut(tokens: Sequence[str], given_first: bool) -> tuple[int, float]:
    """Where a name without a comma is cut, negative where its given names come first, and its quality."""
    short = shorts(tokens)
    n = len(tokens)
    long = 0.4 if n > 7 else 1.0
    if all(short):
        longest = max(range(n), key=lambda k: (len(tokens[k].rstrip(".")), -k))
        return (1 if longest == 0 else -(n - 1)), 0.6 * long
    at_end = next(k for k in range(n) if not short[n - 1 - k])
    at_begin = next(k for k in range(n) if not short[k])
    if at_end and at_begin:  # "J. Orsel W": rarely meant so
        return n - at_end, 0.3 * long
    if at_end:
        inner = sum(short[: n - at_end])
        words = [token for token in tokens[: n - at_end] if token.casefold() not in PARTICLES]
        return n - at_end, (0.2 if inner else 1.0 if len(words) <= 2 else 0.7 if len(words) == 3 else 0.4) * long
    if at_begin:
        return -_family_begin(tokens, at_begin), (0.2 if sum(short[at_begin:]) else 1.0) * long
    if any(short):  # an initial in the middle: "Wilma K. Orsel"
        middle = max(k for k in range(n) if short[k])
        return -_family_begin(tokens, middle + 1), 0.95 * long
    words = [token for token in tokens if token.casefold() not in PARTICLES]
    quality = (0.75 if len(words) <= 3 else 0.55 if len(words) == 4 else 0.25) * long
    if told := order_told(tokens):
        given_first = told > 0
    if given_first:
        return -_family_begin(tokens, 1), quality
    return _family_words(tokens, 1), quality


def _family_begin(tokens: Sequence[str], least: int) -> int:
    """The token at which the family name begins when given names come before it."""
    begin = len(tokens) - 1
    while begin > least and (tokens[begin - 1].casefold() in PARTICLES):
        begin -= 1
    for k in range(max(least, 1), begin):  # "Wilma van der Orsel Brask": from its first particle on
        if tokens[k].casefold() in PARTICLES and tokens[k].islower():
            return k
    if all(token.isupper() for token in tokens[least:]) and not tokens[0].isupper():
        return least
    return begin


def _family_words(tokens: Sequence[str], least: int) -> int:
    """How many tokens the family name has when it comes first: particles and the word after them, words in capitals, or one."""
    k = 0
    while k < len(tokens) - 1 and tokens[k].casefold() in PARTICLES:
        k += 1
    k += 1
    while (
        k < len(tokens) - 1 and tokens[k].isupper() and tokens[k - 1].isupper() and not is_initials(tokens[k]) and not tokens[-1].isupper()
    ):
        k += 1
    return min(max(k, least), len(tokens) - 1)


def order_told(tokens: Sequence[str]) -> int:
    """What a name of full words says itself of its order: 1 given first, -1 family first, 0 nothing."""
    if tokens[0].casefold() in PARTICLES and tokens[0].islower():
        return -1
    if any(token.casefold() in PARTICLES and token.islower() for token in tokens[1:-1]):
        return 1
    capitals = [token.isupper() and len(token) > 1 for token in tokens]
    if capitals[-1] and not capitals[0]:
        return 1
    return -1 if capitals[0] and not capitals[-1] else 0


def _inverted(text: str) -> Name:
    """A name with commas: "Family, Given", with a suffix perhaps."""
    parts = [part.strip() for part in text.split(",") if part.strip()]
    suffixes = [part for part in parts[1:] if _SUFFIX.match(part)]
    parts = [part for k, part in enumerate(parts) if not k or not (_SUFFIX.match(part) or (is_degree(part) and not is_initials(part)))]
    if len(parts) == 1:
        plain = name_of(parts[0])
        return plain._replace(given=", ".join(part for part in (plain.given, *suffixes) if part))
    family, given = parts[0].split(), " ".join(parts[1:]).split()
    while len(given) > 1 and is_degree(given[-1]) and not is_initials(given[-1]):
        given = given[:-1]
    given, suffix = _suffix(given)
    suffixes = [suffix, *suffixes] if suffix else suffixes
    words = [token for token in family if token.casefold() not in PARTICLES]
    quality = 0.95 + 0.05 * all(map(is_initials, given))
    if len(parts) > 2:
        quality = 0.05
    elif len(family) > 2 and is_degree(family[-1]):
        quality = 0.1
    elif any(shorts(family)):
        quality = 0.6 if len(family) == 1 and len(family[0]) > 1 and not is_degree(family[0]) and not is_initials(given[0]) else 0.1
    elif len(words) > 1 and len(given) > 1 and not any(map(is_initials, given)):
        quality = 0.55
    elif len(words) > 3 or len(given) > 4:
        quality = 0.4
    if not all(map(_fits, [*family, *given])):
        quality *= 0.15
    return Name(" ".join(family), ", ".join([" ".join(given), *suffixes]), quality)


def author_name(text: str) -> str:
    """A single name as "Family, Given", from that or from "Given Family" or "Family GI"; groups stay as they are.

    >>> author_name("Tamsin van der Orsel")
    'van der Orsel, Tamsin'
    """
    text = " ".join(text.split()).strip(" ;,")
    return name_of(text).shown() if "," not in text else text
