"""A limit state as it is written by hand: steps, each a formula with what is put into it, a demand and a capacity.

The formula that is printed is the one that is worked out: there is no second copy of it. What a symbol measures is told
by its first letter, as in the standards: F and f stresses, A areas, R, V, P, T, N forces, M moments, S, Z and W moduli,
small letters and L lengths; all else are numbers. Everything is in N, mm and MPa.
"""

from __future__ import annotations

import ast
import math
import operator
from collections.abc import Callable
from functools import lru_cache

import msgspec

from uncus.units import INCH, Units

KIP = 4448.2216
_NUMBERS = (
    "phi",
    "Omega",
    "gamma_",
    "alpha_",
    "beta_",
    "k_",
    "C",
    "n_",
    "n",
    "U_",
    "lambda",
    "K",
    "chi",
    "theta",
    "f",
    "mu",
    "D_u",
    "h_f",
    "s_v",
    "s_h",
    "k_1h",
)
_KINDS = {
    "F": "stress",
    "f": "stress",
    "E": "stress",
    "A": "area",
    "R": "force",
    "V": "force",
    "P": "force",
    "T": "force",
    "N": "force",
    "r": "force",
    "M": "moment",
    "S": "modulus",
    "Z": "modulus",
    "W": "modulus",
    "q": "line",
}
_OPERATORS: dict[type, Callable[..., float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.Pow: operator.pow,
    ast.USub: operator.neg,
}
_FUNCTIONS: dict[str, Callable[..., float]] = {"min": min, "max": max, "sqrt": math.sqrt,
    "sin": lambda d: math.sin(math.radians(d))}  # fmt: skip
_SIGNS = {
    "phi": "φ",
    "Omega": "Ω",
    "gamma": "γ",
    "alpha": "α",
    "beta": "β",
    "lambda": "λ",
    "chi": "χ",
    "theta": "θ",
    "pi": "π",
    "mu": "μ",
}


def kind_of(symbol: str) -> str:
    """What a symbol measures."""
    if symbol == "E" or symbol.startswith(("F_", "f_")):
        return "stress"
    if symbol in _NUMBERS or any(symbol.startswith(p) for p in _NUMBERS if p.endswith("_")):
        return "number"
    return _KINDS.get(symbol[0], "length")


def unit_of(kind: str, units: Units) -> tuple[float, str]:
    """How many N, mm or MPa one unit is, and its name."""
    if units is Units.IMPERIAL:
        ksi = KIP / INCH**2
        return {"length": (INCH, "in"), "area": (INCH**2, "in²"), "stress": (ksi, "ksi"), "force": (KIP, "kips"),
                "moment": (KIP * INCH, "kip-in"), "modulus": (INCH**3, "in³"), "line": (KIP / INCH, "kip/in"),
                "number": (1.0, "")}[kind]  # fmt: skip
    return {
        "length": (1.0, "mm"),
        "area": (1.0, "mm²"),
        "stress": (1.0, "N/mm²"),
        "force": (1000.0, "kN"),
        "moment": (1e6, "kNm"),
        "modulus": (1000.0, "cm³"),
        "line": (1000.0, "kN/mm"),
        "number": (1.0, ""),
    }[kind]


def shown(value: float, kind: str, units: Units, plain: bool = False) -> str:
    """A value with its unit to as many places as a hand calculation has."""
    size, name = unit_of(kind, units)
    number = value / size
    digits = 3 if kind in ("length", "number") and units is Units.IMPERIAL else 2 if kind == "number" else 1
    if abs(number) < 10 and kind in ("area", "modulus", "line", "number"):
        digits = 3
    elif abs(number) >= 1000:
        digits = 0
    text = f"{number:.{digits}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return text if plain or not name else f"{text} {name}"


def _value(node: ast.AST, given: dict[str, float]) -> float:
    match node:
        case ast.Expression(body=body):
            return _value(body, given)
        case ast.Constant(value=int() | float() as number):
            return float(number)
        case ast.Name(id=name):
            return math.pi if name == "pi" else given[name]
        case ast.UnaryOp(op=op, operand=one):
            return _OPERATORS[type(op)](_value(one, given))
        case ast.BinOp(left=left, op=op, right=right):
            return _OPERATORS[type(op)](_value(left, given), _value(right, given))
        case ast.Call(func=ast.Name(id=name), args=args):
            return _FUNCTIONS[name](*(_value(a, given) for a in args))
    raise ValueError("a formula has something in it that cannot be worked out")


@lru_cache(maxsize=512)
def _parsed(formula: str) -> ast.Expression:
    return ast.parse(formula, mode="eval")


def symbols(formula: str) -> list[str]:
    """The symbols of a formula, in order of writing."""
    nodes = (n for n in ast.walk(_parsed(formula)) if isinstance(n, ast.Name) and n.id not in (*_FUNCTIONS, "pi"))
    return list(dict.fromkeys(n.id for n in sorted(nodes, key=lambda n: n.col_offset)))


def pretty(symbol: str) -> str:
    """A symbol as it is printed, its index in <sub>."""
    head, _, index = symbol.partition("_")
    head = _SIGNS.get(head, head)
    return f"{head}<sub>{index.replace('_', ',')}</sub>" if index else head


class Step(msgspec.Struct, frozen=True):
    """One line of working: symbol = formula, with the values put in and the result."""

    symbol: str
    formula: str
    values: tuple[tuple[str, float], ...]
    result: float
    note: str = ""

    def written(self, units: Units, put_in: bool) -> str:
        """The formula in words a hand would write, with its symbols or with the numbers put in."""
        given = dict(self.values)

        def text(node: ast.AST, over: int = 0) -> str:
            match node:
                case ast.Expression(body=body):
                    return text(body)
                case ast.Constant(value=int() | float() as number):
                    return f"{number:g}"
                case ast.Name(id="pi"):
                    return "π"
                case ast.Name(id=name):
                    return shown(given[name], kind_of(name), units) if put_in else pretty(name)
                case ast.UnaryOp(operand=one):
                    return f"−{text(one, 3)}"
                case ast.BinOp(left=left, op=op, right=right):
                    level, sign = _PRINTED[type(op)]
                    if isinstance(op, ast.Pow):
                        base = text(left, 4)
                        power = text(right)
                        return (
                            f"({base})<super>{power}</super>"
                            if put_in and base != "π"
                            else f"{base}<super>{power}</super>"
                        )
                    line = f"{text(left, level)}{sign}{text(right, level + (1 if sign in (' − ', ' / ') else 0))}"
                    return f"({line})" if level < over else line
                case ast.Call(func=ast.Name(id=name), args=args):
                    called = "√" if name == "sqrt" else name
                    return f"{called}({', '.join(text(a) for a in args)})"
            raise ValueError("a formula has something in it that cannot be printed")

        return text(_parsed(self.formula))


_PRINTED: dict[type, tuple[int, str]] = {
    ast.Add: (1, " + "),
    ast.Sub: (1, " − "),
    ast.Mult: (2, " × "),
    ast.Div: (2, " / "),
    ast.Pow: (4, "^"),
}


class Limit(msgspec.Struct, frozen=True):
    """A limit state: what may fail and where, by which clause, the working, and what is asked of it.

    `factor` is φ or Ω with its value, where the standard applies one to the last step's result.
    """

    words: str
    where: str
    clause: str
    steps: tuple[Step, ...]
    demand: float
    factor: tuple[str, float] | None = None

    @property
    def kind(self) -> str:
        return kind_of(self.steps[-1].symbol)

    @property
    def capacity(self) -> float:
        """The design or allowable strength."""
        nominal = self.steps[-1].result
        if self.factor is None:
            return nominal
        return nominal * self.factor[1] if self.factor[0] == "phi" else nominal / self.factor[1]

    @property
    def used(self) -> float:
        """Demand over capacity; over 1 it fails."""
        if self.capacity <= 0:
            return math.inf if self.demand > 0 else 0.0
        return abs(self.demand) / self.capacity


class Worked(float):
    """A number that knows how it was worked out: put into a formula, its own lines come first."""

    steps: tuple[Step, ...] = ()


def worked(symbol: str, formula: str, note: str = "", **values: float) -> Worked:
    """A value by a formula, such as a net area, to be put into a limit."""
    w = Working()
    w.step(symbol, formula, note, **values)
    found = Worked(w.steps[-1].result)
    found.steps = tuple(w.steps)
    return found


class Working:
    """Steps gathered on the way to a limit."""

    def __init__(self) -> None:
        self.steps: list[Step] = []

    def step(self, symbol: str, formula: str, note: str = "", **values: float) -> float:
        """Work a formula out and keep it as a line of working. Raises KeyError for a symbol without a value."""
        for name in symbols(formula):
            value = values[name]
            if isinstance(value, Worked):
                self.steps += [s for s in value.steps if s not in self.steps]
        given = {name: float(values[name]) for name in symbols(formula)}
        result = _value(_parsed(formula), given)
        self.steps.append(Step(symbol, formula, tuple(given.items()), result, note))
        return result

    def limit(
        self, words: str, where: str, clause: str, demand: float, factor: tuple[str, float] | None = None
    ) -> Limit:
        return Limit(words, where, clause, tuple(self.steps), demand, factor)


def governing(limits: list[Limit]) -> list[Limit]:
    """Limits with the most used first."""
    return sorted(limits, key=lambda one: -one.used)
