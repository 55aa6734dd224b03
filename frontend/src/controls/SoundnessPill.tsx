/** Whether the piece is sound: always there, always true. */
import type { Soundness } from '../api/client';
import { plural } from './format';

type Said = { text: string; tone: string; title: string };

const FLAWS: Record<string, string> = {
  overshared_edges: 'overshared edge',
  pinched_vertices: 'pinch',
  loose_bodies: 'loose body',
};

export function saySoundness(soundness: Soundness | null | undefined, parts: number): Said {
  if (!soundness) {
    const title = 'Its closed skin, its bodies, and whether it runs through itself are being looked for.';
    return { text: 'Still counting', tone: 'idle', title };
  }
  if (soundness.left_out.length) {
    const title = soundness.left_out.map((l) => l.why).join('; ');
    return { text: `${plural(soundness.left_out.length, 'mesh', 'meshes')} left out`, tone: 'bad', title };
  }
  if (soundness.triangles === 0) {
    return parts === 0
      ? { text: 'Empty', tone: 'idle', title: 'There is nothing on the wheel yet.' }
      : {
          text: 'Nothing is left',
          tone: 'warn',
          title: 'These parts leave nothing: take back the last cut.',
        };
  }
  if (!soundness.manifold) {
    const kinds = soundness.findings.filter((f) => f.kind !== 'loose_bodies');
    const title = kinds.map((f) => plural(f.count, FLAWS[f.kind] ?? f.kind)).join(', ');
    return {
      text: 'Not one closed skin',
      tone: 'bad',
      title: `${title}: parts meet only in an edge or a corner`,
    };
  }
  const crossings = soundness.findings.find((f) => f.kind === 'self_intersections')?.count ?? 0;
  if (crossings) {
    const title = `Closed, but its surface runs through itself in ${plural(crossings, 'place')}: look at Mend.`;
    return { text: 'Runs through itself', tone: 'bad', title };
  }
  if (soundness.bodies > 1) {
    const title = 'Closed, but in separate bodies: they would print as loose pieces.';
    return { text: plural(soundness.bodies, 'body', 'bodies'), tone: 'warn', title };
  }
  return {
    text: 'Sound',
    tone: '',
    title: 'One closed manifold body that does not run through itself, as it will be written.',
  };
}

type Props = { soundness?: Soundness | null; parts: number; making?: boolean; impossible?: boolean };

/** making: the piece as it is now is not made yet; impossible: it cannot be made. */
export function SoundnessPill({ soundness, parts, making, impossible }: Props) {
  const { text, tone, title } = impossible
    ? { text: 'Cannot be made', tone: 'bad', title: 'What is shown is the piece before its last steps.' }
    : making
      ? { text: 'Still being made', tone: 'idle', title: 'What is shown is the piece before its last step.' }
      : saySoundness(soundness, parts);
  return (
    <span className={`pill ${tone}`} title={title} data-testid="soundness" role="status">
      <span aria-hidden="true">{tone === '' ? '●' : tone === 'idle' ? '○' : '▲'}</span>
      {text}
    </span>
  );
}
