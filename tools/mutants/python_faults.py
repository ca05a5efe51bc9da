"""Faults in Python: each a place in a file and what stands there instead."""

import ast
from collections.abc import Iterator
from dataclasses import dataclass

COMPARISONS: dict[type[ast.cmpop], tuple[str, str]] = {
    ast.Lt: ("<", "<="), ast.LtE: ("<=", "<"), ast.Gt: (">", ">="), ast.GtE: (">=", ">"), ast.Eq: ("==", "!="),
    ast.NotEq: ("!=", "=="), ast.In: ("in", "not in"), ast.NotIn: ("not in", "in"), ast.Is: ("is", "is not"),
    ast.IsNot: ("is not", "is"),
}  # fmt: skip
GUARDS = {"require", "require_all", "refuse_more"}


@dataclass(frozen=True)
class Fault:
    file: str
    kind: str
    line: int
    """Counted from 1."""
    begin: int
    end: int
    """Where the text stands that is replaced, in characters of the whole file."""
    instead: str
    function: int | None
    """The line that the innermost function around it begins at, as a profiler counts; None outside of functions."""


class _Finder(ast.NodeVisitor):
    def __init__(self, file: str, text: str) -> None:
        self.file, self.text = file, text
        self.faults: list[Fault] = []
        self._function: list[int] = []
        self._lines = [0]
        for line in text.splitlines(keepends=True):
            self._lines.append(self._lines[-1] + len(line))

    def _at(self, line: int, column: int) -> int:
        begin = self._lines[line - 1]
        # Columns of the syntax tree count bytes.
        whole = self.text[begin : self._lines[line]].encode()
        return begin + len(whole[:column].decode())

    def _span(self, node: ast.expr | ast.stmt) -> tuple[int, int]:
        assert node.end_lineno is not None
        assert node.end_col_offset is not None
        return self._at(node.lineno, node.col_offset), self._at(node.end_lineno, node.end_col_offset)

    def _add(self, kind: str, line: int, begin: int, end: int, instead: str) -> None:
        if self._function:
            self.faults.append(Fault(self.file, kind, line, begin, end, instead, self._function[-1]))

    def _visit_function(self, node: ast.FunctionDef | ast.AsyncFunctionDef) -> None:
        first = min([node.lineno, *(one.lineno for one in node.decorator_list)])
        self._function.append(first)
        for one in node.body:
            self.visit(one)
        self._function.pop()

    visit_FunctionDef = visit_AsyncFunctionDef = _visit_function

    def visit_Compare(self, node: ast.Compare) -> None:
        sides = [node.left, *node.comparators]
        for at, op in enumerate(node.ops):
            was, instead = COMPARISONS[type(op)]
            begin, end = self._span(sides[at])[1], self._span(sides[at + 1])[0]
            between = self.text[begin:end]
            if between.strip(" ()\n") == was:
                self._add("comparison", node.lineno, begin, end, between.replace(was, instead, 1))
        self.generic_visit(node)

    def visit_BoolOp(self, node: ast.BoolOp) -> None:
        was, instead = ("and", "or") if isinstance(node.op, ast.And) else ("or", "and")
        begin, end = self._span(node.values[0])[1], self._span(node.values[1])[0]
        between = self.text[begin:end]
        if between.count(was) == 1:
            self._add("connective", node.lineno, begin, end, between.replace(was, instead))
        self.generic_visit(node)

    def visit_UnaryOp(self, node: ast.UnaryOp) -> None:
        if isinstance(node.op, ast.Not):
            begin = self._span(node)[0]
            self._add("negation", node.lineno, begin, begin + len("not "), "")
        self.generic_visit(node)

    def visit_Constant(self, node: ast.Constant) -> None:
        if type(node.value) is int:
            self._add("boundary", node.lineno, *self._span(node), str(node.value + 1))
        elif type(node.value) is bool:
            self._add("switch", node.lineno, *self._span(node), str(not node.value))

    def visit_Expr(self, node: ast.Expr) -> None:
        called = node.value.value if isinstance(node.value, ast.Await) else node.value
        if isinstance(called, ast.Call) and isinstance(called.func, ast.Name) and called.func.id in GUARDS:
            self._add("skipped check", node.lineno, *self._span(node), "pass")
        if not isinstance(node.value, ast.Constant):
            self.generic_visit(node)

    def visit_If(self, node: ast.If) -> None:
        if len(node.body) == 1 and isinstance(node.body[0], ast.Raise):
            self._add("skipped check", node.lineno, *self._span(node.test), "False")
        self.generic_visit(node)

    def visit_Call(self, node: ast.Call) -> None:
        two = node.args[:2]
        if len(two) == 2 and all(isinstance(one, ast.Name) for one in two):
            (begin, middle), (after, end) = (self._span(one) for one in two)
            swapped = self.text[after:end] + self.text[middle:after] + self.text[begin:middle]
            self._add("swapped arguments", node.lineno, begin, end, swapped)
        for word in node.keywords:
            if word.arg == "lock" and isinstance(word.value, ast.Constant) and word.value.value is True:
                self._add("dropped lock", node.lineno, *self._span(word.value), "False")
        if isinstance(node.func, ast.Attribute) and node.func.attr == "with_for_update":
            begin, end = self._span(node.func.value)[1], self._span(node)[1]
            self._add("dropped lock", node.lineno, begin, end, "")
        self.generic_visit(node)


def python_faults(file: str, text: str) -> Iterator[Fault]:
    finder = _Finder(file, text)
    finder.visit(ast.parse(text))
    yield from finder.faults
