"""Looks the presets over: each stands on the wheel's middle, and its tile is drawn beside it.

.venv/bin/python -m tools.presets

Run after a preset was added or changed: it moves what does not stand there, and writes `NAME.svg` for the tray.
"""

from __future__ import annotations

import json

from noble_clay.core.evaluate.evaluator import Evaluator
from noble_clay.core.kernel.plain import mesh_of
from noble_clay.core.piece.edits import apply, edit_from_values
from noble_clay.core.piece.read import piece_from_values
from noble_clay.web.presets import ENDING, FOLDER, preset_files
from noble_clay.web.tray_drawings import drawn

FINE = 60
"""A tile shows what is larger than this part of the whole."""


def main() -> None:
    for path in preset_files():
        piece = piece_from_values(json.loads(path.read_text()))
        found = Evaluator().evaluate(piece)
        low, high = found.inspection.bounds
        by = [round(-float(v), 3) for v in ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2])]
        if any(abs(v) > 2e-3 for v in by):
            ids = [part.id for part in piece.parts]
            piece = apply(piece, edit_from_values({"kind": "move", "ids": ids, "by": by})).piece
            path.write_text(piece.text())
        mesh = mesh_of(found.solid.manifold.simplify(float((high - low).max()) / FINE))
        (FOLDER / path.name.replace(ENDING, ".svg")).write_text(drawn(mesh))
        print(f"{piece.name}: {found.inspection.bodies} body, {len(mesh.triangles)} triangles in its tile")


if __name__ == "__main__":
    main()
