"""Who sees what as a table (RFC 4180): one line an entry, one column an audience on a device in a language."""

import csv
import io

from sign_shelf.core.formats.csv import guarded
from sign_shelf.core.visitors.who_sees import Matrix, SeenCell


def matrix_csv(matrix: Matrix) -> str:
    out = io.StringIO(newline="")
    table = csv.writer(out, lineterminator="\r\n")
    languages = len({column.language for column in matrix.columns}) > 1
    heads = [
        f"{column.audience}, {column.device}" + (f", {column.language}" if languages else "")
        for column in matrix.columns
    ]
    table.writerow(["level", "entry", "id", *heads])
    for row in matrix.rows:
        table.writerow([row.level, guarded(row.label), row.item, *(_words(cell) for cell in row.cells)])
    return out.getvalue()


def _words(cell: SeenCell) -> str:
    if cell.seen == "none":
        return f"hidden: {cell.detail}" if cell.detail else "hidden"
    return ("seen" if cell.seen == "whole" else "seen in part") + (f" in {cell.place}" if cell.place else "")
