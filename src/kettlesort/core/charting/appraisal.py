"""Appraisal of studies: a team's own form of domains with questions, its rules for a judgement, and what stands."""

from __future__ import annotations

import re
import tomllib
import unicodedata
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from kettlesort.core.charting.rules import NotARule, Proposed, Rule, condition, proposed

MOST_DOMAINS, MOST_QUESTIONS, MOST_RULES, MOST_WORDS = 40, 60, 60, 12
_LONGEST = 2000


class Question(NamedTuple):
    """A signalling question; rules name it by its ``key``."""

    key: str
    text: str
    help: str = ""


class Domain(NamedTuple):
    """What is judged by some questions. Where no rule holds once all are answered, the judgement is ``otherwise``; "" leaves it to the person."""

    key: str
    name: str
    questions: tuple[Question, ...] = ()
    rules: tuple[Rule, ...] = ()
    otherwise: str = ""
    help: str = ""


class Form(NamedTuple):
    """What a team appraises, in its own words. ``judgements`` from the best to the worst; ``apart`` those that stand in no order ("cannot be judged").

    ``overall``: rules over the domains' judgements, which they name by key; without any, the worst of the domains stands for the whole, unless ``whole`` is
    False: then nothing does. ``appraisers``: 1 or 2 for each study; what two judge differently is settled by a third, or after talk.
    """

    name: str = "Appraisal"
    judgements: tuple[str, ...] = ()
    answers: tuple[str, ...] = ()
    domains: tuple[Domain, ...] = ()
    apart: tuple[str, ...] = ()
    overall: tuple[Rule, ...] = ()
    otherwise: str = ""
    whole: bool = True
    appraisers: int = 1
    settling: str = "third"

    @property
    def words(self) -> tuple[str, ...]:
        """All judgements, those in no order last."""
        return (*self.judgements, *self.apart)


class NotAForm(ValueError):
    """A form that makes no sense; the message says where and why."""


def tidied(form: Form) -> Form:
    """The form as it is kept: trimmed, with a key for everything that has none. Raises NotAForm where it makes no sense."""
    judgements, apart, answers = (
        tuple(_text(one, "a word") for one in some if one.strip()) for some in (form.judgements, form.apart, form.answers)
    )
    _each_once("judgements", (*judgements, *apart))
    _each_once("answers", answers)
    if len(judgements) < 2:
        raise NotAForm("A form needs at least two judgements, the best one first.")
    if len(judgements) + len(apart) > MOST_WORDS or len(answers) > MOST_WORDS:
        raise NotAForm(f"More than {MOST_WORDS} judgements or answers cannot be told apart.")
    if len(form.domains) > MOST_DOMAINS:
        raise NotAForm(f"{len(form.domains)} domains are more than {MOST_DOMAINS}.")
    if form.appraisers not in (1, 2) or form.settling not in ("third", "talk"):
        raise NotAForm("One or two people appraise a study; a third settles what differs, or any of the team after talk.")
    taken: set[str] = set()
    domains = tuple(_domain(one, answers, taken) for one in form.domains)
    _each_once("domains", [one.name for one in domains])
    whole = form._replace(
        name=_text(form.name, "the name") or "Appraisal", judgements=judgements, apart=apart, answers=answers, domains=domains,
        overall=_rules(form.overall), otherwise=form.otherwise.strip(),
    )  # fmt: skip
    for domain in domains:
        if domain.questions and len(answers) < 2:
            raise NotAForm("Questions need at least two answers to choose from.")
        _check(domain.name, domain.rules, domain.otherwise, [question.key for question in domain.questions], answers, whole.words)
    _check("The whole", whole.overall, whole.otherwise, [one.key for one in domains], whole.words, whole.words)
    return whole


def _domain(domain: Domain, answers: Sequence[str], taken: set[str]) -> Domain:
    name = _text(domain.name, "a domain’s name")
    if not name:
        raise NotAForm("Every domain needs a name.")
    if len(domain.questions) > MOST_QUESTIONS:
        raise NotAForm(f"{name}: {len(domain.questions)} questions are more than {MOST_QUESTIONS}.")
    own: set[str] = set()
    questions = []
    for question in domain.questions:
        text = _text(question.text, f"{name}: a question")
        if not text:
            raise NotAForm(f"{name}: every question needs its text.")
        questions.append(Question(_key(question.key, text, own, answers), text, _text(question.help, f"{name}: a help")))
    return Domain(
        _key(domain.key, name, taken, ()),
        name,
        tuple(questions),
        _rules(domain.rules),
        domain.otherwise.strip(),
        _text(domain.help, f"{name}: the help"),
    )


