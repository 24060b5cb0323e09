import { useEffect, useRef } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { problemOf, useJob, useReport } from '../api/client';
import { NotThere } from './NotThere';

/** The whole job on paper: the very page that is signed and made into a PDF. */
export default function PrintPage() {
  const { jobId } = useParams();
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const sheet = useRef<HTMLIFrameElement>(null);
  const job = useJob(Number(jobId));
  const signed = search.get('signed');
  const query = signed && /^[0-9]{1,15}$/.test(signed) ? `?signed=${signed}` : '';
  const report = useReport(Number(jobId), query, job.data?.saved_at ?? '');
  const name = job.data?.fan.name;
  useEffect(() => {
    if (name) document.title = `${name}, job ${jobId ?? ''}`;
  }, [jobId, name]);
  const print = () => sheet.current?.contentWindow?.print();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === 'Escape') void navigate(`/jobs/${jobId ?? ''}`);
      else if (event.key === 'p') print();
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [jobId, navigate]);
  if (job.isPending) return <p className="quiet p-10">Fetching the job…</p>;
  if (!job.data) return <NotThere text="There is no such job." />;
  const path = `/api/jobs/${job.data.job.id}`;
  return (
    <div className="flex h-full flex-col">
      <nav className="flex shrink-0 flex-wrap items-center gap-4 border-b border-rule px-5 py-2" aria-label="Report">
        <Link className="button inline-flex items-center" to={`/jobs/${job.data.job.id}/hand-over`}>
          Back to the job
        </Link>
        <button type="button" className="button button-main" onClick={print}>
          Print
        </button>
        <a className="link-button inline-flex items-center" href={`${path}/report.pdf${query}`} target="_blank" rel="noreferrer">
          as PDF
        </a>
        <a className="link-button inline-flex items-center" href={`${path}/label.pdf`} target="_blank" rel="noreferrer">
          step label
        </a>
        <h1 className="ml-auto min-w-0 truncate text-lead font-bold">
          {job.data.fan.name}
          {query && ', as it was signed'}
        </h1>
      </nav>
      {report.isError && <p className="px-5 py-3 text-lead">The report cannot be made: {problemOf(report.error).detail}</p>}
      {report.isPending && <p className="quiet px-5 py-3">Setting the report…</p>}
      {/* No script of any kind runs in it; printing is asked for from outside. */}
      {report.data !== undefined && (
        <iframe ref={sheet} title="Report" srcDoc={report.data} sandbox="allow-modals allow-same-origin" className="min-h-0 w-full flex-1 bg-white" />
      )}
    </div>
  );
}
