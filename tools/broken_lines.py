"""Breaks lines of the core on purpose, one at a time, and tells which of them no test sees.

    python tools/broken_lines.py --count 50 --seed 1 [src/uncus/draw/register.py ...]

Each break is made in a copy of the project beside the tree (the tree itself is not touched), and the tests of its
room are run until one fails. Lines that no test sees are printed with what was done to them; the last line is the
score. Not part of CI: an hour for fifty.
"""

from __future__ import annotations

import argparse
import ast
import copy
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parent.parent
ROOMS = {
    "bill": ("deliver",), "catalog": ("catalog", "connect/test_tables.py", "steel", "connect/test_embeds.py"),
        "connect": ("connect", "shop"),
    "deliver": ("deliver",), "draw": ("draw",), "frame": ("frame", "shop"), "job": ("job",), "lens": ("lens",),
        "mark": ("mark",), "reference": ("reference",),
    "standin": ("standin", "deliver/test_noticeboard.py", "deliver/test_sending.py", "deliver/test_nc.py"),
    "check": ("check", "shop/test_cluster.py"),
    "shop": ("shop", "connect/test_sharing.py", "connect/test_nets.py", "connect/test_crossing_bolts.py"),
    "steel": ("steel", "mark/test_sameness.py", "deliver/test_nc.py", "connect/test_embeds.py",
        "connect/test_kinds.py"),
}  # fmt: skip
_SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.GtE, ast.LtE: ast.Gt, ast.Gt: ast.LtE, ast.GtE: ast.Lt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
        ast.In: ast.NotIn, ast.NotIn: ast.In,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult,
        ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip
_NAMES = {
    "min": "max",
    "max": "min",
    "any": "all",
    "all": "any",
    "left": "right",
    "right": "left",
    "floor": "ceil",
    "ceil": "floor",
}


class _Spots(ast.NodeVisitor):
    """Every place that can be broken: inside functions, outside of words, annotations and what is said to people."""

    def __init__(self) -> None:
        self.found: list[ast.AST] = []
        self._depth = 0

    def visit_FunctionDef(self, node: ast.FunctionDef) -> None:
        self._depth += 1
        for statement in node.body:
            self.visit(statement)
        self._depth -= 1

    def visit_JoinedStr(self, node: ast.JoinedStr) -> None:
        return

    def visit_AnnAssign(self, node: ast.AnnAssign) -> None:
        if node.value is not None:
            self.visit(node.value)

    def visit_Raise(self, node: ast.Raise) -> None:
        return

    def generic_visit(self, node: ast.AST) -> None:
        if self._depth and self._breaks(node):
            self.found.append(node)
        super().generic_visit(node)

    @staticmethod
    def _breaks(node: ast.AST) -> bool:
        match node:
            case ast.Compare() | ast.BoolOp() | ast.BinOp():
                op = node.ops[0] if isinstance(node, ast.Compare) else node.op
                return type(op) in _SWAPS
            case ast.UnaryOp(op=ast.USub() | ast.Not()) | ast.IfExp():
                return True
            case ast.Constant(value=bool() | int() | float()):
                return True
            case ast.Name(id=name) | ast.Attribute(attr=name):
                return name in _NAMES
        return False


def broken(source: str, number: int) -> tuple[int, str, str]:
    """A source with its place of this number broken: the line, what was done, and the new source."""
    tree = ast.parse(source)
    visitor = _Spots()
    visitor.visit(tree)
    node = visitor.found[number]
    before = ast.unparse(node)
    _break(node)
    return getattr(node, "lineno", 0), f"{before}  ->  {ast.unparse(node)}", ast.unparse(tree)


def _break(node: ast.AST) -> None:
    match node:
        case ast.Compare():
            node.ops[0] = _SWAPS[type(node.ops[0])]()  # type: ignore[assignment]
        case ast.BoolOp() | ast.BinOp():
            node.op = _SWAPS[type(node.op)]()  # type: ignore[assignment]
        case ast.UnaryOp():
            inner = copy.deepcopy(node.operand)
            node.op, node.operand = (
                (ast.UAdd(), inner) if isinstance(node.op, ast.USub) else (ast.Not(), ast.UnaryOp(ast.Not(), inner))
            )
        case ast.IfExp():
            node.body, node.orelse = node.orelse, node.body
        case ast.Constant(value=bool() as value):
            node.value = not value
        case ast.Constant(value=int() | float() as value):
            node.value = value + 1 if isinstance(value, int) else value * 1.5 + 0.5
        case ast.Name():
            node.id = _NAMES[node.id]
        case ast.Attribute():
            node.attr = _NAMES[node.attr]


def spots(files: list[Path]) -> Iterator[tuple[Path, int]]:
    for path in files:
        visitor = _Spots()
        visitor.visit(ast.parse(path.read_text()))
        yield from ((path, n) for n in range(len(visitor.found)))


def tests_of(path: Path) -> list[str]:
    room = path.relative_to(ROOT / "src" / "uncus").parts[0]
    return [f"tests/{name}" for name in ROOMS.get(room, ())]


def verdict(work: Path, tests: list[str], minutes: float) -> str:
    """Empty where a test fails; else that none does, or that they do not end (a loop, or too busy a machine)."""
    command = [sys.executable, "-m", "pytest", "-x", "-q", "--no-header", "-p", "no:cacheprovider", "-n", "2", *tests]
    own = {**os.environ, "PYTHONPATH": f"{work / 'src'}:{work}"}
    try:
        done = subprocess.run(
            command, cwd=work, env=own, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, timeout=60 * minutes
        )
    except subprocess.TimeoutExpired:
        return "NO END"
    return "" if done.returncode else "NOT SEEN"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("files", nargs="*", type=Path)
    parser.add_argument("--count", type=int, default=50)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--after", type=int, default=0, help="go on after so many of them")
    parser.add_argument("--minutes", type=float, default=20.0, help="for one break at most")
    parser.add_argument("--tests", nargs="*", default=[], help="instead of those of the room")
    given = parser.parse_args()
    files = [p.resolve() for p in given.files] or [
        p for room in ROOMS for p in sorted((ROOT / "src/uncus" / room).rglob("*.py"))
    ]
    every = list(spots(files))
    chosen = random.Random(given.seed).sample(every, min(given.count, len(every)))[given.after :]
    missed = 0
    with tempfile.TemporaryDirectory() as scratch:
        work = Path(scratch) / "work"
        shutil.copytree(
            ROOT, work, ignore=shutil.ignore_patterns(".git", ".venv", "__pycache__", ".hypothesis", "docs")
        )
        wanted = sorted({test for path, _ in chosen for test in given.tests or tests_of(path)})
        if not verdict(work, wanted, given.minutes * len(wanted)):
            sys.exit(f"The tests fail before anything is broken, so nothing would be learnt: {', '.join(wanted)}.")
        for path, number in chosen:
            there = work / path.relative_to(ROOT)
            source = there.read_text()
            line, words, new = broken(source, number)
            there.write_text(new)
            if words_of := verdict(work, given.tests or tests_of(path), given.minutes):
                missed += words_of == "NOT SEEN"
                print(f"{words_of} {path.relative_to(ROOT)}:{line}: {words[:150]}", flush=True)
            there.write_text(source)
    print(f"{len(chosen) - missed} of {len(chosen)} broken lines were seen.")


if __name__ == "__main__":
    main()
