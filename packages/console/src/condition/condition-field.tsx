import { clsx } from 'clsx';
import { useId, useRef, useState } from 'react';
import { Input } from 'antd';
import type { model } from '@kleidon/core';
import { skipToken, useQuery } from '@tanstack/react-query';
import { useDebounce } from 'use-debounce';
import { client } from '../client.ts';
import { ConditionBuilder, type KnownNames } from './condition-builder.tsx';
import css from './condition.module.css';
import forms from '../style/forms.module.css';
import layout from '../style/layout.module.css';

interface Props {
  readonly site: string;
  /** The state of the site whose names may be used. */
  readonly state: string;
  readonly label: string;
  readonly value: string;
  readonly names: KnownNames;
  /** Where a gate stands, for the pieces of its addresses. */
  readonly addresses: readonly string[];
  readonly isOptional?: boolean;
  /** It must be filled in and is not, and someone tried to go on. */
  readonly isMissing?: boolean;
  onChange(text: string): void;
}

const PAUSE = 200;

/** A condition, typed or built from choices; whichever is changed, the other follows. */
export function ConditionField(props: Props) {
  const { site, state, label, value, names, addresses, onChange } = props;
  const { isOptional = false, isMissing = false } = props;
  const toldId = useId();
  const [failure, setFailure] = useState<Error | null>(null);
  const [text] = useDebounce(value, PAUSE);
  const isEmpty = text.trim() === '';
  const reading = useQuery({
    queryKey: ['condition', site, state, text, addresses],
    queryFn: isEmpty
      ? skipToken
      : ({ signal }) => client.readCondition(site, state, { text, addresses }, signal),
  });
  const read = isEmpty ? null : (reading.data ?? null);
  const isCurrent = read !== null && read.text === value;
  const isWrong = isMissing || (isCurrent && !read.ok);

  // What was built stands until its text has come back, so that the next choice is not made in an old tree.
  const [built, setBuilt] = useState<{ condition: model.Condition; text: string | null } | null>(
    null,
  );
  const latest = useRef(0);
  const build = async (condition: model.Condition): Promise<void> => {
    const turn = ++latest.current;
    setFailure(null);
    setBuilt({ condition, text: null });
    try {
      const { text: printed } = await client.readCondition(site, state, { condition, addresses });
      if (turn !== latest.current) return;
      setBuilt({ condition, text: printed });
      onChange(printed);
    } catch (error) {
      if (turn !== latest.current) return;
      setBuilt(null);
      setFailure(error as Error);
    }
  };
  const isBuilt = built !== null && (built.text === null || built.text === value);
  const typed = isEmpty ? null : read?.ok ? read.condition : undefined;

  return (
    <div className={css.conditionField}>
      <label className={forms.stacked}>
        <span>{label}</span>
        <Input.TextArea
          aria-label={label}
          className={clsx(layout.code)}
          autoSize={{ minRows: 1, maxRows: 6 }}
          spellCheck={false}
          value={value}
          status={isWrong ? 'error' : ''}
          aria-invalid={isWrong}
          aria-describedby={toldId}
          onChange={({ target }) => {
            latest.current++;
            setBuilt(null);
            onChange(target.value);
          }}
        />
      </label>
      <ConditionBuilder
        label={label}
        names={names}
        condition={isBuilt ? built.condition : typed}
        onChange={(condition) => void build(condition)}
      />
      {/* Below the choices: as it grows it would move them from under the pointer. */}
      <p
        id={toldId}
        className={read?.ok === false || isMissing ? layout.refused : layout.quiet}
        role="status"
      >
        {failure?.message ?? (isMissing ? `${label} is missing.` : said(isEmpty, isOptional, read))}
      </p>
    </div>
  );
}

type Read = Awaited<ReturnType<typeof client.readCondition>>;

function said(isEmpty: boolean, isOptional: boolean, read: Read | null): string {
  if (isEmpty) return isOptional ? 'None.' : 'Write a condition, or build one below.';
  if (read === null) return '';
  return read.ok
    ? `That is: ${read.words}.`
    : `Character ${read.offset + 1}: ${read.message} ${read.remedy}`;
}
