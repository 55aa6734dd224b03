"""python -m tools.api: writes what follows from the models: the OpenAPI document, the TypeScript client, the schema,
the reference, and the words that the page shares with the reports."""

from __future__ import annotations

import json
import sys

from noble_clay.core.mesh.inspect import CRUMB_MM3
from noble_clay.core.needs.thin_walls import NOTHING_MM, WALL_MM
from noble_clay.core.needs.touching import MOST_PAIRS
from noble_clay.core.words import GLAZES, KINDS, STEPS
from noble_clay.web.app import create_app
from noble_clay.web.catalogue import schema_text
from tools.frontend import FRONTEND, NODE_BIN, ensure_packages, node_environment
from tools.machine import ROOT, ended_well, run
from tools.reference import REFERENCE, reference_text

OPENAPI = FRONTEND / "src" / "api" / "openapi.json"
WORDS = FRONTEND / "src" / "api" / "words.json"
SCHEMA = ROOT / "docs" / "piece.schema.json"


def openapi_text() -> str:
    return json.dumps(create_app().openapi(), indent=1) + "\n"


def words_text() -> str:
    limits = {"crumb_mm3": CRUMB_MM3, "nothing_mm": NOTHING_MM, "wall_mm": WALL_MM, "pairs": MOST_PAIRS}
    return (
        json.dumps({"kinds": KINDS, "steps": STEPS, "glazes": GLAZES, "limits": limits}, indent=2, ensure_ascii=False)
        + "\n"
    )


def main() -> int:
    ensure_packages()
    OPENAPI.write_text(openapi_text(), encoding="utf-8")
    SCHEMA.write_text(schema_text(), encoding="utf-8")
    REFERENCE.write_text(reference_text(), encoding="utf-8")
    WORDS.write_text(words_text(), encoding="utf-8")
    command = [
        str(NODE_BIN / "node"),
        "node_modules/openapi-typescript/bin/cli.js",
        str(OPENAPI),
        "-o",
        "src/api/generated.ts",
    ]
    run(command, "The TypeScript client could not be generated.", FRONTEND, node_environment())
    return 0


if __name__ == "__main__":
    sys.exit(ended_well(main))
