"""Commands over rules: check, eval, analyse. Facts are read from a JSON file; those that every site has are known."""

import sys
from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated

import typer

from sign_shelf.cli.files import read_bytes, read_text, write_json
from sign_shelf.core.errors import InvalidDocument, Problem, Refusal
from sign_shelf.core.model.documents import parse_json, read
from sign_shelf.core.model.facts import FactType, built_in, read_visitor
from sign_shelf.core.rules import (
    Rule,
    RuleRefused,
    compiled,
    format_rule,
    read_rule,
    sentence,
    why,
)

if TYPE_CHECKING:
    from sign_shelf.core.rules.analyse import Told

app = typer.Typer(no_args_is_help=True, help="Rules: who sees an item.")

RuleArgument = Annotated[str, typer.Argument(metavar="RULE", help='Such as: signed_in and roles has "crew"')]
FactsFile = Annotated[str, typer.Option(help="A JSON file with the declared facts.")]


@app.command("check")
def check(rule: RuleArgument, facts: FactsFile) -> None:
    """Whether a rule is valid: its normal form and its plain words. Exit 2 where it is not, with the place and what
    would work."""
    found = _read(rule, _facts(facts))
    write_json({"rule": format_rule(found), "says": f"Shows to {sentence(found)}"})


@app.command("eval")
def eval_(
    rule: RuleArgument,
    facts: FactsFile,
    visitor: Annotated[str, typer.Option(help="A JSON file with the facts that the visitor supplies.")],
) -> None:
    """How a rule comes out for a visitor, and which tests decided it; null is unknown."""
    declared = _facts(facts)
    found = _read(rule, declared)
    supplied = parse_json(read_bytes(visitor), what=visitor)
    if not isinstance(supplied, dict):
        raise Refusal("The visitor is no JSON object.", where=visitor)
    known = read_visitor(supplied, declared, what=visitor)
    reasons = [
        {"test": format_rule(one.test), "fact": one.test.fact, "value": one.value, "says": one.says}
        for one in why(found, known)
    ]
    write_json({"value": compiled(found)(known), "why": reasons})


@app.command("analyse")
def analyse_(
    file: Annotated[str, typer.Argument(help="A file with one rule a line, or - for standard input.")],
    facts: FactsFile,
    unsupplied: Annotated[
        bool, typer.Option("--unsupplied", help="Count visitors who do not supply every fact, too.")
    ] = False,
) -> None:
    """What is true of each rule whoever comes, and how the rules lie to each other."""
    declared = _facts(facts)
    from sign_shelf.core.rules.analyse import analyse

    rules = []
    for number, line in enumerate(read_text(file).splitlines(), 1):
        if line.strip():
            try:
                rules.append(read_rule(line, declared))
            except RuleRefused as refused:
                raise Refusal(
                    refused.says, where=f"{file}, line {number}, {refused.where}", remedy=refused.remedy
                ) from None
    write_json([_told(one) for one in analyse(rules, declared, unsupplied=unsupplied)])


def _told(told: "Told") -> dict[str, object]:
    from sign_shelf.core.rules.analyse import NOT_DECIDED

    found = asdict(told)
    if not told.not_decided and NOT_DECIDED not in (told.never, told.always):
        del found["not_decided"]
    return found


def _read(rule: str, facts: dict[str, FactType]) -> Rule:
    try:
        return read_rule(rule, facts)
    except RuleRefused as refused:
        print(" ".join(str(refused).split()), file=sys.stderr)
        print(refused.caret(), file=sys.stderr)
        raise typer.Exit(2) from None


def _facts(name: str) -> dict[str, FactType]:
    given = parse_json(read_bytes(name), what=name)
    if not isinstance(given, dict):
        raise InvalidDocument([Problem(where=name, says="expected an object of facts")])
    # The file's own declaration holds, where it declares one that every site has.
    return built_in(["en"]) | {key: read(FactType, value, what=f"{name}, {key}") for key, value in given.items()}
