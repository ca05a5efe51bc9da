"""Writes what is published of the code: the OpenAPI description, the JSON Schema of the menu document, what checks find.

`--check` writes nothing and fails where the kept files are not what the code says.
"""

import json
import sys
from pathlib import Path

from pydantic import SecretStr

from sign_shelf.api.app import create_app
from sign_shelf.core.model.menu import menu_schema
from sign_shelf.settings import Settings
from sign_shelf.store.seals import new_seal_key
from tools.checks_told import checks_told

DOCS = Path(__file__).parent.parent / "docs"


def contracts() -> dict[str, str]:
    app = create_app(Settings(database=SecretStr("postgresql://unused"), key=SecretStr(new_seal_key())))
    return {"openapi.json": _json(app.openapi()), "menu.schema.json": _json(menu_schema()), "checks.md": checks_told()}


def _json(contract: object) -> str:
    return json.dumps(contract, indent=1, ensure_ascii=False, sort_keys=True) + "\n"


def main() -> None:
    stale = []
    for name, text in contracts().items():
        file = DOCS / name
        if "--check" in sys.argv:
            stale += [name] if not file.exists() or file.read_text("utf-8") != text else []
        else:
            file.parent.mkdir(exist_ok=True)
            file.write_text(text, "utf-8")
    if stale:
        sys.exit(f"docs/{', docs/'.join(stale)}: not what the code says; run `make types`.")


main()
