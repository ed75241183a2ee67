"""Words for people: sentences that stay short and on one line, whatever text went into them."""

import re

QUOTED = 80  # characters of somebody's text that a sentence repeats
_LONGEST = 600  # characters of a sentence

# What a line of text may not hold: controls, line ends, halves of surrogate pairs, marks that turn the reading
# direction.
_UNSHOWN = re.compile("[\x00-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069\ud800-\udfff\ufffe\uffff]+")
_QUOTATION = re.compile("“([^“]*)”|`([^`]*)`")  # ours, and how the libraries quote


def one_line(text: str) -> str:
    """Text as one line that can be shown, written and sent anywhere: what cannot be is a space."""
    return _UNSHOWN.sub(" ", text)


def quoted(text: str, most: int = QUOTED) -> str:
    """Somebody's text in quotation marks, shortened where it is long."""
    plain = one_line(text[: most + 1])
    return f"“{plain[: most - 1]}…”" if len(plain) > most else f"“{plain}”"


def sentence(words: str) -> str:
    """Words as one sentence to show: one line, and what it quotes is short, however it was put together."""
    plain = _QUOTATION.sub(lambda match: quoted(match[1] or match[2] or ""), one_line(words))
    return plain if len(plain) <= _LONGEST else plain[: _LONGEST - 1] + "…"


def runs(text: str) -> bool:
    """Whether a spreadsheet would take a text for a formula and run it."""
    return text.lstrip()[:1] in ("=", "+", "-", "@")


class Sentence(Exception):
    """An error that is one sentence for the user."""

    def __init__(self, words: object = "") -> None:
        super().__init__(sentence(str(words)))


class Unknown(Sentence, LookupError):
    """A name that nothing in a catalogue has."""
