/** One step: its picture and words; a click goes there, the menu names, compares and copies what it left. */
import { useEffect, useRef, useState } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { useNavigate } from 'react-router';
import type { HistoryStep } from '../api/client';
import { useHistoryActions, useStepPicture } from '../api/history';
import { CardMenu } from '../controls/CardMenu';
import { day } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { compareBoth, useHistoryShown } from './shown';

type Props = { open: Open; step: HistoryStep; here: boolean; later: boolean };

export function StepRow({ open, step, here, later }: Props) {
  const [naming, setNaming] = useState(false);
  const { name, copy } = useHistoryActions(open.id);
  const navigate = useNavigate();
  const { compared: first, later: second } = useHistoryShown();
  const compared = first?.id === step.id || second?.id === step.id;
  const copied = async () => {
    const called = `${open.state.piece.name.slice(0, 60)}: ${step.version ?? `step ${step.number}`}`.slice(
      0,
      80,
    );
    const piece = await copy.mutateAsync({ of: step.id, name: called });
    navigate(`/pieces/${piece.id}/make`);
  };
  const keepName = (text: string) => {
    setNaming(false);
    const given = text.trim().slice(0, 80);
    if (given !== (step.version ?? '')) name.mutate({ of: step.id, name: given || null });
  };
  return (
    <li className={`step ${later ? 'later' : ''} ${compared ? 'compared' : ''}`}>
      <button
        type="button"
        className="go-there"
        aria-current={here ? 'step' : undefined}
        title={here ? 'The piece stands here' : 'Go there'}
        onClick={() => !here && void open.work.goTo(step.id)}
      >
        <Picture piece={open.id} step={step.id} />
        <span>
          {step.version && !naming && <b className="version">{step.version}</b>}
          {step.words}
          <small>{here ? 'the piece stands here' : `step ${step.number}, ${day(step.at)}`}</small>
        </span>
      </button>
      {naming && (
        <input
          className="name-version"
          aria-label={`Name of step ${step.number}`}
          placeholder="Name what this left, Enter keeps it"
          defaultValue={step.version ?? ''}
          maxLength={80}
          ref={(input) => input?.focus()}
          onBlur={(e) => keepName(e.currentTarget.value)}
          onKeyDown={(e) => {
            if (e.key === 'Enter') keepName(e.currentTarget.value);
            if (e.key === 'Escape') setNaming(false);
            e.stopPropagation();
          }}
        />
      )}
      <CardMenu name={`step ${step.number}`}>
        {/* The menu gives the focus back to its button first. */}
        <Dropdown.Item as="button" onClick={() => setTimeout(() => setNaming(true))}>
          {step.version ? 'Rename' : 'Name it'}
        </Dropdown.Item>
        {step.version && (
          <Dropdown.Item as="button" onClick={() => name.mutate({ of: step.id, name: null })}>
            Take the name away
          </Dropdown.Item>
        )}
        <Dropdown.Item
          as="button"
          disabled={here}
          onClick={() => useHistoryShown.setState({ compared: step, later: null })}
        >
          Compare with the piece
        </Dropdown.Item>
        {first && !compared && (
          <Dropdown.Item as="button" onClick={() => compareBoth(first, step)}>
            Compare with {first.version ?? `step ${first.number}`}
          </Dropdown.Item>
        )}
        <Dropdown.Item as="button" onClick={() => void copied()}>
          Begin a new piece from here
        </Dropdown.Item>
      </CardMenu>
      {(name.error ?? copy.error) && (
        <p className="text-danger" role="alert">
          {(name.error ?? copy.error)?.message}
        </p>
      )}
    </li>
  );
}

/** Drawn once it comes into sight. */
function Picture({ piece, step }: { piece: string; step: number }) {
  const place = useRef<HTMLSpanElement>(null);
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    const watch = new IntersectionObserver(([entry]) => setSeen(entry?.isIntersecting ?? false));
    if (place.current) watch.observe(place.current);
    return () => watch.disconnect();
  }, []);
  const address = useStepPicture(piece, step, seen);
  return (
    <span ref={place} className="picture">
      {address && <img src={address} alt="" />}
    </span>
  );
}