def _key(said: str, text: str, taken: set[str], answers: Sequence[str]) -> str:
    """A word by which rules can name something: as it was given, or made of the text; each once."""
    plain = unicodedata.normalize("NFKD", said.strip() or text).encode("ascii", "ignore").decode().casefold()
    words = [word for word in re.findall(r"[a-z0-9]+", plain) if word not in _SMALL] or re.findall(r"[a-z0-9]+", plain)
    base = "-".join(words if said.strip() else words[:3])[:40] or "part"
    key, k = base, 2
    while key in taken or key in _OF_RULES or key in {answer.casefold() for answer in answers}:
        if said.strip():
            raise NotAForm(
                f"“{key}” cannot be the key of “{text}”: {'it is a word of the rules or an answer' if key not in taken else 'another one has it'}."
            )
        key, k = f"{base}-{k}", k + 1
    taken.add(key)
    return key


_OF_RULES = ("all", "any", "none", "not", "and", "or", "is")
_SMALL = frozenset(
    [
        "a",
        "an",
        "the",
        "of",
        "to",
        "in",
        "on",
        "for",
        "and",
        "or",
        "was",
        "were",
        "is",
        "are",
        "be",
        "been",
        "how",
        "did",
        "do",
        "does",
        "by",
        "with",
        "that",
        "this",
        "it",
        "at",
        "from",
    ]
)


def _rules(some: Sequence[Rule]) -> tuple[Rule, ...]:
    if len(some) > MOST_RULES:
        raise NotAForm(f"{len(some)} rules are more than {MOST_RULES}.")
    return tuple(Rule(" ".join(rule.when.split()), rule.judgement.strip()) for rule in some if rule.when.strip() or rule.judgement.strip())


def _check(
    where: str, rules: Sequence[Rule], otherwise: str, names: Sequence[str], values: Sequence[str], judgements: Sequence[str]
) -> None:
    for k, rule in enumerate(rules, 1):
        try:
            condition(rule.when, names, values)
        except (NotARule, RecursionError) as error:
            raise NotAForm(f"{where}, rule {k}: {error or 'it is nested too deeply'}.") from error
        if rule.judgement not in judgements:
            raise NotAForm(f"{where}, rule {k}: “{rule.judgement}” is none of the judgements: {', '.join(judgements)}.")
    if otherwise and otherwise not in judgements:
        raise NotAForm(f"{where}: “{otherwise}” is none of the judgements: {', '.join(judgements)}.")


def _text(text: str, what: str) -> str:
    if len(text) > _LONGEST:
        raise NotAForm(f"{what} is longer than {_LONGEST} letters.".capitalize())
    return " ".join(text.split())


def _each_once(what: str, names: Sequence[str]) -> None:
    seen: set[str] = set()
    for name in names:
        if name.casefold() in seen:
            raise NotAForm(f"Two {what} are called “{name}”.")
        seen.add(name.casefold())


def of_domain(form: Form, domain: Domain, given: Mapping[str, str]) -> Proposed:
    """The judgement that the team's rules propose for a domain, from answers by the key of their question."""
    return proposed(domain.rules, domain.otherwise, [question.key for question in domain.questions], form.answers, given)


def of_whole(form: Form, judged: Mapping[str, str]) -> Proposed:
    """The judgement of a whole study, from those of its domains by their key: by the team's rules or, without any, the worst of them all."""
    keys = [domain.key for domain in form.domains]
    if not form.whole or not keys:
        return Proposed("", "")
    if form.overall or form.otherwise:
        return proposed(form.overall, form.otherwise, keys, form.words, judged)
    missing = tuple(key for key in keys if judged.get(key) not in form.words)
    if missing:
        return Proposed("", "", missing)
    order = {word: k for k, word in enumerate(form.words)}  # what cannot be judged leaves the whole open, so it is the worst
    return Proposed(max((judged[key] for key in keys), key=order.__getitem__), "the worst of its domains")


