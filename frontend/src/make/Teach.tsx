/** What an empty wheel says. */
export function Teach() {
  return (
    <div className="teach">
      <h2>An empty wheel</h2>
      <p>
        Click a primitive below: a ball for a head, a capsule for a leg. It lands in the middle; type its size
        at the right.
      </p>
      <p className="quiet">Drag to look around · right drag to shift the view · wheel to come closer</p>
    </div>
  );
}
