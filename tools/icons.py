"""Writes core/icons/icons.json out of the icon set's own package (lucide-static, ISC licence): `python -m tools.icons`."""

import json
from pathlib import Path

PACKAGE = Path(__file__).parent.parent / "frontend" / "node_modules" / "lucide-static"
FOLDER = Path(__file__).parent.parent / "src" / "sign_shelf" / "core" / "icons"


def _told(words: list[str]) -> list[str]:
    """Without those by which nobody looks for a menu's icon."""
    return [word for word in words if not word.startswith("transcri")]


def main() -> None:
    shapes = json.loads((PACKAGE / "icon-nodes.json").read_text("utf-8"))
    words = json.loads((PACKAGE / "tags.json").read_text("utf-8"))
    lines = [
        json.dumps(name)
        + ": "
        + json.dumps(
            {"words": _told(words.get(name, [])), "shapes": shapes[name]}, ensure_ascii=False, separators=(",", ":")
        )
        for name in sorted(shapes)
    ]
    (FOLDER / "icons.json").write_text("{\n" + ",\n".join(lines) + "\n}\n", "utf-8")
    (FOLDER / "LICENSE").write_text((PACKAGE / "LICENSE").read_text("utf-8"), "utf-8")


main()
