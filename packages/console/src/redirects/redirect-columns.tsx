import type { queries } from '@kleidon/core';
import css from './redirects.module.css';
import layout from '../style/layout.module.css';

/** Columns that can be sorted by; the service calls their orders the same. */
const SORTED = ['from', 'to', 'kind', 'until', 'findings'];

const STATUS_LABELS: Readonly<Record<queries.RedirectRow['status'], string>> = {
  active: '',
  scheduled: 'scheduled',
  expired: 'expired',
};

/** The columns of the table of redirects; few where something stands beside it. */
export function columns(order: string | null, descending: boolean, isBrief: boolean) {
  const sorted = (key: string) => ({
    key,
    sorter: SORTED.includes(key),
    sortOrder: order === key ? (descending ? ('descend' as const) : ('ascend' as const)) : null,
  });
  const first = [
    { title: 'From', ...sorted('from') },
    {
      title: 'To',
      ...sorted('to'),
      render: (_: unknown, { to }: queries.RedirectRow) => <code>{to}</code>,
    },
  ];
  const findings = {
    title: 'Findings',
    ...sorted('findings'),
    render: (_: unknown, row: queries.RedirectRow) =>
      row.findings.map((code) => (
        <span key={code} className={css.findingTag}>
          <span aria-hidden>!</span> {code.replace(/^redirect-/, '')}
        </span>
      )),
  };
  if (isBrief) return [...first, findings];
  return [
    ...first,
    { title: 'Kind', ...sorted('kind'), dataIndex: 'kind', width: 100 },
    {
      title: 'Only for',
      key: 'when',
      render: (_: unknown, { when }: queries.RedirectRow) => <code>{when}</code>,
    },
    {
      title: 'Until',
      ...sorted('until'),
      width: 110,
      render: (_: unknown, { until, status }: queries.RedirectRow) => (
        <>
          {until} {STATUS_LABELS[status]}
        </>
      ),
    },
    findings,
    { title: 'Note', key: 'note', dataIndex: 'note' },
    {
      title: 'In',
      key: 'place',
      width: 130,
      render: (_: unknown, { list, line }: queries.RedirectRow) => (
        <span className={layout.quiet}>
          {list === null ? `line ${line}` : `${list}, line ${line}`}
        </span>
      ),
    },
  ];
}
