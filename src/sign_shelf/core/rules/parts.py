"""Rules as documents, for editors that build them out of parts: groups of tests. The interface writes them as text
again (frontend/src/parts/rule/written.ts)."""

from typing import Annotated, Literal

from pydantic import Field

from sign_shelf.core.model.menu import Model
from sign_shelf.core.rules.model import AllOf, AnyOf, Const, FactTest, Not, Op, Rule


class ConstPart(Model):
    kind: Literal["const"]
    value: bool


class TestPart(Model):
    """`fact` is a fact's name, or with `holds` that of a rule."""

    kind: Literal["test"]
    fact: str = Field(max_length=200)
    op: Op
    values: tuple[str | float, ...] = Field(default=(), max_length=500)
    no: bool = False


class GroupPart(Model):
    kind: Literal["all", "any"]
    parts: "tuple[AnyPart, ...]" = Field(max_length=100)
    no: bool = False


Part = ConstPart | TestPart | GroupPart
AnyPart = Annotated[Part, Field(discriminator="kind")]
GroupPart.model_rebuild()


def part_of(rule: Rule) -> Part:
    match rule:
        case Const(value):
            return ConstPart(kind="const", value=value)
        case FactTest():
            return TestPart(kind="test", fact=rule.fact, op=rule.op, values=rule.values)
        case Not(inner):
            part = part_of(inner)
            if isinstance(part, ConstPart):
                return ConstPart(kind="const", value=not part.value)
            return part.model_copy(update={"no": not part.no})
        case AllOf(parts):
            return GroupPart(kind="all", parts=tuple(map(part_of, parts)))
        case AnyOf(parts):
            return GroupPart(kind="any", parts=tuple(map(part_of, parts)))
