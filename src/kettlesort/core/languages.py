"""Languages of records: one name for each, however a source writes it."""

from __future__ import annotations

from functools import lru_cache

_NAMES = """
English: en eng english anglais inglés ingles englisch
German: de deu ger german deutsch allemand alemán
French: fr fra fre french français francais französisch francés
Spanish: es spa spanish español espanol castilian castellano espagnol spanisch
Portuguese: pt por portuguese português portugues
Italian: it ita italian italiano
Dutch: nl nld dut dutch nederlands flemish
Danish: da dan danish dansk
Norwegian: no nor nob nno nb nn norwegian norsk bokmål nynorsk
Swedish: sv swe swedish svenska
Finnish: fi fin finnish suomi
Icelandic: is isl ice icelandic íslenska
Estonian: et est estonian eesti
Latvian: lv lav latvian latviešu
Lithuanian: lt lit lithuanian lietuvių
Polish: pl pol polish polski
Czech: cs ces cze czech čeština
Slovak: sk slk slo slovak slovenčina
Slovenian: sl slv slovenian slovene slovenščina
Croatian: hr hrv scr croatian hrvatski
Serbian: sr srp scc serbian srpski српски
Bosnian: bs bos bosnian
Macedonian: mk mkd mac macedonian
Bulgarian: bg bul bulgarian български
Romanian: ro ron rum romanian română moldavian
Hungarian: hu hun hungarian magyar
Greek: el ell gre greek ελληνικά
Turkish: tr tur turkish türkçe
Russian: ru rus russian русский
Ukrainian: uk ukr ukrainian українська
Belarusian: be bel belarusian
Georgian: ka kat geo georgian
Armenian: hy hye arm armenian
Azerbaijani: az aze azerbaijani
Kazakh: kk kaz kazakh
Hebrew: he heb hebrew iw עברית
Arabic: ar ara arabic العربية
Persian: fa fas per persian farsi فارسی
Urdu: ur urd urdu
Hindi: hi hin hindi हिन्दी
Bengali: bn ben bengali
Tamil: ta tam tamil
Thai: th tha thai ไทย
Vietnamese: vi vie vietnamese
Indonesian: id ind indonesian bahasa
Malay: ms msa may malay
Chinese: zh zho chi chinese 中文 mandarin zh-cn zh-tw
Japanese: ja jpn japanese 日本語
Korean: ko kor korean 한국어
Afrikaans: af afr afrikaans
Swahili: sw swa swahili
Catalan: ca cat catalan català
Basque: eu eus baq basque
Galician: gl glg galician
Irish: ga gle irish
Welsh: cy cym wel welsh
Latin: la lat latin
Esperanto: eo epo esperanto
Several: mul multiple multilingual
"""


@lru_cache(maxsize=1)
def _spelled() -> dict[str, tuple[str, ...]]:
    out = {}
    for line in _NAMES.strip().splitlines():
        name, _, spellings = line.partition(": ")
        out[name] = tuple(spellings.split())
    return out


@lru_cache(maxsize=1)
def _known() -> dict[str, str]:
    return {spelling: name for name, spellings in _spelled().items() for spelling in spellings}


def language_named(text: str) -> str:
    """The English name of a language by its code or name in any of the usual ways; itself, trimmed, where it is none of them.

    >>> language_named("eng"), language_named("Français"), language_named("en-GB"), language_named("Klingon")
    ('English', 'French', 'English', 'Klingon')
    """
    said = text.strip()
    low = said.lower().strip(" .;")
    return _known().get(low) or _known().get(low.split("-")[0].split("_")[0]) or said


def spellings_of(name: str) -> list[str]:
    """In which ways, in lower case, a source may write the language of this name.

    >>> "deu" in spellings_of("German"), spellings_of("Klingon")
    (True, ['klingon'])
    """
    return list(_spelled().get(name, ())) or [name.lower()]
