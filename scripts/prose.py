"""A contract for import-linter: no sentence stands in a package where none belongs.

A sentence is a text of several words in a row that is neither a docstring nor handed to an error or a fault: those
are said where they are found. In the configuration ``packages`` are looked through, ``words`` is how many in a row are
too many, and ``faults`` are the names of what may be handed them.
"""

import ast
import re
from collections.abc import Iterator
from importlib.util import find_spec
from pathlib import Path

from grimp import ImportGraph
from importlinter import Contract, ContractCheck, fields, output

WORD = r"[A-Za-z][a-z’']*"


class NoProseContract(Contract):
    """Keeps sentences out of packages."""

    packages = fields.ListField(subfield=fields.StringField())
    words = fields.IntegerField()
    faults = fields.ListField(subfield=fields.StringField())

    def check(self, graph: ImportGraph, verbose: bool) -> ContractCheck:
        """Look through every module of the packages."""
        run = re.compile(rf"(?:{WORD}[,;:]? ){{{int(self.words) - 1},}}{WORD}")
        found = [
            f"{module.replace('.', '/')}:{line}: {text}"
            for module in sorted(graph.modules)
            if any(module == each or module.startswith(f"{each}.") for each in self.packages)
            for line, text in sentences(_source(module), run, frozenset(self.faults))
        ]
        return ContractCheck(kept=not found, metadata={"found": found})

    def render_broken_contract(self, check: ContractCheck) -> None:
        """Name every sentence with its place."""
        for each in check.metadata["found"]:
            output.print_error(each)


def _source(module: str) -> str:
    spec = find_spec(module)
    return Path(spec.origin).read_text("utf-8") if spec and spec.origin else ""


def sentences(source: str, run: re.Pattern[str], faults: frozenset[str]) -> Iterator[tuple[int, str]]:
    """Yield the line and the text of every sentence in a module."""
    tree = ast.parse(source)
    allowed = {id(inner) for node in ast.walk(tree) if _allows(node, faults) for inner in ast.walk(node)}
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in allowed:
            said = run.search(node.value)
            if said:
                yield node.lineno, said[0]


def _allows(node: ast.AST, faults: frozenset[str]) -> bool:
    """Whether a part of a module may say something: a docstring, an error raised, or a call of a fault."""
    if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
        return True
    if isinstance(node, ast.Raise):
        return True
    return isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in faults
