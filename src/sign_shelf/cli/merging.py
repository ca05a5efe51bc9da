"""`sign-shelf merge`: three documents, two of which set out from the first."""

from typing import Annotated

import typer
from pydantic import JsonValue, TypeAdapter

from sign_shelf.cli.files import read_bytes, write_json
from sign_shelf.core.changes.documents import merge_sites
from sign_shelf.core.changes.merging import StateConflict, merge_menu
from sign_shelf.core.compare import Conflict
from sign_shelf.core.errors import Refusal
from sign_shelf.core.model.documents import parse_json, read, read_menu
from sign_shelf.core.model.site import SiteDocument

_JSON: TypeAdapter[object] = TypeAdapter(object)
File = Annotated[str, typer.Argument(help="A menu document or a site document, or - for standard input.")]


def merge(base: File, ours: File, theirs: File) -> None:
    """Both sides' edits on top of BASE, with what they do not agree on. Exit 1 where there is any such conflict."""
    files = (base, ours, theirs)
    documents = [parse_json(read_bytes(name), what=name) for name in files]
    formats = {one.get("format") if isinstance(one, dict) else None for one in documents}
    if formats == {"sign-shelf/menu"}:
        was, mine, other = (read_menu(one) for one in documents)
        found: list[StateConflict] = []
        merged = merge_menu(
            "menu", was, mine, other, {}, lambda menu, one: found.append(StateConflict(menu=menu, conflict=one))
        )
        answer: dict[str, JsonValue] = {"items": merged.to_json().get("items", [])}
        told = [_told(one.conflict) for one in found]
    elif formats == {"sign-shelf/site"}:
        whole = merge_sites(*(read(SiteDocument, one, what=name) for one, name in zip(documents, files, strict=True)))
        answer = {"site": whole.site.to_json()}
        told = [{"menu": one.menu, **_told(one.conflict)} for one in whole.conflicts]
    else:
        raise Refusal(
            "These are not three documents of one kind.", where=" ".join(files),
            remedy="Give three menu documents (sign-shelf/menu) or three site documents (sign-shelf/site).",
        )  # fmt: skip
    write_json(answer | {"conflicts": list[JsonValue](told)})
    raise typer.Exit(1 if told else 0)


def _told(conflict: Conflict) -> dict[str, JsonValue]:
    return {
        "id": conflict.id,
        "kind": conflict.kind,
        "field": conflict.field,
        "ours": _JSON.dump_python(conflict.ours, mode="json"),
        "theirs": _JSON.dump_python(conflict.theirs, mode="json"),
    }
