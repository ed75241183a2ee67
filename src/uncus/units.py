"""Lengths, angles and weights: parsed from what people type, printed as the trade prints them.

Inside the program everything is millimetres, degrees and kilograms.
"""

import math
import re
from enum import StrEnum
from fractions import Fraction
from typing import NoReturn

from uncus.words import Sentence, quoted

INCH = 25.4
STEP_PLACES = 3  # of a step of sizes: nearer to one than this is that one, whatever the reckoning left
FOOT = 12 * INCH
POUND = 0.45359237
SIXTEENTH = INCH / 16
STEEL_DENSITY = 7.85e-6  # kg/mm3 (490 lb/ft3)


class Units(StrEnum):
    """How a job's lengths and weights are shown; either kind may always be typed."""

    IMPERIAL = "imperial"
    METRIC = "metric"

    @property
    def words(self) -> str:
        return "ft-in" if self is Units.IMPERIAL else "mm"


class UnitError(Sentence, ValueError):
    """A length, angle or list that cannot be read; the message is one sentence for the user."""


_TYPED = 300  # characters of one typed value
_LIST = 20_000  # characters of a typed list
_DEEPEST = 20  # brackets in brackets
_FARTHEST = 1e12  # of anything measured, in the units kept inside


def _held(text: str, thing: str, most: int = _TYPED) -> str:
    """What was typed, if it is short enough to be looked at: whatever reads it may then take its time."""
    if len(text) > most:
        raise UnitError(f"{quoted(text)} is too long to be {thing} ({len(text):,} characters).")
    return text


def _within(value: float, text: str) -> float:
    if not abs(value) <= _FARTHEST:
        raise UnitError(f"{quoted(text)} is out of reach; type a smaller figure.")
    return value


_NUMBER = r"\d+(?:\.\d+)?|\.\d+"
_INCHES = rf"(?:(?P<whole>{_NUMBER})(?:[\s-]+(?P<num>\d+)/(?P<den>\d+))?|(?P<num2>\d+)/(?P<den2>\d+))"
_FEET_INCHES = re.compile(rf"^(?P<feet>{_NUMBER})\s*(?:'|ft|-(?=\s*\d))\s*-?\s*(?:{_INCHES})?\s*(?:\"|in|'')?$")
_ONLY_INCHES = re.compile(rf"^{_INCHES}\s*(?:\"|in|'')?$")
_METRIC = re.compile(rf"^(?P<value>{_NUMBER})\s*(?P<unit>mm|cm|m)$")


def _inches(match: re.Match[str]) -> float:
    parts = match.groupdict()
    try:
        whole = float(parts["whole"] or 0)
        fraction = Fraction(int(parts["num"] or parts["num2"] or 0), int(parts["den"] or parts["den2"] or 1))
    except ZeroDivisionError:
        raise UnitError(f"{quoted(match.string)} has a fraction over zero.") from None
    return whole + float(fraction)


def _plain_marks(text: str) -> str:
    return " ".join(text.lower().split()).replace("’", "'").replace("”", '"').replace("″", '"').replace("′", "'")


def parse_length(text: str, units: Units = Units.IMPERIAL) -> float:
    """Millimetres of a typed length: `12'-6 1/2`, `12-6.5`, `150.5"`, `3825`, `3.825m`, `-6`, or of a sum of such:
    `(24'-6 - 8")/3`.

    A bare number is inches in an imperial job and millimetres in a metric one. A hyphen after feet joins the inches to
    them; to take away from whole feet, type them as `12'-0 - 6`.
    Raises UnitError with a sentence for the user.
    """
    plain = _single(_held(text, "a length"), units)
    if plain is None and re.search(r"[-+*×/()]", text.strip()[1:] + text[:1].strip("+-")):
        plain = _Sum(_plain_marks(text), units).value()
    if plain is None:
        raise UnitError(f"{quoted(text)} is not a length; type one like 12'-6 1/2, 150.5\", 3825mm or 3.825m.")
    return _within(plain, text)


