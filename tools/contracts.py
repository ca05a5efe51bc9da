"""Writes the published contracts: the OpenAPI description and the JSON Schema of the menu document.

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

DOCS = Path(__file__).parent.parent / "docs"


def contracts() -> dict[str, object]:
    app = create_app(Settings(database=SecretStr("postgresql://unused"), key=SecretStr(new_seal_key())))
    return {"openapi.json": app.openapi(), "menu.schema.json": menu_schema()}


def main() -> None:
    stale = []
    for name, contract in contracts().items():
        text = json.dumps(contract, indent=1, ensure_ascii=False, sort_keys=True) + "\n"
        file = DOCS / name
        if "--check" in sys.argv:
            stale += [name] if not file.exists() or file.read_text("utf-8") != text else []
        else:
            file.parent.mkdir(exist_ok=True)
            file.write_text(text, "utf-8")
    if stale:
        sys.exit(f"docs/{', docs/'.join(stale)}: not what the code says; run `make types`.")


main()
