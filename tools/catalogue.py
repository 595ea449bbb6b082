"""Bring a language's catalogue up to date with the sentences of the program.

    python tools/catalogue.py de

Needs Babel (``pip install babel``). New sentences are added without a translation and counted;
sentences that are gone are dropped; the compiled file that the program reads is written anew.
"""

from __future__ import annotations

import ast
import sys
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

SOURCE = Path(__file__).parents[1] / "src" / "jigwright"
CATALOGUES = SOURCE / "wording" / "catalogues"


def sentences() -> set[tuple[str, ...]]:
    """Literals of ``tr`` and ``trn``, also those inside f-strings."""
    found = set()
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
                n = {"tr": 1, "trn": 2}.get(node.func.id, 0)
                texts = [a.value for a in node.args[:n] if isinstance(a, ast.Constant)]
                if n and len(texts) == n:
                    found.add(tuple(str(t) for t in texts))
    return found


def main(language: str) -> int:
    folder = CATALOGUES / language / "LC_MESSAGES"
    path = folder / "jigwright.po"
    template = Catalog(project="Jigwright", charset="utf-8")
    for texts in sentences():
        template.add(texts[0] if len(texts) == 1 else texts)
    catalogue = Catalog(locale=language, project="Jigwright", charset="utf-8")
    if path.exists():
        with path.open("rb") as file:
            catalogue = read_po(file, locale=language)
    catalogue.update(template, no_fuzzy_matching=True)
    catalogue.obsolete.clear()
    folder.mkdir(parents=True, exist_ok=True)
    with path.open("wb") as file:
        write_po(file, catalogue, omit_header=False, sort_output=True, width=100)
    with path.with_suffix(".mo").open("wb") as file:
        write_mo(file, catalogue)
    # a plural is a tuple, true even of two empty strings
    missing = [
        m.id for m in catalogue
        if m.id and not all(m.string if isinstance(m.string, (tuple, list)) else (m.string,))
    ]  # fmt: skip
    print(f"{language}: {len(list(catalogue)) - 1} sentences, {len(missing)} without translation")
    for message in missing:
        print("  ", message)
    return 1 if missing else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