class _Sum:
    """Lengths added and taken away, multiplied and divided by counts. `values` are (mm or count, is it bare)."""

    _MARKS = re.compile(r"\s*([-+*×/()])")
    _LENGTHS = tuple(re.compile(p.pattern.strip("^$")) for p in (_FEET_INCHES, _METRIC, _ONLY_INCHES))

    def __init__(self, text: str, units: Units) -> None:
        self.text, self.units, self.at, self.deep = text, units, 0, 0

    def value(self) -> float:
        found = self.terms()
        if self.at < len(self.text):
            self.fail()
        return self.length(found)

    def fail(self) -> NoReturn:
        at = f" at {quoted(self.text[self.at :].strip(), 20)}" if self.text[self.at :].strip() else ""
        raise UnitError(f"{quoted(self.text)} cannot be worked out{at}; type a sum such as (24'-6 - 8\")/3.")

    def length(self, value: tuple[float, bool]) -> float:
        size, bare = value
        return size * (INCH if self.units is Units.IMPERIAL else 1.0) if bare else size

    def mark(self, marks: str) -> str:
        match = self._MARKS.match(self.text, self.at)
        if match is None or match[1] not in marks:
            return ""
        self.at = match.end()
        return match[1]

    def terms(self) -> tuple[float, bool]:
        total = self.factors()
        while sign := self.mark("+-"):
            other = self.factors()
            if total[1] != other[1]:  # a bare number beside a length is a length
                total, other = (self.length(total), False), (self.length(other), False)
            total = (total[0] + (other[0] if sign == "+" else -other[0]), total[1])
        return total

    def factors(self) -> tuple[float, bool]:
        product = self.one()
        while sign := self.mark("*×/"):
            other = self.one()
            if not other[1] and not (sign != "/" and product[1]):
                raise UnitError(f"{quoted(self.text)}: lengths are multiplied and divided by plain counts only.")
            if sign == "/" and abs(other[0]) < 1e-12:
                raise UnitError(f"{quoted(self.text)} divides by nothing.")
            product = (product[0] / other[0] if sign == "/" else product[0] * other[0], product[1] and other[1])
        return product

    def one(self) -> tuple[float, bool]:
        if self.mark("-"):
            if self.mark("-"):
                self.fail()
            size, bare = self.one()
            return -size, bare
        if self.mark("("):
            self.deep += 1
            if self.deep > _DEEPEST:
                raise UnitError(f"{quoted(self.text)} has too many brackets in one another.")
            inner = self.terms()
            self.deep -= 1
            if not self.mark(")"):
                raise UnitError(f"{quoted(self.text)} has a bracket that is not closed.")
            return inner
        while self.text[self.at : self.at + 1].isspace():
            self.at += 1
        longest = max((m.end() for p in self._LENGTHS if (m := p.match(self.text, self.at))), default=self.at)
        word = self.text[self.at : longest].strip()
        number = re.match(_NUMBER, word)
        if not word or number is None:
            self.fail()
        self.at = longest
        if number.end() == len(word):
            return float(word), True
        length = _single(word, self.units)
        if length is None:
            self.fail()
        return length, False


def _single(text: str, units: Units) -> float | None:
    """Millimetres of one typed length; None where it is none."""
    text = _plain_marks(text)
    sign = 1.0
    if text[:1] in "+-−" and text:
        sign = 1.0 if text[0] == "+" else -1.0
        text = text[1:].strip()
    if match := _METRIC.match(text):
        return sign * float(match["value"]) * {"mm": 1.0, "cm": 10.0, "m": 1000.0}[match["unit"]]
    if units is Units.METRIC and re.fullmatch(_NUMBER, text):
        return sign * float(text)
    if match := _ONLY_INCHES.match(text):
        return sign * _inches(match) * INCH
    if match := _FEET_INCHES.match(text):
        return sign * (float(match["feet"]) * FOOT + _inches(match) * INCH)
    return None


