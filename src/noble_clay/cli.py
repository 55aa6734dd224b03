"""The command line: build, inspect, repair, check and cut without a browser or a database, and serve.

Each command imports what it needs when it is run, so that none waits for what another needs.
"""

from __future__ import annotations

import argparse
import gc
import json
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from noble_clay import __version__
from noble_clay.core.errors import NO_ROOM, ClayError, MeshError, is_no_room
from noble_clay.core.formats.registry import check_bytes, ending, endings, format_of, is_read
from noble_clay.core.formats.whole_file import write_whole

if TYPE_CHECKING:
    from noble_clay.core.evaluate.result import Result
    from noble_clay.core.formats.mesh_file import MeshFile
    from noble_clay.core.mesh.inspect import Inspection
    from noble_clay.core.mesh.mesh import Mesh
    from noble_clay.core.piece.models import Piece

OK, FLAWED, BAD_INPUT = 0, 1, 2
FEW_COLLECTIONS = 50_000
"""New objects after which cycles are looked for."""

OUTPUT = f"ends in .{endings(writing=True)}"


def run() -> None:
    """`main` as a process of its own. One that builds, inspects or repairs leaves at once when it is done: taking apart
    what the system takes back anyway would take a tenth of its time, and looking for cycles meanwhile as much.
    """
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")  # it would look through all that is installed for some
    if sys.argv[1:2] in (["serve"], ["worker"]):
        sys.exit(main())
    gc.set_threshold(FEW_COLLECTIONS)
    status = main()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(status)


def main(argv: list[str] | None = None) -> int:
    """Run one command; returns its exit status (0 done, 1 not a closed manifold or nothing left, 2 bad input)."""
    arguments = _parser().parse_args(argv)
    try:
        return int(arguments.run(arguments))
    except (ClayError, OSError) as error:
        print(f"noble-clay: {_one_line(error)}", file=sys.stderr)
        return BAD_INPUT


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="noble-clay", description="Build figures from primitives, mend, export.")
    parser.add_argument("--version", action="version", version=f"noble-clay {__version__}")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    build = commands.add_parser("build", help="build a piece into one mesh file")
    build.add_argument("piece", type=Path, metavar="PIECE")
    build.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help=OUTPUT)
    build.add_argument("--json", action="store_true", help="print one JSON object")
    build.set_defaults(run=_build)

    inspect = commands.add_parser("inspect", help="measure a piece or mesh and name its flaws")
    inspect.add_argument("file", type=Path, metavar="PIECE_OR_MESH")
    inspect.add_argument("--json", action="store_true", help="print one JSON object")
    inspect.set_defaults(run=_inspect)

    repair = commands.add_parser("repair", help="mend a mesh")
    repair.add_argument("mesh", type=Path, metavar="MESH")
    repair.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help=OUTPUT)
    repair.add_argument("--json", action="store_true", help="print one JSON object")
    repair.add_argument("--resolution", type=float, metavar="MM", help="resurface the whole, triangles about so long")
    repair.add_argument("--thickness", type=float, metavar="MM", help="the wall that a sheet gets")
    repair.add_argument(
        "--bodies", choices=["leave", "bridge", "largest"], default="leave", help="what becomes of several bodies"
    )
    repair.set_defaults(run=_repair)

    check = commands.add_parser("check", help="say whether a piece or mesh prints and stands, and what it takes")
    check.add_argument("file", type=Path, metavar="PIECE_OR_MESH")
    check.add_argument("--json", action="store_true", help="print one JSON object")
    check.add_argument("--printer", metavar="NAME")
    check.add_argument("--filament", metavar="NAME")
    check.add_argument("--layer", type=float, metavar="MM", help="0.2 unless said otherwise")
    check.add_argument("--infill", type=float, metavar="PERCENT", help="15 unless said otherwise")
    check.set_defaults(run=_check)

    cut = commands.add_parser("cut", help="cut a piece or mesh into parts that plug together")
    cut.add_argument("file", type=Path, metavar="PIECE_OR_MESH")
    cut.add_argument("--at", action="append", required=True, metavar="z=MM", help="a plane; may be given several times")
    cut.add_argument("-o", "--output", type=Path, required=True, metavar="FOLDER", help="gets one 3MF file a part")
    cut.add_argument("--peg", choices=["none", "round", "square", "dovetail", "magnet"], default="round")
    cut.add_argument("--clearance", type=float, default=0.2, metavar="MM", help="0.2 unless said otherwise")
    cut.add_argument("--labels", action="store_true", help="letters on the hidden faces: A goes to A")
    cut.add_argument("--json", action="store_true", help="print one JSON object")
    cut.set_defaults(run=_cut)

    serve = commands.add_parser("serve", help="run the web application")
    serve.add_argument("--host", default="127.0.0.1", help="a loopback address")
    serve.add_argument("--port", type=int, default=8080)
    serve.set_defaults(run=_serve)

    worker = commands.add_parser("worker", help="do long work for a web application on the same database")
    worker.set_defaults(run=_worker)
    return parser


