/** What a join does, in one sentence. */
import type { StepFacts } from '../api/client';
import { plural, short, volume } from '../controls/format';
import type { Known } from '../controls/tree';

/** bodies: how many of the parts are the body; the steps that unite those are not told. */
export function sayFacts(
  all: StepFacts[],
  known: Map<string, Known>,
  wouldBe: boolean,
  { bodies: count = 1, split = false, body }: { bodies?: number; split?: boolean; body?: string } = {},
): string {
  const facts = all.slice(Math.min(count, all.length) - 1);
  const first = facts[0];
  const last = facts[facts.length - 1];
  if (!first || !last) return '';
  const name = (id: string) => known.get(id)?.part.name ?? 'it';
  if (split) return saySplit(first, last, name(first.part));
  const said =
    facts.length === 1
      ? sayOne(first, name(first.part), body ?? 'it', wouldBe, softness(known.get(first.part)))
      : saySeveral(facts, wouldBe);
  if (facts.some((f) => f.emptied)) return `${said} · nothing is left`;
  return `${said} · ${bodies(first.bodies_before, last.bodies_after)}`;
}

/** The radius over which a part enters its list. */
function softness(part: Known | undefined): number {
  return part?.part.blend ?? part?.parent?.join?.blend ?? 0;
}

function bodies(before: number, after: number): string {
  if (after === before) return after === 1 ? 'still one body' : `still ${plural(after, 'body', 'bodies')}`;
  return after === 1 ? 'one body' : `${plural(after, 'body', 'bodies')}`;
}

/** The share of a blend's radius within which parts that do not touch grow a bridge. */
const BRIDGED = 2 - Math.SQRT2;

function sayGap(gap: number, blend: number): string {
  const apart = `They are ${short(gap, 2)} mm apart`;
  if (!blend) return apart;
  const far = BRIDGED * blend;
  return gap < far
    ? `${apart}, and the blend of ${short(blend, 2)} mm grows a bridge between them`
    : `${apart}; a blend of ${short(blend, 2)} mm bridges up to ${short(far, 2)} mm`;
}

function sayOne(fact: StepFacts, tool: string, body: string, wouldBe: boolean, blend: number): string {
  const meets = fact.meets;
  const would = (plain: string, then: string) => (wouldBe ? `${tool} would ${plain}` : `${tool} ${then}`);
  if (!meets) return 'One of them is empty, so nothing changes';
  if (meets.relation === 'apart') return sayGap(meets.gap, blend);
  if (meets.relation === 'touching')
    return meets.along === 'face'
      ? 'They meet face to face: it holds, without any overlap'
      : `They only touch, along ${meets.along === 'edge' ? 'an edge' : 'a point'}`;
  const change = fact.volume_after - fact.volume_before;
  if (fact.op === 'union') {
    if (meets.relation === 'inside') return `${tool} lies wholly inside and adds nothing`;
    return would(
      `add ${volume(change)}, overlapping by ${short(meets.depth, 1)} mm`,
      `adds ${volume(change)}, overlapping by ${short(meets.depth, 1)} mm`,
    );
  }
  if (fact.op === 'intersection')
    return would(`leave ${volume(fact.volume_after)}`, `leaves ${volume(fact.volume_after)}`);
  if (meets.relation === 'swallows') return `${tool} swallows ${body} whole`;
  if (meets.relation === 'inside')
    return would(
      `leave a closed hollow of ${volume(-change)}`,
      `leaves a closed hollow of ${volume(-change)}`,
    );
  const reach = sayReach(fact.reach, wouldBe);
  return would(`take out ${volume(-change)}${reach}`, `takes out ${volume(-change)}${reach}`);
}

const AT = {
  right: 'on the right',
  left: 'on the left',
  back: 'at the back',
  front: 'at the front',
  top: 'at the top',
  under: 'underneath',
};

/** How far a cutter goes. */
function sayReach(reach: StepFacts['reach'], wouldBe: boolean): string {
  if (!reach) return '';
  const [pass, stop, out] = wouldBe
    ? ['pass right through', 'stop', 'break out']
    : ['passes right through', 'stops', 'breaks out'];
  if (reach.through) return `, ${pass}`;
  if (reach.left !== null) return `, ${stop} ${short(reach.left, 1)} mm inside`;
  return reach.out.length ? `, ${out} ${reach.out.map((side) => AT[side]).join(' and ')}` : '';
}

function saySplit(first: StepFacts, last: StepFacts, tool: string): string {
  const inside = first.volume_before - last.volume_after;
  if (inside <= 0) return 'They do not overlap, so there is nothing to split';
  if (last.emptied) return `${tool} swallows it whole, so there is nothing to split`;
  return `Both sides would be kept: ${volume(last.volume_after)} outside, ${volume(inside)} inside`;
}

function saySeveral(facts: StepFacts[], wouldBe: boolean): string {
  const change = (facts[facts.length - 1] as StepFacts).volume_after - (facts[0] as StepFacts).volume_before;
  const untouched = facts.filter(
    (f) =>
      f.meets &&
      f.meets.relation !== 'overlapping' &&
      f.meets.relation !== 'inside' &&
      f.meets.relation !== 'swallows',
  );
  const verb = change >= 0 ? (wouldBe ? 'would add' : 'add') : wouldBe ? 'would take out' : 'take out';
  const said = `${facts.length} parts ${verb} ${volume(Math.abs(change))}`;
  return untouched.length
    ? `${said}; ${untouched.length} of them ${untouched.length === 1 ? 'does' : 'do'} not overlap`
    : said;
}
