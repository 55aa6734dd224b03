/** The typed client of the server, and its refusals as errors. */
import createClient from 'openapi-fetch';
import type { components, paths } from './generated';

export type PieceState = components['schemas']['PieceState'];
export type PieceInShort = components['schemas']['PieceCard'];
export type Piece = components['schemas']['Piece'];
export type Part = components['schemas']['Part'];
export type Edit = components['schemas']['EditRequest']['edit'];
export type PartFields = components['schemas']['PartFields'];
export type Primitive = NonNullable<Part['primitive']>;
export type Op = NonNullable<Part['op']>;
export type Place = NonNullable<Part['place']>;
export type Copies = NonNullable<Part['copies']>;
export type Scene = components['schemas']['Scene'];
export type PartView = components['schemas']['PartView'];
export type ResultView = components['schemas']['ResultView'];
export type Count = components['schemas']['CountAnswer'];
export type Soundness = components['schemas']['Soundness'];
export type StepFacts = components['schemas']['StepFactsAnswer'];
export type Adjust = components['schemas']['AdjustRequest']['adjust'];
export type Carried = components['schemas']['CarriedAnswer'];
export type Face = components['schemas']['FaceAnswer'];
export type MeasuredSpot = components['schemas']['MeasuredSpot'];
export type Measure = components['schemas']['Measure'];
export type ReferencePicture = components['schemas']['ReferencePicture'];
export type ShownPiece = components['schemas']['ShownPiece'];
export type CutFace = components['schemas']['CutFaceAnswer'];
export type Marks = components['schemas']['MarksAnswer'];
export type Mark = components['schemas']['MarkAnswer'];
export type Needs = components['schemas']['NeedsAnswer'];
export type Need = components['schemas']['NeedAnswer'];
export type Remedy = components['schemas']['RemedyAnswer'];
export type Severity = Need['severity'];
export type Job = components['schemas']['JobAnswer'];
export type MeshFindings = components['schemas']['MeshFindings'];
export type Flaw = components['schemas']['FlawAnswer'];
export type FlawKind = Flaw['kind'];
export type MendOptions = components['schemas']['MendOptions'];
export type Compared = components['schemas']['CompareAnswer'];
export type LengthUnit = NonNullable<components['schemas']['PutMesh']['unit']>;
export type KeptCard = components['schemas']['KeptCard'];
export type KeptFields = components['schemas']['KeptFields'];
export type CopyNote = components['schemas']['CopyNote'];
export type Followed = components['schemas']['Followed'];
export type Backdrop = components['schemas']['Backdrop'];
export type Preset = components['schemas']['Preset'];
export type PrimitiveInfo = components['schemas']['PrimitiveAnswer'];
export type ChangeInfo = components['schemas']['ChangeAnswer'];
export type ShapeChange = Part['changes'][number];
export type JobKind = components['schemas']['JobKindAnswer'];
export type CopiesInfo = components['schemas']['KindAnswer'];
export type FieldSpec = components['schemas']['FieldSpec'];
export type FieldKind = FieldSpec['field'];
export type Either = components['schemas']['Either'];
export type MeshFormat = components['schemas']['FormatAnswer'];
export type Handle = PartView['handles'][number];
export type History = components['schemas']['HistoryAnswer'];
export type HistoryStep = components['schemas']['StepAnswer'];
export type HistoryWay = components['schemas']['WayAnswer'];
export type ComparedSteps = components['schemas']['CompareStepsAnswer'];
export type UnreadablePiece = components['schemas']['UnreadableAnswer'];
type Refusal = components['schemas']['Refusal'];

export const api = createClient<paths>({ baseUrl: '/' });

/** The server said no, in words. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly refusal: Refusal,
  ) {
    super(refusal.message);
  }
}

/** The server or its database does not answer just now: what was asked may be sent again as it is. */
export class Away extends Error {}

/** What went wrong, in words. */
/** Whether a question that failed is to be asked once more: only when nobody answered, and not for ever. */
export const askAgain = (count: number, error: Error) => error instanceof Away && count < 12;

/** Milliseconds before a thing is sent again, the more the oftener it was sent in vain. */
export const pauseBefore = (again: number) => Math.min(1000 * 1.5 ** again, 15_000);

export const said = (error: unknown): string => (error instanceof Error ? error.message : String(error));

export type Answer = { data?: unknown; error?: unknown; response: Response };

/** The data of an answer, as its model says (the client itself forgets how long fixed lists are); throws `Refused`, or `Away` when nobody answers. */
export async function answered<T>(request: Promise<Answer>): Promise<T> {
  let answer: Answer;
  try {
    answer = await request;
  } catch {
    throw new Away('The server does not answer. Your work is kept here and is sent when it is back.');
  }
  const { data, error, response } = answer;
  if (response.ok) return data as T;
  const refusal = asRefusal(error) ?? {
    message: `The server answered ${response.status}.`,
    problems: [],
    away: false,
  };
  if (refusal.away) throw new Away(refusal.message);
  throw new Refused(response.status, refusal);
}

function asRefusal(error: unknown): Refusal | undefined {
  return typeof error === 'object' && error !== null && 'message' in error ? (error as Refusal) : undefined;
}

/** Sends a file as the raw body; openapi-fetch by itself would turn it into JSON. */
export function rawBody(data: Blob, type = 'application/octet-stream') {
  return { body: data as never, bodySerializer: () => data, headers: { 'content-type': type } };
}
