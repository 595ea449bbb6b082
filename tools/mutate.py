"""Small mutations of a module, and which of them no test notices.

Usage: python tools/mutate.py MODULE [--n 20] [--seed 1] [--tests FILE …] [--lines A-B]

MODULE is a path below src/jigwright, such as core/judge/plan.py. A comparison is turned round,
"and" becomes "or", plus becomes minus, a number twice itself, a "not" goes away, a condition is
dropped. Each mutation is tried in a copy of the tree with the tests that import the module (or those
named); what survives is printed with its line. General mutation tools rewrite and import the whole
package for each mutation, which with the worker processes of this one takes minutes; this takes the
seconds of the tests concerned.
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
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
_PACKAGE = "jigwright"
_COMPARED: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Lt: ast.GtE, ast.LtE: ast.Gt, ast.Gt: ast.LtE, ast.GtE: ast.Lt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip
_COUNTED: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
}


@dataclass(frozen=True, slots=True)
class Mutation:
    """One change.

    Parameters
    ----------
    line : int
    before, after : str
        The expression as it stands and as it becomes.
    source : str
        The whole module, changed.
    """

    line: int
    before: str
    after: str
    source: str


def mutations(source: str) -> Iterator[Mutation]:
    """Every mutation of a module, in the order of its text."""
    for node in ast.walk(ast.parse(source)):
        for new in _changed(node):
            before = ast.get_source_segment(source, node)
            if before is not None:
                after = ast.unparse(new)
                yield Mutation(
                    line=node.lineno, before=before, after=after,
                    source=_replaced(source, node, f"({after})"),
                )  # fmt: skip


def _changed(node: ast.AST) -> Iterator[ast.expr]:
    if isinstance(node, ast.Compare) and type(node.ops[0]) in _COMPARED:
        new = copy.deepcopy(node)
        new.ops[0] = _COMPARED[type(node.ops[0])]()
        yield new
    elif isinstance(node, ast.BoolOp):
        turned = copy.deepcopy(node)
        turned.op = ast.Or() if isinstance(node.op, ast.And) else ast.And()
        yield turned
        yield node.values[0]  # the other conditions are dropped
    elif isinstance(node, ast.BinOp) and type(node.op) in _COUNTED:
        counted = copy.deepcopy(node)
        counted.op = _COUNTED[type(node.op)]()
        yield counted
    elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not | ast.USub):
        yield node.operand
    elif isinstance(node, ast.Constant):
        value = node.value
        if isinstance(value, bool):
            yield ast.Constant(not value)
        elif isinstance(value, int | float):
            yield ast.Constant(value * 2 if value else 1)


def _replaced(source: str, node: ast.AST, text: str) -> str:
    """The module with one expression written otherwise; columns of the parser are bytes."""
    lines = source.encode().splitlines(keepends=True)
    starts = [0]
    for line in lines:
        starts.append(starts[-1] + len(line))
    a = starts[node.lineno - 1] + node.col_offset  # type: ignore[attr-defined]
    b = starts[node.end_lineno - 1] + node.end_col_offset  # type: ignore[attr-defined]
    data = source.encode()
    return (data[:a] + text.encode() + data[b:]).decode()


def tests_of(module: str, tests: Path) -> list[Path]:
    """Test files that import a module, by its path below the package."""
    name = f"{_PACKAGE}." + module.removesuffix(".py").replace("/", ".")
    name = name.removesuffix(".__init__")
    parent, _, own = name.rpartition(".")
    return sorted(
        path
        for path in tests.rglob("test_*.py")
        if any(_imports(node, name, parent, own) for node in ast.walk(ast.parse(path.read_text())))
    )


def _imports(node: ast.AST, name: str, parent: str, own: str) -> bool:
    if isinstance(node, ast.ImportFrom):
        return node.module == name or (
            node.module == parent and any(a.name == own for a in node.names)
        )
    return isinstance(node, ast.Import) and any(a.name == name for a in node.names)


def in_lines(found: Sequence[Mutation], lines: str) -> list[Mutation]:
    """Mutations between two lines such as ``20-45``; all where nothing is said."""
    if not lines:
        return list(found)
    first, _, last = lines.partition("-")
    return [m for m in found if int(first) <= m.line <= int(last or first)]


def survives(tree: Path, tests: Sequence[Path]) -> bool:
    """Whether the tests of a tree pass."""
    env = dict(
        os.environ, PYTHONPATH=str(tree / "src"), QT_QPA_PLATFORM="offscreen", OMP_NUM_THREADS="1"
    )
    done = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *map(str, tests)],
        cwd=tree, env=env, capture_output=True, text=True, check=False,
    )  # fmt: skip
    return done.returncode == 0


def copied(tree: Path) -> None:
    """A copy of what tests need."""
    for name in ("src", "tests"):
        shutil.copytree(ROOT / name, tree / name, ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / "pyproject.toml", tree)


def main(argv: Sequence[str] | None = None) -> int:
    """Try mutations and print what survived; 1 where something did."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("module")
    parser.add_argument("--n", type=int, default=20)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--tests", nargs="*", default=[])
    parser.add_argument("--lines", default="")
    options = parser.parse_args(argv)
    path = ROOT / "src" / _PACKAGE / options.module
    source = path.read_text()
    chosen = [Path(t).resolve() for t in options.tests] or tests_of(options.module, ROOT / "tests")
    if not chosen:
        print(f"no test imports {options.module}")
        return 1
    every = in_lines(list(mutations(source)), options.lines)
    tried = random.Random(options.seed).sample(every, min(options.n, len(every)))
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "tree"
        tree.mkdir()
        copied(tree)
        tests = [tree / t.relative_to(ROOT) for t in chosen]
        there = tree / path.relative_to(ROOT)
        if not survives(tree, tests):
            print("the tests fail without any mutation")
            return 1
        alive = []
        for one in tried:
            there.write_text(one.source)
            if survives(tree, tests):
                alive.append(one)
                print(f"{options.module}:{one.line}: {one.before!r} -> {one.after!r}", flush=True)
    print(f"{options.module}: {len(tried) - len(alive)} of {len(tried)} noticed")
    return 1 if alive else 0


if __name__ == "__main__":
    sys.exit(main())
