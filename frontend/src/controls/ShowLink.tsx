/** A link to a read-only page of the piece: given, copied, withdrawn. */
import { useState } from 'react';
import { useLink } from '../api/links';

export function ShowLink({ id }: { id: string }) {
  const { address, error, give, withdraw } = useLink(id);
  const [copied, setCopied] = useState(false);
  const failure = error ?? give.error ?? withdraw.error;
  const copy = async () => {
    await navigator.clipboard.writeText(address ?? '');
    setCopied(true);
  };
  return (
    <div className="section" data-testid="show-link">
      <h3>Show it by a link</h3>
      {address ? (
        <>
          <input
            className="form-control form-control-sm"
            aria-label="Link to the piece"
            readOnly
            value={address}
            onFocus={(e) => e.currentTarget.select()}
          />
          <div className="d-flex gap-2 mt-2">
            <button type="button" className="plain small" onClick={() => void copy().catch(() => undefined)}>
              {copied ? 'Copied' : 'Copy'}
            </button>
            <a className="plain small" href={address} target="_blank" rel="noreferrer">
              Look at it
            </a>
            <button type="button" className="plain small" onClick={() => withdraw.mutate()}>
              Withdraw it
            </button>
          </div>
          <p className="quiet mt-2 mb-0">
            Whoever has it sees this piece as it is at any time, and can turn it; nothing else, and change
            nothing.
          </p>
        </>
      ) : (
        <>
          <button
            type="button"
            className="plain"
            onClick={() => {
              setCopied(false);
              give.mutate();
            }}
          >
            Give it a link
          </button>
          <p className="quiet mt-2 mb-0">A page to look at this piece, without changing it.</p>
        </>
      )}
      {failure && (
        <p className="text-danger mb-0" role="alert">
          {failure.message}
        </p>
      )}
    </div>
  );
}