def _build(arguments: argparse.Namespace) -> int:
    from noble_clay.core.formats.write import piece_bytes

    file_format = format_of(arguments.output)
    piece, result = _evaluated(arguments.piece)
    if result.inspection.triangles:
        write_whole(arguments.output, piece_bytes(piece, result, file_format))
    else:
        print("noble-clay: nothing is left of this piece, so no file was written", file=sys.stderr)
    _say(arguments, result.inspection.values(), _piece_notes(result))
    return _status(result.inspection, result)


def _inspect(arguments: argparse.Namespace) -> int:
    given = _given(arguments.file)
    _say(arguments, given.inspection.values(), _piece_notes(given.result) if given.result else [])
    return _status(given.inspection, given.result)


def _repair(arguments: argparse.Namespace) -> int:
    from noble_clay.core.formats.mended import mended_bytes
    from noble_clay.core.mend.plan import RepairOptions, mend

    file_format = format_of(arguments.output)
    for name in ("resolution", "thickness"):
        value = getattr(arguments, name)
        if value is not None and not 0.001 <= value <= 1000:
            raise MeshError(f"--{name}: between 0.001 and 1,000 mm, not {value:g}")
    file = _mesh_file(arguments.mesh)
    options = RepairOptions(wall_mm=arguments.thickness, resolution_mm=arguments.resolution, bodies=arguments.bodies)
    mended, report = mend(file.in_mm(), options)
    if len(mended.triangles):
        write_whole(arguments.output, mended_bytes(file, mended, arguments.output.stem, file_format))
    notes = [f"{s.step}: {s.count}" for s in report.steps] or ["nothing needed mending"]
    if report.proposal is not None:
        notes.append(f"{report.proposal}, for example --thickness {report.proposal_mm:.3g}")
    _say(arguments, report.values(), notes)
    return _status(report.after)


def _check(arguments: argparse.Namespace) -> int:
    from noble_clay.core.piece.read import validated
    from noble_clay.core.printing.check import check_print
    from noble_clay.core.printing.profiles import FILAMENTS, PRINTERS, Settings, named

    printer = named(PRINTERS, arguments.printer, "printer")
    filament = named(FILAMENTS, arguments.filament, "filament")
    wanted = {"layer": arguments.layer, "infill": None if arguments.infill is None else arguments.infill / 100}
    settings = validated(Settings.model_validate, {k: v for k, v in wanted.items() if v is not None})
    given = _given(arguments.file)
    if not given.inspection.manifold:
        return _not_closed(given.inspection)
    found = check_print(given.mesh, printer, filament, settings).values()
    if arguments.json:
        print(json.dumps(found))
    else:
        for name, value in found.items():
            print(f"{name}: {value}")
    return _status(given.inspection, given.result)


