"""Lenses as typed text: `role is beam and (section begins W12 or not lot is 3) and weight over 200 lb`.

A row is a fact, a relation and a value; rows are joined by `and` and `or`, turned about by `not`, grouped by round
brackets; `and` binds closer than `or`; `anything` and `nothing` stand for themselves. A value with brackets or
joining words in it goes in quotes.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from uncus.job.errors import JobError
from uncus.job.records import Both, Either, Fact, Not, Rule
from uncus.lens.facts import FACTS, Asked, Relation, check

_TOKEN = re.compile(r'\s*(?:(?P<bracket>[()])|"(?P<quoted>[^"]*)"|“(?P<curly>[^”]*)”|(?P<word>[^\s()"“”]+))')
_JOINING = ("and", "or", "not")
_DEEPEST = 40


class _Token(str):
    quoted = False


def _tokens(text: str) -> list[_Token]:
    out: list[_Token] = []
    at, text = 0, text.rstrip()
    while at < len(text):
        match = _TOKEN.match(text, at)
        if match is None:
            raise JobError("A quoted value is not closed; end it with a second quote.")
        quoted = match["quoted"] if match["quoted"] is not None else match["curly"]
        token = _Token(quoted if quoted is not None else match["bracket"] or match["word"])
        token.quoted = quoted is not None
        out.append(token)
        at = match.end()
    return out


class _Reader:
    def __init__(self, tokens: list[_Token], known: Mapping[str, Asked], check: Callable[[Fact], None]) -> None:
        self.tokens, self.at, self.deep = tokens, 0, 0
        self.known, self.check = known, check

    @property
    def next(self) -> _Token | None:
        return self.tokens[self.at] if self.at < len(self.tokens) else None

    def is_word(self, *words: str) -> bool:
        token = self.next
        return token is not None and not token.quoted and token.casefold() in words

    def either(self) -> Rule:
        parts = [self.both()]
        while self.is_word("or"):
            self.at += 1
            parts.append(self.both())
        return parts[0] if len(parts) == 1 else Either(tuple(parts))

    def both(self) -> Rule:
        parts = [self.one()]
        while self.is_word("and"):
            self.at += 1
            parts.append(self.one())
        return parts[0] if len(parts) == 1 else Both(tuple(parts))

    def one(self) -> Rule:
        self.deep += 1
        if self.deep > _DEEPEST:
            raise JobError("This lens is nested too deeply to be read; split it into several.")
        try:
            if self.is_word("not"):
                self.at += 1
                return Not(self.one())
            if self.is_word("("):
                self.at += 1
                inner = self.either()
                if not self.is_word(")"):
                    raise JobError("A bracket is not closed; add “)” where the group ends.")
                self.at += 1
                return inner
            for word, whole in (("anything", Both()), ("nothing", Either())):
                if self.is_word(word):
                    self.at += 1
                    return whole
            return self.row()
        finally:
            self.deep -= 1

    def row(self) -> Rule:
        fact = self.phrase(self.known)
        if fact is None:
            shown = f"“{self.next}”" if self.next is not None else "the end"
            raise JobError(f"A fact was expected at {shown}; known are {', '.join(self.known)}.")
        turned = False
        relation = self.phrase(list(Relation))
        if relation is None:
            names = ", ".join(Relation)
            raise JobError(f"After “{fact}” a relation is needed: {names}.")
        if self.is_word("not"):  # `lot is not 3`
            self.at += 1
            turned = True
        asked, at = self.known[fact], self.at
        value = self.value()
        if self.at == at and (asked.measure or asked.choices):
            such = ", ".join(asked.choices) if asked.choices else f"a {asked.measure}"
            raise JobError(f"After “{fact} {relation}” what it is compared with is missing: {such}.")
        found = Fact(fact, relation, value)
        self.check(found)
        return Not(found) if turned else found

    def phrase(self, known) -> str | None:  # type: ignore[no-untyped-def]
        """The longest of some known phrases that stands here."""
        for name in sorted(known, key=lambda n: -len(n.split())):
            words = name.split()
            here = self.tokens[self.at : self.at + len(words)]
            if [t.casefold() for t in here] == words and not any(t.quoted for t in here):
                self.at += len(words)
                return str(name)
        return None

    def value(self) -> str:
        if self.next is not None and self.next.quoted:
            self.at += 1
            return str(self.tokens[self.at - 1])
        words = []
        while self.next is not None and not self.next.quoted and not self.is_word("(", ")", *_JOINING):
            words.append(str(self.next))
            self.at += 1
        return " ".join(words)


def read(text: str, known: Mapping[str, Asked] = FACTS, check: Callable[[Fact], None] = check) -> Rule:
    """The rule a text says, of the facts that are `known`, each row of which `check` lets pass. Raises JobError with
    what is wrong where."""
    if len(text) > 4000:
        raise JobError("This lens is too long to be read; keep it under 4,000 letters.")
    tokens = _tokens(text)
    if not tokens:
        return Both()
    reader = _Reader(tokens, known, check)
    rule = reader.either()
    if reader.next is not None:
        raise JobError(f"“{reader.next}” does not belong here; join rows by and, or.")
    return rule


def write(rule: Rule) -> str:
    """A rule as text that reads back as the same rule."""
    return _write(rule, 0)


def _write(rule: Rule, binding: int) -> str:
    match rule:
        case Fact(fact, relation, value):
            return f"{fact} {relation} {_quoted(value)}"
        case Not(Fact(fact, Relation.IS as relation, value)):
            return f"{fact} {relation} not {_quoted(value)}"
        case Not(of):
            return f"not {_write(of, 3)}"
        case Both(()):
            return "anything" if binding else ""
        case Either(()):
            return "nothing"
        case Both(of):
            words = " and ".join(_write(one, 2) for one in of)
            return f"({words})" if binding >= 2 and len(of) > 1 else words
        case Either(of):
            words = " or ".join(_write(one, 1) for one in of)
            return f"({words})" if binding >= 1 and len(of) > 1 else words
    raise TypeError(rule)


def _quoted(value: str) -> str:
    plain = bool(value) and not re.search(r'[()"“”]|\s{2}|^\s|\s$', value)
    if plain and not any(word.casefold() in _JOINING for word in value.split()):
        return value
    return '"' + value.replace('"', "''") + '"'
