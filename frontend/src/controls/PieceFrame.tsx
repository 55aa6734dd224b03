/** The frame around the stages of one piece: name, soundness, stages, undo, export; and what is wrong just now. */
import { useQueryClient } from '@tanstack/react-query';
import { Fragment, type ReactNode, useMemo } from 'react';
import Dropdown from 'react-bootstrap/Dropdown';
import { NavLink, useNavigate, useParams } from 'react-router';
import { type PieceState, Refused } from '../api/client';
import { useFollowing } from '../api/making';
import { useCount, useFormats, usePiece } from '../api/pieces';
import { useWork, type Work, workOf } from '../api/work';
import { HistoryButton } from '../history/HistoryButton';
import { HistoryPanel } from '../history/HistoryPanel';
import { clock } from './format';
import { NameField } from './NameField';
import { Notices } from './Notices';
import { SoundnessPill } from './SoundnessPill';
import { useStages } from './stages';
import { type Known, knownParts } from './tree';
import { Unreadable } from './Unreadable';
import { useTitle } from './useTitle';

export type Open = { id: string; state: PieceState; work: Work; known: Map<string, Known> };

/** The open piece of this address, once it is loaded. */
export function useOpenPiece(): { open: Open | null; failure: Error | null; reload: () => void } {
  const { id = '' } = useParams();
  const client = useQueryClient();
  const query = usePiece(id);
  const work = workOf(client, id);
  const state = query.data;
  useCount(state);
  useFollowing(id);
  const known = useMemo(() => (state ? knownParts(state.piece) : null), [state]);
  return {
    open: state && known ? { id, state, work, known } : null,
    failure: query.error,
    reload: () => void query.refetch(),
  };
}

type Props = {
  open: Open | null;
  stage: string;
  failure: Error | null;
  undo: () => void;
  redo: () => void;
  children: ReactNode;
};

export function PieceFrame({ open, stage, failure, undo, redo, children }: Props) {
  const navigate = useNavigate();
  const stages = useStages();
  useTitle(open && `${open.state.piece.name} · ${stage}`);
  if (!open) {
    return (
      <div className="app">
        <header className="top">
          <Brand />
        </header>
        <span />
        <main className="empty">
          {failure instanceof Refused && failure.refusal.unreadable ? (
            <Unreadable piece={failure.refusal.unreadable} />
          ) : failure ? (
            <>
              <h1>This piece cannot be opened</h1>
              <p>{failure.message}</p>
              <button type="button" className="plain go" onClick={() => navigate('/')}>
                Back to the pieces
              </button>
            </>
          ) : (
            <p className="quiet">Bringing the piece …</p>
          )}
        </main>
      </div>
    );
  }
  const { id, state, work, known } = open;
  return (
    <div className="app" data-revision={state.revision}>
      <header className="top">
        <Brand drawer={Boolean(state.piece.drawer)}>
          <h1 className="visually-hidden">{`${state.piece.name}: ${stage}`}</h1>
          <NameField
            className="name"
            label="Name of the piece"
            name={state.piece.name}
            onRename={(name) => void work.edit({ kind: 'set_piece', name })}
          />
          <SoundnessPill
            soundness={state.scene?.soundness}
            parts={known.size}
            making={state.making !== null}
            impossible={state.problem !== null}
          />
        </Brand>
        <nav className="stages" aria-label="Stages">
          {stages.map(({ path, name }, n) => (
            <Fragment key={path}>
              {n > 0 && <i />}
              <NavLink to={`/pieces/${id}/${path}`}>{name}</NavLink>
            </Fragment>
          ))}
        </nav>
        <div className="top-right">
          <Kept state={state} />
          <Step word="Undo" sign="↶" keys="Ctrl+Z" what={state.undo} run={undo} />
          <Step word="Redo" sign="↷" keys="Ctrl+Y" what={state.redo} run={redo} />
          <HistoryButton />
          <NavLink className="plain" to="/preferences" title="Steps and shortcuts (Ctrl+,)">
            Preferences
          </NavLink>
          <Export open={open} />
        </div>
      </header>
      <Notices open={open} undo={undo} />
      {children}
      <HistoryPanel open={open} />
    </div>
  );
}

type StepProps = { word: string; sign: string; keys: string; what: string | null; run: () => void };

/** One step back or forward; says what it would do. */
function Step({ word, sign, keys, what, run }: StepProps) {
  return (
    <button
      type="button"
      className="icon-button"
      aria-label={word}
      title={what ? `${word}: ${what} (${keys})` : `Nothing to ${word.toLowerCase()}`}
      disabled={!what}
      onClick={run}
    >
      {sign}
    </button>
  );
}

function Brand({ children, drawer = false }: { children?: ReactNode; drawer?: boolean }) {
  return (
    <div className="brand">
      <img src="/seal.svg" alt="" />
      <NavLink to={drawer ? '/drawer' : '/'} end>
        {drawer ? 'Parts drawer /' : 'Pieces /'}
      </NavLink>
      {children}
    </div>
  );
}

function Kept({ state }: { state: PieceState }) {
  const { waiting, away } = useWork();
  if (away) return <span>Not sent yet</span>;
  if (waiting) return <span className="quiet">Working …</span>;
  return (
    <span title="Every step is kept as you make it; there is nothing to save.">
      Kept {clock(state.changed_at)}
    </span>
  );
}

const PIECE_FILES = [
  { ending: 'clay.json', name: 'Piece file', about: 'to open here again, or hand on' },
  { ending: 'claypack', name: 'Piece pack', about: 'with its meshes, pictures and history' },
  { ending: 'claypack&history=false', name: 'Pack without history', about: 'not how it was made' },
];

function Export({ open }: { open: Open }) {
  const soundness = open.state.scene?.soundness;
  const formats = useFormats().data?.filter((f) => f.offered && f.writes) ?? [];
  return (
    <Dropdown align="end">
      <Dropdown.Toggle bsPrefix="plain go" as="button" type="button">
        Export
      </Dropdown.Toggle>
      <Dropdown.Menu style={{ minWidth: 290 }}>
        {soundness && !soundness.sound && (
          <div className="px-3 pb-2 quiet" role="note">
            {soundness.triangles === 0
              ? 'There is nothing to print yet.'
              : 'This piece is not one sound body: look at Mend first, or export it as it is.'}
          </div>
        )}
        {[...formats, ...PIECE_FILES].map(({ ending, name, about }) => (
          <Dropdown.Item
            key={ending}
            href={`/api/pieces/${open.id}/export?format=${ending}`}
            download
            disabled={formats.some((f) => f.ending === ending) && soundness?.triangles === 0}
          >
            <b>{name}</b> <span className="quiet">{about}</span>
          </Dropdown.Item>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
