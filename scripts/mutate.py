"""Changes the code a little, many times, and says how often the tests notice.

``python scripts/mutate.py FOLDER TESTS [--count 60] [--seed 1]``: each change is made in a copy of the tree, in which
only TESTS run until the first failure. Signs, comparisons, numbers by a tenth, dropped terms, minimum for maximum.
Figures that say how finely something is searched or drawn count too: a survivor among them is to be named, not hidden.
"""

import argparse
import ast
import copy
import os
import random
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

TOP = Path(__file__).parent.parent
LEFT_OUT = shutil.ignore_patterns(
    ".git", ".venv", "node_modules", ".hypothesis", "__pycache__", "*_cache", "screenshots"
)
SLOWEST = 900
"""Seconds for one change."""

OPPOSITES: tuple[tuple[type, str, type, str], ...] = (
    (ast.Add, "+", ast.Sub, "−"),
    (ast.Mult, "×", ast.Div, "÷"),
    (ast.Lt, "<", ast.GtE, "≥"),
    (ast.Gt, ">", ast.LtE, "≤"),
    (ast.Eq, "=", ast.NotEq, "≠"),
    (ast.And, "and", ast.Or, "or"),
)
SWAPS = {one: (other, f"{sign} → {opposite}") for one, sign, other, opposite in OPPOSITES} | {
    other: (one, f"{opposite} → {sign}") for one, sign, other, opposite in OPPOSITES
}
NAMES = {"sin": "cos", "cos": "sin", "maximum": "minimum", "minimum": "maximum", "min": "max", "max": "min"}


@dataclass(frozen=True)
class Change:
    """One small change: the source of a file with it, and what it is."""

    file: Path
    line: int
    what: str
    source: str


def places(file: Path) -> list[int]:
    """Return the numbers of the nodes of a file that can be changed."""
    nodes = ast.walk(ast.parse(file.read_text(encoding="utf-8")))
    return [number for number, node in enumerate(nodes) if _change(copy.copy(node))]


def changed(file: Path, number: int) -> Change:
    """Return the change of one node of a file."""
    tree = ast.parse(file.read_text(encoding="utf-8"))
    node = next(each for place, each in enumerate(ast.walk(tree)) if place == number)
    return Change(file, getattr(node, "lineno", 0), _change(node), ast.unparse(tree))


def _change(node: ast.AST) -> str:
    """Change a node in place and say how; an empty text where there is nothing to change."""
    match node:
        case ast.BinOp(op=op) if type(op) in SWAPS:
            node.op, said = SWAPS[type(op)][0](), SWAPS[type(op)][1]
        case ast.BoolOp(op=op):
            node.op, said = SWAPS[type(op)][0](), SWAPS[type(op)][1]
        case ast.Compare(ops=[op]) if type(op) in SWAPS:
            node.ops, said = [SWAPS[type(op)][0]()], SWAPS[type(op)][1]
        case ast.UnaryOp(op=ast.USub()):
            node.op, said = ast.UAdd(), "sign dropped"
        case ast.Constant(value=float(value)) if value:
            node.value, said = value * 1.1, f"{value:g} → {value * 1.1:g}"
        case ast.Constant(value=int(value)) if not isinstance(value, bool) and value > 1:
            node.value, said = value + 1, f"{value} → {value + 1}"
        case ast.Attribute(attr=name) if name in NAMES:
            node.attr, said = NAMES[name], f"{name} → {NAMES[name]}"
        case ast.Name(id=name) if name in NAMES:
            node.id, said = NAMES[name], f"{name} → {NAMES[name]}"
        case _:
            said = ""
    return said


def noticed(change: Change, tree: Path, tests: list[str]) -> bool:
    """Whether the tests fail in a copy of the tree with the change."""
    place = tree / change.file.relative_to(TOP)
    before = place.read_text(encoding="utf-8")
    place.write_text(change.source, encoding="utf-8")
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "--hypothesis-profile=few", *tests]
    try:
        ran = subprocess.run(
            command,
            cwd=tree,
            env={**os.environ, "PYTHONPATH": str(tree)},
            capture_output=True,
            timeout=SLOWEST,
            check=False,
        )
        return ran.returncode != 0
    except subprocess.TimeoutExpired:
        return True
    finally:
        place.write_text(before, encoding="utf-8")


def main() -> None:
    """Make the changes and print which were not noticed."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("folder")
    asked.add_argument("tests", nargs="+")
    asked.add_argument("--count", type=int, default=60)
    asked.add_argument("--seed", type=int, default=1)
    wanted = asked.parse_args()
    every = [(file, number) for file in sorted((TOP / wanted.folder).rglob("*.py")) for number in places(file)]
    taken = random.Random(wanted.seed).sample(every, min(wanted.count, len(every)))
    chosen = [changed(file, number) for file, number in taken]
    workers = os.cpu_count() or 1
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(workers) as pool:
        trees: Queue[Path] = Queue()
        for number in range(workers):
            trees.put(Path(shutil.copytree(TOP, Path(folder) / str(number), ignore=LEFT_OUT)))

        def tried(change: Change) -> bool:
            tree = trees.get()
            try:
                return noticed(change, tree, wanted.tests)
            finally:
                trees.put(tree)

        results = list(pool.map(tried, chosen))
    for change, caught in zip(chosen, results, strict=True):
        if not caught:
            print(f"not noticed: {change.file.relative_to(TOP)}:{change.line}  {change.what}")
    print(f"{sum(results)} of {len(chosen)} changes noticed, of {len(every)} that could be made")


if __name__ == "__main__":
    main()