def parse_lengths(text: str, units: Units = Units.IMPERIAL) -> list[float]:
    """A typed list of spacings such as `3@24', 20', 2@18'-6`, in mm.

    Raises UnitError; more than 1,000 spacings are refused.
    """
    spacings: list[float] = []
    for item in filter(None, (piece.strip() for piece in _held(text, "a list of lengths", _LIST).split(","))):
        count, at, length = item.rpartition("@")
        if at and not count.strip().isdecimal():
            raise UnitError(f"{quoted(item)} is not a spacing; type a count and a length like 3@24'.")
        times = int(_held(count.strip(), "a count", 9)) if at else 1
        if not 0 < times <= 1000 or len(spacings) + times > 1000:
            raise UnitError(f"{quoted(item)} asks for too many or no spacings; give between 1 and 1,000.")
        spacings += [parse_length(length, units)] * times
    return spacings


def counted(number: int, thing: str) -> str:
    """A number of things in words: `1 member`, `3 members`."""
    return f"{number:,} {thing}" + ("" if number == 1 else "s")


def sixteenths(mm: float) -> int:
    """Whole sixteenths of an inch nearest to a length, halves away from zero."""
    return int(math.copysign(math.floor(abs(mm) / SIXTEENTH + 0.5), mm))


def _imperial(n16: int, feet: bool = True) -> str:
    sign, n16 = ("-" if n16 < 0 else ""), abs(n16)
    whole_feet, rest = divmod(n16, 192) if feet else (0, n16)
    whole, part = divmod(rest, 16)
    fraction = str(Fraction(part, 16)) if part else ""
    if whole_feet:
        inches = f"{whole} {fraction}" if fraction else str(whole)
        return f"{sign}{whole_feet}'-{inches}"
    return sign + (f"{whole} {fraction}" if whole and fraction else fraction or str(whole))


def format_length(mm: float, units: Units = Units.IMPERIAL) -> str:
    """A length as the trade prints it: `14'-2 5/8`, `7 1/2`, or whole mm (0.5 where needed)."""
    if units is Units.IMPERIAL:
        return _imperial(sixteenths(mm))
    tenths = math.copysign(math.floor(abs(mm) * 10 + 0.5), mm) / 10
    return f"{tenths:.0f}" if abs(tenths - round(tenths)) < 0.05 else f"{tenths:.1f}"


def length_in_words(mm: float, units: Units) -> str:
    """A length as a sentence says it, with its unit: `7 1/2"` or `190 mm`."""
    return format_length(mm, units) + ('"' if units is Units.IMPERIAL else " mm")


def format_elevation(mm: float, units: Units = Units.IMPERIAL) -> str:
    """A height with its sign and, in an imperial job, always its feet: `+12'-0`, `+0'-0`, `-0'-6`."""
    text = format_length(abs(mm), units)
    if units is Units.IMPERIAL and "'" not in text:
        text = f"0'-{text}"
    return ("-" if mm < -0.05 else "+") + text


def format_typed(mm: float, units: Units = Units.IMPERIAL) -> str:
    """A length for a field that is edited: exact where 1/16" or 0.1 mm would lose something."""
    text = format_length(mm, units)
    if abs(parse_length(text, units) - mm) < 0.01:
        return text
    return f"{mm / INCH:.4f}".rstrip("0").rstrip(".") + '"' if units is Units.IMPERIAL else f"{mm:.2f}"


def format_weight(kg: float, units: Units = Units.IMPERIAL) -> str:
    """Weight in whole pounds or in kg (one decimal under 100 kg)."""
    if units is Units.IMPERIAL:
        return f"{kg / POUND:.0f} lb"
    return f"{kg:.1f} kg" if kg < 100 else f"{kg:.0f} kg"


def chain(positions: list[float], units: Units = Units.IMPERIAL) -> list[float]:
    """Steps between positions from a common datum which, as printed, add up to the printed positions.

    The positions are rounded to what is printed first and then differenced.
    """
    if units is Units.IMPERIAL:
        rounded = [sixteenths(p) * SIXTEENTH for p in positions]
    else:
        rounded = [math.floor(p * 10 + 0.5) / 10 for p in positions]
    return [b - a for a, b in zip(rounded, rounded[1:], strict=False)]


def parse_angle(text: str) -> float:
    """Degrees of a typed angle: `30`, `30°`, `-12.5`, or a bevel as a run of 12: `4:12`."""
    rise, colon, run = _held(text, "an angle").strip().rstrip("°").partition(":")
    try:
        value = math.degrees(math.atan2(float(rise), float(run))) if colon else float(rise)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise UnitError(f"{quoted(text)} is not an angle; type degrees like 30 or a slope like 4:12.")
    return value