def _cut(arguments: argparse.Namespace) -> int:
    from noble_clay.core.formats.cut_parts import write_parts
    from noble_clay.core.kernel.solid import Solid
    from noble_clay.core.printing.cutting import cut, plane_of

    planes = [plane_of(text) for text in arguments.at]
    given = _given(arguments.file)
    if not given.inspection.manifold:
        return _not_closed(given.inspection)
    solid = given.result.solid if given.result else Solid.from_mesh(given.mesh, "mesh")
    found = cut(solid, planes, arguments.peg, arguments.clearance, arguments.labels)
    parts, gap = found.parts, found.least_gap
    files = write_parts(arguments.output, arguments.file.name.split(".")[0], [p.solid for p in parts], given.piece)
    told = [
        {"file": str(f), "volume_mm3": p.solid.volume, "bodies": p.solid.bodies, "pegs": p.pegs, "sockets": p.sockets}
        for f, p in zip(files, parts, strict=True)
    ]
    if arguments.json:
        slides = all(fit.slides for fit in found.fits)
        gaps = {"least_gap_mm": gap, "greatest_gap_mm": found.greatest_gap}
        print(json.dumps({"parts": told, **gaps, "goes_together": slides}))
    else:
        for part in told:
            print(", ".join(f"{name}: {value}" for name, value in part.items()))
        print("no pegs" if gap is None else f"gap between pegs and sockets: {gap:.3g} to {found.greatest_gap:.3g} mm")
        if not all(fit.slides for fit in found.fits):
            print("some parts do not come apart the way in which they are joined: cut them otherwise")
    return OK


def _not_closed(inspection: Inspection) -> int:
    print(f"noble-clay: not a closed manifold ({_flaws(inspection)}): mend it first", file=sys.stderr)
    return FLAWED


def _flaws(inspection: Inspection) -> str:
    return ", ".join(f"{f.kind.replace('_', ' ')}: {f.count:,}" for f in inspection.findings) or "nothing is left"


def _serve(arguments: argparse.Namespace) -> int:
    from noble_clay.solvers.ready import get_ready

    get_ready()
    from noble_clay.web.serve import serve

    return serve(arguments.host, arguments.port)


def _worker(arguments: argparse.Namespace) -> int:
    from noble_clay.jobs.worker import run_worker

    return run_worker()


def _status(inspection: Inspection, result: Result | None = None) -> int:
    return OK if inspection.manifold and not (result and result.left_out) else FLAWED


def _piece_notes(result: Result) -> list[str]:
    return [f'part "{part}" does not count: {why}' for part, why in result.left_out.items()]


def _say(arguments: argparse.Namespace, values: dict[str, Any], notes: list[str]) -> None:
    if arguments.json:
        print(json.dumps(values))
        return
    size = "nothing"
    if values["bounds"]:
        low, high = values["bounds"]
        size = " x ".join(f"{b - a:.2f}" for a, b in zip(low, high, strict=True)) + " mm"
    print(f"{size}, {values['triangles']:,} triangles, {values['volume_mm3']:,.2f} mm³, bodies: {values['bodies']}")
    print("closed manifold" if values["manifold"] else "not a closed manifold")
    for finding in values["findings"]:
        print(f"  {finding['kind'].replace('_', ' ')}: {finding['count']:,}")
    for note in notes:
        print(f"  {note}")


class _Given(NamedTuple):
    """A piece or mesh that was named. mesh: mm, as it is or will be written. piece, result: none of a mesh."""

    mesh: Mesh
    inspection: Inspection
    piece: Piece | None = None
    result: Result | None = None


def _given(path: Path) -> _Given:
    if is_read(ending(path)):
        from noble_clay.core.mesh.inspect import inspect_mesh

        mesh = _mesh_file(path).in_mm()
        return _Given(mesh, inspect_mesh(mesh))
    piece, result = _evaluated(path)
    return _Given(result.written.mesh, result.inspection, piece, result)


def _evaluated(path: Path) -> tuple[Piece, Result]:
    from noble_clay.core.evaluate.evaluator import Evaluator
    from noble_clay.core.formats.pieces import read_piece_file

    file = read_piece_file(_bytes(path))
    return file.piece, Evaluator(assets=file.loader()).evaluate(file.piece)


def _bytes(path: Path) -> bytes:
    check_bytes(path.stat().st_size, path.suffix)
    return path.read_bytes()


def _mesh_file(path: Path) -> MeshFile:
    from noble_clay.core.formats.read import read_mesh

    return read_mesh(_bytes(path), path.suffix)


def _one_line(error: Exception) -> str:
    if isinstance(error, OSError) and error.filename:
        return f'"{error.filename}": {NO_ROOM if is_no_room(error) else error.strerror}'
    return " ".join(str(error).split())


if __name__ == "__main__":
    run()
