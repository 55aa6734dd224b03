/** Long work, all pieces together: what is under way, what came of the rest. */
import { NavLink } from 'react-router';
import type { Job } from '../api/client';
import { ended, useJobs } from '../api/jobs';
import { useJobKinds } from '../api/pieces';
import { clock } from '../controls/format';
import { useTitle } from '../controls/useTitle';
import { JobBar } from './JobBar';
import { outcome, STATE_WORDS } from './words';

export function Jobs() {
  useTitle('Long work');
  const jobs = useJobs();
  // What the page itself asks for is of interest while it takes time, or when it could not be done.
  const kinds = useJobKinds().data ?? [];
  const quiet = new Set(kinds.filter((k) => k.quiet).map((k) => k.kind));
  const shown = jobs.data?.filter((j) => !quiet.has(j.kind) || !ended(j) || j.state === 'failed');
  return (
    <div className="app">
      <header className="top">
        <div className="brand">
          <img src="/seal.svg" alt="" />
          <NavLink to="/" end>
            Pieces /
          </NavLink>
          <span className="name">Long work</span>
        </div>
      </header>
      <span />
      <main className="jobs-page">
        <h1>Long work</h1>
        <p className="quiet">
          Reading and mending meshes goes on by itself, also when this page is closed. What is stopped changes
          nothing.
        </p>
        {jobs.error && <p className="text-danger">{jobs.error.message}</p>}
        {shown?.length === 0 && (
          <p>Nothing has been asked for yet. Bring a mesh in at the Mend stage of a piece.</p>
        )}
        <ul className="job-list">
          {shown?.map((job) => (
            <li key={job.id}>
              <Row job={job} label={kinds.find((k) => k.kind === job.kind)?.label ?? job.kind} />
            </li>
          ))}
        </ul>
      </main>
    </div>
  );
}

function Row({ job, label }: { job: Job; label: string }) {
  return (
    <>
      <div>
        <b>
          {label}: {job.name}
        </b>
        {job.piece_id && job.piece_name && (
          <NavLink to={`/pieces/${job.piece_id}/mend`}>in {job.piece_name}</NavLink>
        )}
      </div>
      <div className="quiet">
        asked at {clock(job.created_at)}
        {ended(job) && `, ${STATE_WORDS[job.state]}${outcome(job)}`}
      </div>
      {job.error && <p className="text-danger mb-0">{job.error}</p>}
      {!ended(job) && <JobBar job={job} />}
    </>
  );
}
