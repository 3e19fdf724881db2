import { Select } from 'antd';
import { useOutletContext } from 'react-router';
import type { SiteFrame } from './shell.tsx';

/** Which state of the site is looked at: the draft, what is live, or an earlier release. */
export function StateChoice({
  value,
  onChange,
}: {
  value: string;
  onChange: (state: string) => void;
}) {
  const { releases } = useOutletContext<SiteFrame>();
  const [live] = releases;
  return (
    <Select
      aria-label="State of the site"
      value={value}
      onChange={onChange}
      popupMatchSelectWidth={false}
      options={[
        { value: 'draft', label: 'Draft' },
        ...(live ? [{ value: 'live', label: `Live (release ${live.number})` }] : []),
        ...releases.map(({ number, note }) => ({
          value: String(number),
          label: `Release ${number}${note && `: ${note}`}`,
        })),
      ]}
    />
  );
}
