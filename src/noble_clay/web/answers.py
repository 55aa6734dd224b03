"""What the server answers, as models: the TypeScript client is generated from them."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from noble_clay.core.field_kinds import Either, FieldSpec
from noble_clay.core.mesh.severity import MeshFlaw, Severity
from noble_clay.core.needs.need import How, Kind
from noble_clay.core.piece.edits import AnyEdit
from noble_clay.core.piece.models import Piece

Triple = tuple[float, float, float]


class ProblemAnswer(BaseModel):
    """One thing that is wrong."""

    message: str
    part: str | None = None
    field: str | None = None
    value: Any = None


class UnreadableAnswer(BaseModel):
    """A piece that cannot be read, and why. undo: what a step back would take back. steps_back: how many steps lead to
    a state that can be read; none where none does.
    """

    id: str
    name: str
    revision: int
    why: str
    undo: str | None
    steps_back: int | None


class Refusal(BaseModel):
    """Why a request was not carried out. away: the database does not answer, and it may be sent again as it is."""

    message: str
    problems: list[ProblemAnswer] = []
    away: bool = False
    unreadable: UnreadableAnswer | None = None


class FindingAnswer(BaseModel):
    kind: str
    count: int


class LeftOut(BaseModel):
    """A part that could not count in the result."""

    part: str
    why: str


class Soundness(BaseModel):
    """What is told of every revision. sound: one closed manifold body, nothing wrong. tiled: counted tile by tile, so
    that an export has fewer triangles and vertices, and `genus` is none. tip_angle: degrees that it may be tipped, 0
    where it falls over by itself; none where that is not told.
    """

    sound: bool
    manifold: bool
    bodies: int
    voids: int
    genus: int | None
    triangles: int
    vertices: int
    volume_mm3: float
    area_mm2: float
    bounds: tuple[Triple, Triple] | None
    findings: list[FindingAnswer]
    left_out: list[LeftOut]
    tip_angle: float | None = None
    tiled: bool = False


class ResultView(BaseModel):
    """The joined skin. parts: what the part index of every triangle means."""

    key: str
    triangles: int
    parts: list[str]


class HandleView(BaseModel):
    """What is drawn in the view to change a field (`core.handles`). change: the index of its shape change, if any.
    of_part: whether it is a field of the part itself, else of its form.
    """

    change: int | None
    field: str
    label: str
    at: Triple
    along: Triple
    value: float
    per: float
    least: float | None
    most: float | None
    unit: str
    of_part: bool = False


class PartView(BaseModel):
    """One part. matrices: rows of 3 x 4, one a copy. own: bounds before scaling; size after it; box: on the wheel.
    chord_error: how far the flat sides of a form are off its true curve, mm. drawn_origin: of a drawn form, where its
    own origin is among the coordinates that its points have.
    """

    id: str
    key: str | None
    matrices: list[list[float]]
    own: tuple[Triple, Triple] | None
    size: Triple | None
    box: tuple[Triple, Triple] | None
    chord_error: float | None = None
    drawn_origin: Triple | None = None
    handles: list[HandleView] = []


class Patch(BaseModel):
    """Where a joined skin is out of date: inside the box, on the wheel, this mesh is drawn in its place."""

    key: str
    parts: list[str]
    box: tuple[Triple, Triple]


class Scene(BaseModel):
    """What is to be shown of a revision. result: none while a large piece is joined for the first time. soundness: none
    while it is still being counted; `count` tells it.
    """

    result: ResultView | None
    patch: Patch | None
    parts: list[PartView]
    soundness: Soundness | None
    seconds: dict[str, float]


class CountAnswer(BaseModel):
    """The joined skin of a revision and its soundness; both none where the piece has changed meanwhile."""

    revision: int
    result: ResultView | None = None
    soundness: Soundness | None = None


class MakingAnswer(BaseModel):
    """How far a state is that is still being made: a share, 0 to 1, and the part whose turn it is."""

    share: float
    part: str | None


class PieceState(BaseModel):
    """A piece at one revision. undo, redo: what they would do, in words.

    making: it is not made yet. problem: it cannot be made. With either, the scene has the skin that was shown last, of
    an earlier state, and the parts where they stand now.
    """

    id: str
    revision: int
    piece: Piece
    undo: str | None
    redo: str | None
    demo: bool
    changed_at: datetime
    chosen: list[str]
    scene: Scene | None
    problem: Refusal | None = None
    making: MakingAnswer | None = None
    server_seconds: dict[str, float] = Field(default_factory=dict)


class CarriedAnswer(BaseModel):
    """How a part would be carried: rows of 3 x 4, on the wheel."""

    id: str
    matrix: list[float]


class FaceAnswer(BaseModel):
    """A face on the wheel. middle: where it is flat."""

    point: Triple
    normal: Triple
    middle: Triple | None


class CutFaceAnswer(BaseModel):
    """What a plane cuts of a skin. triangles, outline, hatching: of three, two and two points each, one coordinate
    after the other, mm. hatched: the part of each line of hatching, as an index.
    """

    area_mm2: float
    outline_mm: float
    triangles: list[float]
    outline: list[float]
    hatching: list[float]
    hatched: list[int]


class MarkAnswer(BaseModel):
    """What is odd about how a part meets another. by: mm on the wheel that would mend it; gap: of one that floats."""

    part: str
    state: Literal["floats", "copies_apart", "touches", "inside", "pokes_through", "cuts_nothing"]
    other: str | None
    by: Triple | None
    gap: float | None = None


class MarksAnswer(BaseModel):
    """complete: whether all was compared; if not, ask again."""

    revision: int
    complete: bool
    marks: list[MarkAnswer]


class PieceCard(BaseModel):
    """A piece on the first page. problem: why it cannot be read."""

    id: str
    name: str
    revision: int
    demo: bool
    changed_at: datetime
    binned_at: datetime | None
    in_drawer: bool
    parts: int
    thumbnail_revision: int | None
    soundness: Soundness | None
    problem: str | None = None


class RemedyAnswer(BaseModel):
    """An edit that mends a need. by_mm: how far it moves or grows the part."""

    how: How
    part: str
    by_mm: float
    edit: AnyEdit


class NeedAnswer(BaseModel):
    """One place where a joined piece needs something. measures: numbers named with their units. key: of the mesh of a
    loose body. faces: triangles to draw, as coordinates on the wheel. remedies: the best first.
    """

    kind: Kind
    severity: Severity
    parts: list[str]
    other: str | None
    at: Triple
    size_mm: float
    measures: dict[str, float]
    along: Literal["face", "edge", "corner"] | None
    key: str | None
    faces: list[float]
    remedies: list[RemedyAnswer]


class NeedsAnswer(BaseModel):
    """What the Mend stage lists of a recipe."""

    revision: int
    soundness: Soundness
    needs: list[NeedAnswer]
    all_compared: bool


class ContactAnswer(BaseModel):
    relation: Literal["apart", "touching", "overlapping", "inside", "swallows"]
    gap: float
    depth: float
    shared: float
    along: Literal["face", "edge", "corner"] | None
    direction: Triple | None
    at: Triple | None


class ReachAnswer(BaseModel):
    """How far a tool goes into a body. left: mm of the body beyond its end; out: the sides where it stands out."""

    through: bool
    left: float | None
    out: list[Literal["right", "left", "back", "front", "top", "under"]]


class StepFactsAnswer(BaseModel):
    """What one line of a join did."""

    part: str
    op: Literal["union", "difference", "intersection"]
    volume_before: float
    volume_after: float
    bodies_before: int
    bodies_after: int
    meets: ContactAnswer | None
    reach: ReachAnswer | None
    emptied: bool


class JobAnswer(BaseModel):
    """Long work: how far it is, and what came of it. result: as the kind has it; outcome: in words. settled: of a mesh
    that was read: it was put into the piece, or left.
    """

    id: str
    piece_id: str | None
    piece_name: str | None = None
    kind: str
    name: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    progress: float
    step: str
    error: str | None
    result: dict[str, Any] | None
    outcome: str = ""
    created_at: datetime
    started_at: datetime | None
    ended_at: datetime | None
    settled: bool = False


class JobKindAnswer(BaseModel):
    """A kind of long work: what it is called; whether it is left out of the list once it has ended well; whether it may
    be asked for about a whole piece, and with which fields.
    """

    kind: str
    label: str
    quiet: bool
    of_piece: bool
    fields: list[FieldSpec]


class FlawAnswer(BaseModel):
    """One place of a flaw in a mesh, in the mesh's own frame, mm. lines: segments, faces: triangles, as coordinates."""

    kind: MeshFlaw
    severity: Severity
    count: int
    at: tuple[float, float, float]
    size_mm: float
    lines: list[float]
    faces: list[float]
    length_mm: float | None = None
    width_mm: float | None = None
    volume_mm3: float | None = None