def filled(form: Form, judgement: str) -> float | None:
    """How full the sign of a judgement is drawn: 1 for the best, 0 for the worst; None for one that stands in no order.

    >>> form = Form(judgements=("sound", "some doubt", "serious doubt"), apart=("cannot be judged",))
    >>> [filled(form, it) for it in form.words]
    [1.0, 0.5, 0.0, None]
    """
    if judgement not in form.judgements:
        return None
    return 1 - form.judgements.index(judgement) / (len(form.judgements) - 1)


def write_toml(form: Form) -> str:
    """The form as TOML."""
    import tomli_w

    def rules(some: Sequence[Rule]) -> list[dict[str, str]]:
        return [rule._asdict() for rule in some]

    out: dict[str, Any] = {
        "name": form.name, "judgements": list(form.judgements), "apart": list(form.apart), "answers": list(form.answers), "appraisers": form.appraisers,
        "settling": form.settling, "whole": form.whole, "otherwise": form.otherwise, "overall": rules(form.overall),
        "domain": [
            {
                "key": domain.key, "name": domain.name, "help": domain.help, "otherwise": domain.otherwise, "question": [question._asdict() for question in domain.questions],
                "rule": rules(domain.rules),
            }
            for domain in form.domains
        ],
    }  # fmt: skip
    return tomli_w.dumps(_without_empty(out))


def _without_empty(said: Any) -> Any:
    if isinstance(said, dict):
        return {name: _without_empty(value) for name, value in said.items() if value not in ("", [])}
    return [_without_empty(one) for one in said] if isinstance(said, list) else said


def read_toml(text: str) -> Form:
    """A form from TOML. Raises NotAForm, with the line where the file itself says no."""
    try:
        found = tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise NotAForm(f"This is no TOML that can be read: {error}") from error
    top = {
        "name": str,
        "judgements": list,
        "apart": list,
        "answers": list,
        "appraisers": int,
        "settling": str,
        "whole": bool,
        "otherwise": str,
    }
    head = _fields({name: value for name, value in found.items() if name not in ("overall", "domain")}, top, "the form")
    domains = []
    for k, table in enumerate(_tables(found, "domain", "the form"), 1):
        where = f"domain {k}"
        rest = {name: value for name, value in table.items() if name not in ("question", "rule")}
        said = _fields(rest, {"key": str, "name": str, "help": str, "otherwise": str}, where)
        questions = [
            _fields(one, {"key": str, "text": str, "help": str}, f"{where}, question {j}")
            for j, one in enumerate(_tables(table, "question", where), 1)
        ]
        domains.append(
            Domain(
                said.get("key", ""), said.get("name", ""), tuple(Question(one.get("key", ""), one.get("text", ""), one.get("help", "")) for one in questions),
                _read_rules(table, "rule", where), said.get("otherwise", ""), said.get("help", ""),
            )
        )  # fmt: skip
    if not domains:
        raise NotAForm("This file holds no domain; each begins with [[domain]].")
    return tidied(Form(domains=tuple(domains), overall=_read_rules(found, "overall", "the form"), **head))


def _tables(found: Mapping[str, Any], name: str, where: str) -> list[dict[str, Any]]:
    some = found.get(name, [])
    if not isinstance(some, list) or not all(isinstance(one, dict) for one in some):
        raise NotAForm(f"{where}: “{name}” is written as [[{name}]].")
    return some


def _read_rules(found: Mapping[str, Any], name: str, where: str) -> tuple[Rule, ...]:
    some = [_fields(table, {"when": str, "judgement": str}, f"{where}, rule {k}") for k, table in enumerate(_tables(found, name, where), 1)]
    return tuple(Rule(entry.get("when", ""), entry.get("judgement", "")) for entry in some)


def _fields(said: Mapping[str, Any], shapes: Mapping[str, type], where: str) -> dict[str, Any]:
    for name, value in said.items():
        if name not in shapes:
            raise NotAForm(f"{where}: “{name}” is unknown; it has {', '.join(shapes)}.")
        shape = shapes[name]
        texts = isinstance(value, list) and all(isinstance(one, str) for one in value)
        if not isinstance(value, shape) or (shape is int and isinstance(value, bool)) or (shape is list and not texts):
            kind = {str: "a text", int: "a number", bool: "true or false", list: "a list of texts"}[shape]
            raise NotAForm(f"{where}: {name} is {kind}.")
    return {name: tuple(value) if isinstance(value, list) else value for name, value in said.items()}
