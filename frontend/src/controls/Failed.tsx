/** What could not be done, in words, in the line under the head. dismiss: left out for what is tried again by itself. */
export function Failed({ error, dismiss }: { error: Error; dismiss?: (() => void) | undefined }) {
  return (
    <div className="notice bad" role="alert">
      <span>{error.message}</span>
      {dismiss && (
        <button type="button" className="plain small" onClick={dismiss}>
          All right
        </button>
      )}
    </div>
  );
}
