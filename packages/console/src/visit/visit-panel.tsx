import { Button } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { VisitRequest } from '@kleidon/client';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import { visitAddress } from './visit-address.ts';
import { VisitView } from './visit-view.tsx';
import layout from '../style/layout.module.css';

interface Props {
  readonly site: string;
  readonly request: VisitRequest;
  /** Differs when the draft or its pending changes differ, so that the visit is made anew. */
  readonly version: string;
  /** Where the page can be opened as this visitor; null where it can't. */
  readonly openAt: string | null;
  onClose(): void;
}

/** The visit behind a cell, beside the grid. */
export function VisitPanel({ site, request, version, openAt, onClose }: Props) {
  const visit = useQuery({
    queryKey: ['visit', site, version, request],
    queryFn: ({ signal }) => client.visit(site, request, signal),
  });
  const state = request.state ?? 'draft';
  return (
    <aside
      className={layout.panel}
      aria-label="Visit"
      onKeyDown={({ key }) => {
        if (key === 'Escape') onClose();
      }}
    >
      <header>
        <h2>
          {request.as ?? 'Someone of this kind'} asks for <code>{request.address}</code>
        </h2>
        <Button size="small" onClick={onClose} aria-label="Close the visit">
          Close
        </Button>
      </header>
      {visit.error ? (
        <Failure error={visit.error} retry={() => void visit.refetch()} site={site} />
      ) : visit.data ? (
        <>
          <VisitView
            visit={visit.data}
            ruleAt={(line) => ruleAddress(site, state, line)}
            visitAs={(visitor) =>
              visitAddress(site, request.address, { ...request, as: undefined, visitor })
            }
          />
          <p>
            <Link to={visitAddress(site, request.address, request)}>Try it with changes</Link>
            {openAt !== null && (
              <>
                {' · '}
                <a href={openAt} target="_blank" rel="noreferrer">
                  Open this page as {request.as} <span className={layout.quiet}>(new tab)</span>
                </a>
              </>
            )}
          </p>
        </>
      ) : (
        <Waiting what="the visit" />
      )}
    </aside>
  );
}

/** Where a line of the site file is shown; pending changes have no file yet, and are shown in the draft. */
export function ruleAddress(site: string, state: string, line: number): string {
  const query = new URLSearchParams({
    ...(state === 'draft' || state.startsWith('changes-') ? {} : { state }),
    line: String(line),
  });
  return `/sites/${site}/file?${query.toString()}`;
}
