import { clsx } from 'clsx';
import { useId, useState } from 'react';
import { Button, Checkbox } from 'antd';
import type { siteFiles } from '@kleidon/core';
import { ConditionField } from '../condition/condition-field.tsx';
import type { Choices } from './choices.ts';
import { asList, asText, isRecord, type Entry } from './entry-value.ts';
import css from './entry-fields.module.css';
import { FieldControl } from './field-control.tsx';
import layout from '../style/layout.module.css';
import forms from '../style/forms.module.css';

/** Computes the next value from the current one, because other fields may change while a condition is checked. */
export type Update<T> = (before: T) => T;

interface Props {
  readonly fields: readonly siteFiles.FieldDeclaration[];
  readonly entry: Entry;
  readonly choices: Choices;
  /** The fields of one of several rows: conditions are written as text there, and none is folded. */
  readonly isRow?: boolean;
  /** Fields that must be filled in and are not, to be told once someone tried to go on. */
  readonly missing?: readonly string[];
  onChange(update: Update<Entry>): void;
}

/** The fields of an entry; those that few entries have are folded where none of them is set. */
export function EntryFields(props: Props) {
  const { fields, entry, choices, isRow = false, missing = [], onChange } = props;
  const seldom = isRow ? [] : fields.filter(({ isSeldom }) => isSeldom);
  const [isOpen, setIsOpen] = useState(() => seldom.some(({ name }) => entry[name] !== undefined));
  const shown = (field: siteFiles.FieldDeclaration) => (
    <div key={field.name} className={css.field} data-field={field.name}>
      <EntryField
        field={field}
        entry={entry}
        choices={choices}
        isRow={isRow}
        isMissing={missing.includes(field.name)}
        onChange={(update) =>
          onChange((before) => ({ ...before, [field.name]: update(before[field.name]) }))
        }
      />
    </div>
  );
  return (
    <>
      {fields.filter((field) => !seldom.includes(field)).map(shown)}
      {seldom.length > 0 && (
        <details open={isOpen} onToggle={({ currentTarget }) => setIsOpen(currentTarget.open)}>
          <summary>
            More fields{' '}
            <span className={layout.quiet}>{seldom.map(({ title }) => title).join(', ')}</span>
          </summary>
          <div className={css.more}>{seldom.map(shown)}</div>
        </details>
      )}
    </>
  );
}

function EntryField({
  field,
  entry,
  choices,
  isRow,
  isMissing,
  onChange,
}: {
  field: siteFiles.FieldDeclaration;
  entry: Entry;
  choices: Choices;
  isRow: boolean;
  isMissing: boolean;
  onChange(update: Update<unknown>): void;
}) {
  const errorId = useId();
  const value = entry[field.name];
  const set = (next: unknown): void => onChange(() => next);
  const { title, help } = field;
  const checked = checkedValue(field);
  if (checked !== null)
    return (
      <Checkbox
        checked={isChecked(value, checked)}
        onChange={({ target }) => set(target.checked ? checked : undefined)}
      >
        {title}
      </Checkbox>
    );
  if (field.kind === 'condition' && !isRow)
    return (
      <ConditionField
        site={choices.site}
        state={choices.state}
        label={title}
        value={asText(value)}
        names={choices.names}
        addresses={[...asList(entry['under']), ...asList(entry['at'])]}
        isOptional={!field.isRequired}
        isMissing={isMissing}
        onChange={set}
      />
    );
  if (field.kind === 'rows')
    return (
      <Rows
        field={field}
        rows={rowsOf(value)}
        choices={choices}
        onChange={(update) => onChange((before) => update(rowsOf(before)))}
      />
    );
  if (field.kind === 'fields')
    return (
      <fieldset className={forms.rows}>
        <legend>{title}</legend>
        <div className={forms.rowFields}>
          <EntryFields
            fields={field.fields}
            entry={isRecord(value) ? value : {}}
            choices={choices}
            onChange={(update) =>
              onChange((before) => withoutEmpty(update(isRecord(before) ? before : {})))
            }
          />
        </div>
      </fieldset>
    );
  return (
    <label className={forms.stacked}>
      <span>
        {title} {help !== null && <span className={layout.quiet}>({help})</span>}
      </span>
      <FieldControl
        field={field}
        value={value}
        choices={choices}
        errorId={isMissing ? errorId : undefined}
        onChange={set}
      />
      {isMissing && (
        <span id={errorId} className={clsx(layout.refused, forms.below)}>
          {title} is missing.
        </span>
      )}
    </label>
  );
}

/** The value that a checked box writes; null where the field is no box. */
function checkedValue({ kind, usual, choices }: siteFiles.FieldDeclaration): string | null {
  if (kind === 'flag') return usual === 'yes' ? 'no' : 'yes';
  const [only, ...others] = choices;
  return typeof only === 'string' && others.length === 0 ? only : null;
}

const isChecked = (value: unknown, checked: string): boolean =>
  value === checked ||
  (value === true && checked === 'yes') ||
  (value === false && checked === 'no');

function Rows({
  field,
  rows,
  choices,
  onChange,
}: {
  field: siteFiles.FieldDeclaration;
  rows: readonly Entry[];
  choices: Choices;
  onChange(update: Update<readonly Entry[]>): void;
}) {
  const first = Object.fromEntries(
    field.fields.flatMap(({ name, kind, usual, choices: [first] }) =>
      kind === 'choice' ? [[name, usual ?? first]] : [],
    ),
  );
  const swap =
    (position: number): Update<readonly Entry[]> =>
    (before) =>
      before.with(position - 1, before[position]!).with(position, before[position - 1]!);
  return (
    <fieldset className={forms.rows}>
      <legend>{field.title}</legend>
      {rows.map((row, position) => (
        <div
          key={position}
          className={forms.rowFields}
          role="group"
          aria-label={`${field.one!} ${position + 1}`}
        >
          <EntryFields
            fields={field.fields.filter((one) => isOf(row, one.name))}
            entry={row}
            choices={choices}
            isRow
            onChange={(update) =>
              onChange((before) =>
                position < before.length
                  ? before.with(position, withoutEmpty(update(before[position]!)))
                  : before,
              )
            }
          />
          <div className={forms.rowButtons}>
            {position > 0 && (
              <Button size="small" onClick={() => onChange(swap(position))}>
                Up
              </Button>
            )}
            <Button
              size="small"
              onClick={() => onChange((before) => before.filter((_, i) => i !== position))}
            >
              Remove
            </Button>
          </div>
        </div>
      ))}
      <Button size="small" onClick={() => onChange((before) => [...before, first])}>
        Add {field.one}
      </Button>
    </fieldset>
  );
}

/** Of an entry for everyone else, only the fields of what happens are shown. */
function isOf(row: Entry, name: string): boolean {
  if (row[name] !== undefined || !['say', 'show', 'to'].includes(name)) return true;
  return name === 'to' ? row['do'] === 'send' : row['do'] === 'refuse';
}

const rowsOf = (value: unknown): readonly Entry[] =>
  Array.isArray(value) ? (value as Entry[]) : [];

const withoutEmpty = (entry: Entry): Entry =>
  Object.fromEntries(Object.entries(entry).filter(([, value]) => value !== undefined));
