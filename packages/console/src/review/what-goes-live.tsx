import { Table } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { Link, useOutletContext } from 'react-router';
import { OUTCOME_WORDS } from '@kleidon/client';
import type { decisions } from '@kleidon/core';
import { FindingList } from '../changes/finding-list.tsx';
import { findingsQuery } from '../changes/findings-query.ts';
import { gridQuery } from '../reach/kinds-query.ts';
import { occurring } from '../reach/rows.ts';
import { comparisonQuery } from '../releases/comparison-query.ts';
import { ComparisonView } from '../releases/comparison-view.tsx';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import css from './review.module.css';
import layout from '../style/layout.module.css';

const OUTCOMES = Object.keys(OUTCOME_WORDS) as decisions.Outcome[];

/** The effect of a release: its findings, expected visits with another end, and changes of access. */
export function WhatGoesLive() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const visits = useQuery(findingsQuery(site.id, pending)).data?.visits ?? [];
  const wrong = visits.filter(({ isAsExpected }) => !isAsExpected);
  return (
    <section className={css.goesLive} aria-label="What goes live">
      <Findings />
      <h2 className={css.goesLiveTitle}>
        {site.live
          ? 'Changes for all possible visitors'
          : 'Pages by outcome for each listed visitor'}
      </h2>
      {wrong.length > 0 && (
        <ul className={clsx(layout.plain, layout.refused, css.wrong)}>
          {wrong.map(({ name, words, message }) => (
            <li key={name}>
              <span aria-hidden>×</span> Expected visit {name}: {words}. {message}
            </li>
          ))}
        </ul>
      )}
      {site.live ? <Difference live={site.live.number} /> : <FirstRelease />}
    </section>
  );
}

function Difference({ live }: { live: number }) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const version = `${pending.key} ${live}`;
  const { data, error, refetch } = useQuery(
    comparisonQuery(site.id, 'live', pending.state, version),
  );
  if (error) return <Failure error={error} retry={() => void refetch()} site={site.id} />;
  if (!data) return <Waiting what="the comparison" />;
  return <ComparisonView comparison={data} before="live" after={pending.state} />;
}

/** Counts the pages by outcome for each listed visitor. */
function FirstRelease() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { state } = pending;
  const { data, error, refetch } = useQuery(gridQuery(site.id, pending.key, state, '', null));
  if (error) return <Failure error={error} retry={() => void refetch()} site={site.id} />;
  if (!data) return <Waiting what="the visits" />;
  const counted = occurring(data);
  const outcomes = OUTCOMES.filter((outcome) => counted.has(outcome));
  const count = (visitor: string, outcome: string): number =>
    data.rows.filter(({ cells }) => cells[visitor]?.outcome === outcome).length;
  return (
    <TableFrame label="Pages by outcome">
      <Table
        size="small"
        rowKey="name"
        rowHoverable={false}
        pagination={false}
        sticky
        dataSource={[...data.visitors]}
        columns={[
          {
            title: 'Visitor',
            key: 'visitor',
            width: 320,
            rowScope: 'row',
            render: (_, { title, summary }) => `${title} (${summary})`,
          },
          ...outcomes.map((outcome) => ({
            title: `${OUTCOME_WORDS[outcome].sign} ${OUTCOME_WORDS[outcome].word}`,
            key: outcome,
            align: 'right' as const,
            render: (_: unknown, { name }: { name: string }) => {
              const found = count(name, outcome);
              const filter = new URLSearchParams({ state, only: name, outcome });
              return found === 0 ? (
                '0'
              ) : (
                <Link to={`/sites/${site.id}/reach?${filter.toString()}`}>{found}</Link>
              );
            },
          })),
        ]}
      />
    </TableFrame>
  );
}

/** The length of the list of findings. */
const MOST_FINDINGS = 20;

/** The findings of the new state. The list is open before the first release and folded later. */
function Findings() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { data, error, refetch } = useQuery(findingsQuery(site.id, pending));
  if (error) return <Failure error={error} retry={() => void refetch()} site={site.id} />;
  if (!data) return <Waiting what="the findings" />;
  const { findings } = data;
  if (findings.length === 0) return <p className={css.goesLiveTitle}>No findings.</p>;
  const left = findings.length - MOST_FINDINGS;
  return (
    <details className={css.findings} open={site.live === null}>
      <summary>{findings.length === 1 ? '1 finding' : `${findings.length} findings`}</summary>
      <FindingList site={site.id} findings={findings} most={MOST_FINDINGS} />
      {left > 0 && (
        <Link to={`/sites/${site.id}/file`}>
          {left === 1 ? 'One more finding' : `${left} more findings`}
        </Link>
      )}
    </details>
  );
}
