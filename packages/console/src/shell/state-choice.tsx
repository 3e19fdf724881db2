import { Select } from 'antd';
import { useOutletContext } from 'react-router';
import type { SiteFrame } from './shell.tsx';

/** Which state of the site is looked at: the draft, with pending changes or without; what is live; an earlier release. */
export function StateChoice({
  label = 'State of the site',
  value,
  onChange,
}: {
  label?: string;
  value: string;
  /** The state that was chosen; null for the one that is worked on. */
  onChange: (state: string | null) => void;
}) {
  const { releases, pending } = useOutletContext<SiteFrame>();
  const [live] = releases;
  return (
    <Select
      aria-label={label}
      value={value}
      onChange={(next: string) => onChange(next === pending.state ? null : next)}
      popupMatchSelectWidth={false}
      options={[
        ...(pending.count > 0
          ? [{ value: pending.state, label: `Draft with pending changes (${pending.count})` }]
          : []),
        { value: 'draft', label: pending.count > 0 ? 'Draft as saved' : 'Draft' },
        ...(live ? [{ value: 'live', label: `Live (release ${live.number})` }] : []),
        ...(value.startsWith('version-')
          ? [{ value, label: `Version ${value.slice('version-'.length)} of the draft` }]
          : []),
        ...releases.map(({ number, note }) => ({
          value: String(number),
          label: `Release ${number}${note && `: ${note}`}`,
        })),
      ]}
    />
  );
}
