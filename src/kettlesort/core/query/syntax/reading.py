"""Reading a query in another family of syntax: its tokens are turned into ours, and read by our own reader.

So the grammar, its repairs and its messages are one for all.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace

from kettlesort.core.query.lexer import Token
from kettlesort.core.query.nodes import EVERYWHERE, VALUE_FIELDS, Group, In, Near, Node, Years, normal, parts_of, with_parts
from kettlesort.core.query.parser import NotAQuery, Parsed, parse
from kettlesort.core.query.syntax.profile import Profile

_END = r"(?=[\s()\"]|$)"
_BEGINS = ("quoted", "unclosed", "word", "marked", "between", "since", "until", "open", "related")


def read(typed: str, profile: Profile) -> Parsed:
    """The query that ``typed`` says in the syntax of a profile. Raises NotAQuery."""
    parsed = parse(typed, tokens_of=_Turner(profile).tokens)
    return Parsed(normal(_one_order(_joined_years(_everywhere(parsed.node)))), parsed.notes)


def _everywhere(node: Node) -> Node:
    """Without the code for where we look anyway."""
    node = with_parts(node, tuple(map(_everywhere, parts_of(node))))
    return node.part if isinstance(node, In) and set(node.fields) == set(EVERYWHERE) else node


def _joined_years(node: Node) -> Node:
    """Since one year and until another is one range."""
    node = with_parts(node, tuple(map(_joined_years, parts_of(node))))
    if not (isinstance(node, Group) and node.joint == "all"):
        return node
    out: list[Node] = []
    for part in node.parts:
        match (out[-1] if out else None, part):
            case Years(int(first), None), Years(None, int(last)) if first <= last:
                out[-1] = Years(first, last)
            case _:
                out.append(part)
    return out[0] if len(out) == 1 else replace(node, parts=tuple(out))


def _one_order(node: Node) -> Node:
    """A proximity said in either order is one."""
    node = with_parts(node, tuple(map(_one_order, parts_of(node))))
    if not (isinstance(node, Group) and node.joint == "any"):
        return node
    kept: list[Node] = []
    for part in node.parts:
        if not (isinstance(part, Near) and part.left != part.right and Near(part.right, part.left, part.within) in kept):
            kept.append(part)
    return kept[0] if len(kept) == 1 else replace(node, parts=tuple(kept))


def _pattern(form: str, **places: str) -> str:
    """A regular expression for a form, blanks as one likes, with these groups in its places."""
    out = r"\s*".join(re.escape(part) for part in form.split())
    for name, pattern in places.items():
        out = out.replace(re.escape("{" + name + "}"), pattern)
    return out


@dataclass(slots=True)
class _Turned:
    """A text as far as it is turned: our tokens; where each open parenthesis and the last ``operand`` begin in them; how many they are when the last one is a
    ``phrase`` of words side by side; the relation of the words to come; the joints of each frame so far with its beginning, for reading from the left."""

    out: list[Token] = field(default_factory=list)
    opened: list[int] = field(default_factory=list)
    operand: int = -1
    phrase: int = 0
    relation: str = ""
    frames: list[list[str]] = field(default_factory=lambda: [[]])
    begins: list[int] = field(default_factory=lambda: [0])

    @property
    def next_operand(self) -> int:
        """Where what comes next begins: with the code before it, if there is one."""
        return len(self.out) - bool(self.out and self.out[-1].kind == "field")

    def begin_frame(self) -> None:
        """A parenthesis was opened."""
        self.frames.append([])
        self.begins.append(len(self.out))

    def end_frame(self) -> None:
        """A parenthesis is closed; the group is an operand."""
        if self.opened:
            self.operand = self.opened.pop()
            self.frames.pop()
            self.begins.pop()


class _Turner:
    """Turns text into our tokens: codes that stand behind go before, operators get our names."""

    def __init__(self, profile: Profile) -> None:
        self.profile = profile
        self.pattern = re.compile("|".join(f"(?P<{name}>{pattern})" for name, pattern in self._patterns() if pattern), re.I | re.S)
        signs = {profile.words.many: "*", profile.words.one: "?"}
        self.signs = str.maketrans({sign: ours for sign, ours in signs.items() if sign})
        self.refused = re.compile(f"[{re.escape(profile.words.refused)}]") if profile.words.refused else None
        self.kinds = {op.casefold(): "AND" for op in profile.operators.and_} | {op.casefold(): "OR" for op in profile.operators.or_}
        self.kinds |= {op.casefold(): "NOT" for op in profile.operators.not_}

    def _patterns(self) -> Iterator[tuple[str, str]]:
        profile = self.profile
        code = r"[A-Za-z][\w.\-" + re.escape(profile.fields.joined) + "]*?"
        around = profile.fields.form.partition("{term}")
        yield "blank", r"\s+"
        for name in ("since", "until", "between"):
            places = {place: rf"(?P<{name}_{place}>\d{{4}})" for place in ("first", "last")}
            yield name, _pattern(getattr(profile.years, name), **places) + (_END if getattr(profile.years, name) else "")
        if profile.near.mark:
            yield "marked", r'"(?P<words>[^"]*)"' + _pattern(profile.near.mark, n=r"(?P<mark_n>\d{1,6})")
        yield "quoted", r'"[^"]*"'
        yield "unclosed", r'"[^"]*$'
        if profile.near.operator:
            yield "near", _pattern(profile.near.operator, n=r"\s*(?P<near_n>\d{1,6})") + _END
        names = [*profile.operators.and_, *profile.operators.or_, *profile.operators.not_]
        yield "joint", "(?:" + "|".join(map(re.escape, sorted(names, key=len, reverse=True))) + ")" + _END
        if profile.code_before:
            relation = "|".join(re.escape(word) for word in (profile.fields.any, profile.fields.all) if word)
            if relation:
                yield "related", rf"(?P<related_code>{code})\s+(?P<relation>{relation})(?=[\s\"])"
            yield "field", _pattern(around[0], code=f"(?P<field_code>{code})")
            behind = ""
        else:
            behind = _pattern(around[2], code=f"(?P<field_code>{code})")
            yield "field", behind
        yield "open", r"\("
        yield "close", r"\)"
        stop = rf"(?!{behind.replace('?P<field_code>', '?:')})" if behind else ""
        yield "word", rf"(?:{stop}[^\s()\"\[\]])+"
        yield "stray", "."

    def tokens(self, text: str) -> Iterator[Token]:
        """Our tokens for ``text``."""
        turned = _Turned()
        for found in self.pattern.finditer(text):
            kind = found.lastgroup or "stray"
            if kind == "blank":
                continue
            if kind in _BEGINS or (kind == "field" and self.profile.code_before):
                self._beside(turned.out, found.start())
            match kind:
                case "between" | "since" | "until":
                    self._years(turned, found, kind)
                case "marked":
                    self._marked(turned, found)
                case "near" | "joint":
                    self._operator(turned, found, kind)
                case "related" | "field":
                    self._code(turned, found, kind)
                case "open":
                    turned.opened.append(turned.next_operand)
                    turned.out.append(Token("open", "(", *found.span()))
                    turned.begin_frame()
                case "close":
                    turned.end_frame()
                    turned.out.append(Token("close", ")", *found.span()))
                case "quoted" | "word":
                    self._words(turned, found, kind)
                case _:
                    turned.out.append(Token(kind, found[0], *found.span()))
        yield from self._said(turned.out)

    def _years(self, turned: _Turned, found: re.Match[str], kind: str) -> None:
        first, last = found[f"{kind}_first"] if kind != "until" else "", found[f"{kind}_last"] if kind != "since" else ""
        turned.operand = len(turned.out)
        turned.out += [Token("field", "year:", *found.span()), Token("word", f"{first}-{last}", *found.span())]

    def _marked(self, turned: _Turned, found: re.Match[str]) -> None:
        """Words in quotation marks with a mark of how near each other they stand."""
        (begin, end), out = found.span(), turned.out
        turned.operand = turned.next_operand
        apart = max(0, int(found["mark_n"]) - self.profile.near.adds)
        out.append(Token("open", "(", begin, begin))
        for k, word in enumerate(found["words"].split()):
            if k:
                out.append(Token("near", f"NEAR/{apart}", begin, end))
            out.append(Token("word", word, begin, end))
        out.append(Token("close", ")", end, end))

    def _operator(self, turned: _Turned, found: re.Match[str], kind: str) -> None:
        joint = "NEAR" if kind == "near" else self.kinds[found[0].casefold()]
        if self.profile.operators.first == "left":
            self._from_the_left(turned.out, turned.frames[-1], turned.begins[-1], joint)
        within = f"/{max(0, int(found['near_n']) - self.profile.near.adds)}" if kind == "near" else ""
        turned.out.append(Token(kind, joint + within, *found.span()))

    def _code(self, turned: _Turned, found: re.Match[str], kind: str) -> None:
        """A field's code: before its term, or behind it and put before it."""
        begin, end = found.span()
        turned.relation = (found["relation"] or "").casefold() if kind == "related" else ""
        token = self._field(found["related_code"] if kind == "related" else found["field_code"], begin, end)
        if not self.profile.code_before:
            self._put_before(turned, token, found[0])
            return
        turned.operand = len(turned.out)
        turned.out.append(token)
        if self.profile.code_around:
            turned.opened.append(turned.operand)
            turned.out.append(Token("open", "(", end - 1, end))
            turned.begin_frame()

    def _words(self, turned: _Turned, found: re.Match[str], kind: str) -> None:
        (begin, end), out, said = found.span(), turned.out, found[0]
        if kind == "word":
            self._not_refused(said, begin)
            if self.profile.operators.beside == "phrase" and out and (out[-1].kind == "word" or len(out) == turned.phrase):
                out[-1] = Token("quoted", f'"{out[-1].text.strip(chr(34))} {said}"', out[-1].begin, end)
                turned.phrase = len(out)
                return
        turned.operand = turned.next_operand
        out += self._related(said.strip('"'), turned.relation, begin, end) if turned.relation else [Token(kind, said, begin, end)]
        turned.relation = ""

    def _put_before(self, turned: _Turned, token: Token, said: str) -> None:
        """A code that stands behind its term: put before it."""
        if turned.operand < 0:
            raise NotAQuery(
                f"“{said}” stands behind nothing.",
                token.begin,
                token.end,
                "a word, a phrase or a group",
                "write what to look for before it",
            )
        if turned.out[turned.operand].kind == "field":
            raise NotAQuery("A term has two codes.", token.begin, token.end, "one code for a term", "take one of them out")
        turned.out.insert(turned.operand, token)

    def _field(self, code: str, begin: int, end: int) -> Token:
        names = self.profile.fields_of(code)
        if names is None:
            raise NotAQuery(
                f"There is no code “{code}” in this syntax.",
                begin,
                end,
                ", ".join(self.profile.codes),
                "write one of these, or add the code to the profile",
            )
        return Token("field", ",".join(names) + ":", begin, end)

    def _beside(self, out: list[Token], begin: int) -> None:
        """Nothing stands between two terms: what the syntax takes that for."""
        meaning = self.profile.operators.beside
        if meaning in ("and", "or") and out and out[-1].kind in ("quoted", "word", "close"):
            out.append(Token("joint", meaning.upper(), begin, begin))

    def _not_refused(self, word: str, begin: int) -> None:
        odd = self.refused.search(word) if self.refused else None
        if odd and (odd[0] != "-" or odd.start() == 0):
            raise NotAQuery(
                f"“{odd[0]}” has a meaning in this syntax that has no equal here.",
                begin + odd.start(),
                begin + odd.end(),
                "words, phrases, AND, OR, NOT",
                "take it out, or say it by an operator",
            )

    def _related(self, text: str, relation: str, begin: int, end: int) -> Iterator[Token]:
        """Any or all of some words."""
        yield Token("open", "(", begin, begin)
        for k, word in enumerate(text.split()):
            if k:
                yield Token("joint", "OR" if relation == self.profile.fields.any else "AND", begin, end)
            yield Token("word", word, begin, end)
        yield Token("close", ")", end, end)

    def _heading(self, text: str, field: str) -> str:
        form = self.profile.descriptor
        mark = bool(form.mark) and text.rstrip().endswith(form.mark)
        text = text.rstrip().removesuffix(form.mark) if mark else text
        if form.qualifier and form.qualifier != "/":
            text = text.replace(form.qualifier, "/")
        return text + ("+" if mark or field == "narrower:" else "")

    def _from_the_left(self, out: list[Token], joints: list[str], begin: int, joint: str) -> None:
        """AND and OR stand mixed, and are read from the left: what stands before goes into parentheses."""
        follows_and = joint == "NOT" and bool(out) and out[-1].kind == "joint"
        if joints and joints[-1] != joint and not follows_and:
            place = out[begin] if begin < len(out) else Token("open", "(", 0, 0)
            out.insert(begin, Token("open", "(", place.begin, place.begin))
            out.append(Token("close", ")", out[-1].end, out[-1].end))
        joints.append(joint)

    def _said(self, tokens: list[Token]) -> Iterator[Token]:
        """The tokens with words, headings and values as we write them, each by the field that it stands in."""
        fields = [""]
        code = ""
        for token in tokens:
            if token.kind == "field":
                code = token.text
                yield token._replace(text="descriptor:") if code == "narrower:" else token
                continue
            inside = code or fields[-1]
            if token.kind == "open":
                fields.append(inside)
            elif token.kind == "close" and len(fields) > 1:
                fields.pop()
            if token.kind not in ("word", "quoted"):
                yield token
            elif inside in ("descriptor:", "narrower:"):
                yield token._replace(kind="quoted", text=f'"{self._heading(token.text.strip(chr(34)), inside)}"')
            else:
                yield (
                    token
                    if inside in ("year:", *(f"{name}:" for name in VALUE_FIELDS))
                    else token._replace(text=token.text.translate(self.signs))
                )
            code = ""
