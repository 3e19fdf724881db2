import { useState } from 'react';
import { Button, Input, Select } from 'antd';
import { useOutletContext } from 'react-router';
import { Failure } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import css from './redirects.module.css';

interface Props {
  /** The selected redirects as the site file has them. */
  readonly values: readonly unknown[];
  /** How many the filters let through. */
  readonly all: number;
  onSelectAll(): void;
  onDone(said: string): void;
}

type Field = 'kind' | 'query' | 'until' | 'note' | 'unless-page';

/** What can be set for many at once; an empty value takes the field away. */
const FIELDS: Readonly<Record<Field, { label: string; of?: readonly string[]; hint?: string }>> = {
  kind: { label: 'Kind', of: ['permanent', 'temporary'] },
  query: { label: 'Query', of: ['keep', 'drop'] },
  until: { label: 'Until', hint: '2027-03-01, or empty' },
  note: { label: 'Note', hint: 'why, or empty' },
  'unless-page': { label: 'Only where no page is', of: ['yes', 'no'] },
};

/** Changes or removes the selected redirects, as one change that is pending. */
export function BulkEdit({ values, all, onSelectAll, onDone }: Props) {
  const { pending } = useOutletContext<SiteFrame>();
  const [field, setField] = useState<Field>('kind');
  const [value, setValue] = useState<string>('permanent');
  const [failure, setFailure] = useState<Error | null>(null);
  const { of, hint } = FIELDS[field];

  const keep = async (become: (was: object) => unknown, said: string): Promise<void> => {
    setFailure(null);
    try {
      await pending.add({
        do: 'put-items',
        section: 'redirects',
        items: values.map((was) => ({ was, value: become(was as object) })),
      });
      onDone(said);
    } catch (error) {
      setFailure(error as Error);
    }
  };
  const changed = (was: object): unknown => {
    const { [field]: _, ...rest } = was as Record<string, unknown>;
    return value.trim() === '' ? rest : { ...was, [field]: value.trim() };
  };

  return (
    <form
      className={clsx(layout.filters, css.bulk)}
      aria-label="Change the selected redirects"
      onSubmit={(event) => {
        event.preventDefault();
        void keep(changed, `A change of ${values.length} redirects is pending.`);
      }}
    >
      <strong>{values.length} selected</strong>
      {values.length < all && <Button onClick={onSelectAll}>Select all {all} found</Button>}
      <Select
        aria-label="Field to set"
        value={field}
        popupMatchSelectWidth={false}
        onChange={(next: Field) => {
          setField(next);
          setValue(FIELDS[next].of?.[0] ?? '');
        }}
        options={Object.entries(FIELDS).map(([name, { label }]) => ({ value: name, label }))}
      />
      {of ? (
        <Select
          aria-label="Value to set"
          value={value}
          popupMatchSelectWidth={false}
          onChange={setValue}
          options={of.map((one) => ({ value: one, label: one }))}
        />
      ) : (
        <Input
          aria-label="Value to set"
          placeholder={hint}
          value={value}
          onChange={({ target }) => setValue(target.value)}
        />
      )}
      <Button htmlType="submit">Set for {values.length}</Button>
      <Button
        onClick={() =>
          void keep(() => null, `The removal of ${values.length} redirects is pending.`)
        }
      >
        Remove {values.length}
      </Button>
      <Button type="link" onClick={() => onDone('')}>
        Select none
      </Button>
      {failure && <Failure error={failure} />}
    </form>
  );
}