class MeshFindings(BaseModel):
    """What was found in the mesh of a part. job: that is looking it over, or could not; none where nobody has asked."""

    part: str
    sha256: str
    job: JobAnswer | None
    sound: bool | None = None
    manifold: bool | None = None
    triangles: int | None = None
    bodies: int | None = None
    volume_mm3: float | None = None
    findings: list[FindingAnswer] = []
    flaws: list[FlawAnswer] = []


class CompareAnswer(BaseModel):
    """A part before and after a job mended it: keys of both meshes, and where the distances come from."""

    part: str
    before: str
    after: str
    moved: str
    largest_mm: float | None


class KindAnswer(BaseModel):
    """A form, shape change or way of copying, with its fields as the card shows them. sample: of a new one. either: two
    fields of which one is given.
    """

    kind: str
    label: str
    summary: str
    fields: list[FieldSpec]
    either: Either | None


class PrimitiveAnswer(KindAnswer):
    """A primitive of the tray. round: it has flat sides for a curve. editor: in which its points are drawn, if any."""

    family: str
    sample: dict[str, Any]
    round: bool
    editor: str


class ChangeAnswer(KindAnswer):
    """A shape change that can be put on a part."""

    sample: dict[str, Any]


class FormatAnswer(BaseModel):
    """A kind of mesh file: what it is called and keeps, whether it is read and written, and offered for a piece."""

    ending: str
    name: str
    about: str
    reads: bool
    writes: bool
    offered: bool


class Amount(BaseModel):
    value: float