def format_angle(degrees: float) -> str:
    """Degrees to a hundredth, without idle zeros."""
    return f"{degrees:.2f}".rstrip("0").rstrip(".") + "°"


_WEIGHTS = {"": None, "lb": POUND, "lbs": POUND, "ton": 2000 * POUND, "tons": 2000 * POUND, "kg": 1.0, "t": 1000.0}
_FORCES = {"": None, "k": 4448.2216, "kip": 4448.2216, "kips": 4448.2216, "lb": 4.4482216, "kn": 1000.0, "n": 1.0}
_MOMENTS = {
    "": None, "kip-ft": 4448.2216 * FOOT, "k-ft": 4448.2216 * FOOT, "kip-in": 4448.2216 * INCH,
        "k-in": 4448.2216 * INCH,
    "knm": 1e6, "nm": 1000.0,
}  # fmt: skip


_STRESSES = {"": None, "ksi": 4448.2216 / INCH**2, "psi": 4.4482216 / INCH**2, "mpa": 1.0, "n/mm2": 1.0, "n/mm²": 1.0}


def _with_unit(text: str, sizes: dict[str, float | None], usual: str, thing: str, like: str) -> float:
    match = re.fullmatch(
        r"(-?(?:\d+(?:\.\d*)?|\.\d+))\s*([a-z/²2-]*)", _held(text, f"a {thing}").strip().lower().replace("·", "")
    )
    if match is None or match[2] not in sizes:
        raise UnitError(f"{quoted(text)} is not a {thing}; type one like {like}.")
    return _within(float(match[1]), text) * (sizes[match[2]] or sizes[usual] or 1.0)


def parse_force(text: str, units: Units = Units.IMPERIAL) -> float:
    """Newtons of a typed force: `25`, `25 k`, `110 kN`; a bare number is kips or kN. Raises UnitError."""
    return _with_unit(text, _FORCES, "k" if units is Units.IMPERIAL else "kn", "force", "25 kips or 110 kN")


def parse_weight(text: str, units: Units = Units.IMPERIAL) -> float:
    """Kilograms of a typed weight: `20000 lb`, `9 t`; a bare number is pounds or kg. Raises UnitError."""
    return _with_unit(text, _WEIGHTS, "lb" if units is Units.IMPERIAL else "kg", "weight", "20000 lb or 9 t")


def parse_moment(text: str, units: Units = Units.IMPERIAL) -> float:
    """Newton mm of a typed moment; a bare number is kip-ft or kNm. Raises UnitError."""
    return _with_unit(text, _MOMENTS, "k-ft" if units is Units.IMPERIAL else "knm", "moment", "80 kip-ft or 110 kNm")


def parse_stress(text: str, units: Units = Units.IMPERIAL) -> float:
    """MPa of a typed stress; a bare number is ksi or MPa. Raises UnitError."""
    return _with_unit(text, _STRESSES, "ksi" if units is Units.IMPERIAL else "mpa", "stress", "4 ksi or 25 MPa")


def _trimmed(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


def format_force(newtons: float, units: Units = Units.IMPERIAL) -> str:
    """A force in kips or kN to a hundredth."""
    return f"{_trimmed(newtons / 4448.2216)} kips" if units is Units.IMPERIAL else f"{_trimmed(newtons / 1000)} kN"


def format_stress(mpa: float, units: Units = Units.IMPERIAL) -> str:
    """A stress in ksi or MPa to a hundredth."""
    return f"{_trimmed(mpa * INCH**2 / 4448.2216)} ksi" if units is Units.IMPERIAL else f"{_trimmed(mpa)} MPa"


def format_moment(newton_mm: float, units: Units = Units.IMPERIAL) -> str:
    """A moment in kip-ft or kNm to a hundredth."""
    if units is Units.IMPERIAL:
        return f"{_trimmed(newton_mm / (4448.2216 * FOOT))} kip-ft"
    return f"{_trimmed(newton_mm / 1e6)} kNm"
