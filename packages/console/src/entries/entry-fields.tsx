import { Button, Checkbox, Input, InputNumber, Select, AutoComplete } from 'antd';
import { ConditionField } from '../condition/condition-field.tsx';
import type { KnownNames } from '../condition/condition-builder.tsx';
import { asList, asText, fromList, isRecord, type Entry } from './entry-value.ts';
import type { Field } from './sections.ts';

/** What the fields of a form may choose from. */
export interface Choices {
  readonly site: string;
  readonly state: string;
  readonly pages: readonly string[];
  readonly roles: readonly string[];
  readonly groups: readonly string[];
  readonly products: readonly string[];
  readonly names: KnownNames;
}

/** What a form may choose from, in a site file as plain values. */
export function choicesOf(site: string, state: string, document: Entry): Choices {
  const keys = (section: string): string[] => {
    const entries = document[section];
    return isRecord(entries) ? Object.keys(entries) : [];
  };
  const [roles, groups, products] = [keys('roles'), keys('groups'), keys('products')];
  return {
    site,
    state,
    pages: keys('pages'),
    roles,
    groups,
    products,
    names: {
      role: roles,
      group: groups,
      product: products,
      audience: keys('audiences'),
      person: keys('visitors'),
    },
  };
}

/** Computes the next value from the current one, because other fields may change while a condition is checked. */
export type Update<T> = (before: T) => T;

interface Props {
  readonly fields: readonly Field[];
  readonly entry: Entry;
  readonly choices: Choices;
  onChange(update: Update<Entry>): void;
}

/** The fields of an entry. */
export function EntryFields({ fields, entry, choices, onChange }: Props) {
  return (
    <>
      {fields.map((field) => (
        <EntryField
          key={field.name}
          field={field}
          entry={entry}
          choices={choices}
          onChange={(update) =>
            onChange((before) => ({ ...before, [field.name]: update(before[field.name]) }))
          }
        />
      ))}
    </>
  );
}

function EntryField({
  field,
  entry,
  choices,
  onChange,
}: {
  field: Field;
  entry: Entry;
  choices: Choices;
  onChange(update: Update<unknown>): void;
}) {
  const value = entry[field.name];
  const set = (next: unknown): void => onChange(() => next);
  const { label, help } = field;
  switch (field.is) {
    case 'check':
      return (
        <Checkbox
          checked={isChecked(value, field.value)}
          onChange={({ target }) => set(target.checked ? field.value : undefined)}
        >
          {label}
        </Checkbox>
      );
    case 'condition':
      return (
        <ConditionField
          site={choices.site}
          state={choices.state}
          label={label}
          value={asText(value)}
          names={choices.names}
          addresses={[...asList(entry['under']), ...asList(entry['at'])]}
          isOptional={field.name !== 'admit' && field.name !== ''}
          onChange={set}
        />
      );
    case 'rows':
      return (
        <Rows
          field={field}
          rows={rowsOf(value)}
          choices={choices}
          onChange={(update) => onChange((before) => update(rowsOf(before)))}
        />
      );
    case 'fields':
      return (
        <fieldset className="rows">
          <legend>{label}</legend>
          <div className="row-fields">
            <EntryFields
              fields={field.of}
              entry={isRecord(value) ? value : {}}
              choices={choices}
              onChange={(update) =>
                onChange((before) => withoutEmpty(update(isRecord(before) ? before : {})))
              }
            />
          </div>
        </fieldset>
      );
    default:
      return (
        <label className="stacked">
          <span>
            {label} {help && <span className="quiet">({help})</span>}
          </span>
          <Control field={field} value={value} choices={choices} onChange={set} />
        </label>
      );
  }
}

type Simple = Exclude<Field, { is: 'check' | 'condition' | 'rows' | 'fields' }>;

function Control({
  field,
  value,
  choices,
  onChange,
}: {
  field: Simple;
  value: unknown;
  choices: Choices;
  onChange(value: unknown): void;
}) {
  const named = { 'aria-label': field.label };
  switch (field.is) {
    case 'number':
      return (
        <InputNumber
          {...named}
          value={typeof value === 'number' ? value : null}
          precision={0}
          onChange={(next) => onChange(next ?? undefined)}
        />
      );
    case 'choice':
      return (
        <Select
          {...named}
          value={asText(value) || (field.of[0] ?? null)}
          onChange={(next: string) => onChange(next)}
          options={field.of.map((one) => ({ value: one, label: one }))}
        />
      );
    case 'addresses':
      return (
        <Select
          {...named}
          mode="tags"
          value={[...asList(value)]}
          tokenSeparators={[' ', ',']}
          onChange={(next: string[]) => onChange(fromList(next))}
          options={choices.pages.map((one) => ({ value: one, label: one }))}
        />
      );
    case 'words':
      return (
        <Select
          {...named}
          mode="tags"
          open={false}
          suffix={null}
          value={[...asList(value)]}
          tokenSeparators={[' ', ',']}
          onChange={(next: string[]) => onChange(next.length > 0 ? next : undefined)}
        />
      );
    case 'names':
      return (
        <Select
          {...named}
          mode="multiple"
          value={[...asList(value)]}
          onChange={(next: string[]) => onChange(next)}
          options={choices[field.of].map((one) => ({ value: one, label: one }))}
        />
      );
    case 'name':
      return (
        <Select
          {...named}
          value={asText(value) || null}
          onChange={(next: string) => onChange(next)}
          options={choices[field.of].map((one) => ({ value: one, label: one }))}
        />
      );
    case 'address':
      return (
        <AutoComplete
          {...named}
          value={asText(value)}
          showSearch={{ filterOption: (typed, option) => option!.value.includes(typed) }}
          onChange={(next: string) => onChange(next || undefined)}
          options={choices.pages.map((one) => ({ value: one }))}
        />
      );
    case 'attributes':
      return (
        <Input.TextArea
          {...named}
          className="code"
          autoSize={{ minRows: 1, maxRows: 8 }}
          defaultValue={linesOf(value)}
          onChange={({ target }) => onChange(attributesFrom(target.value))}
        />
      );
    default:
      return (
        <Input
          {...named}
          placeholder={field.is === 'date' ? '2027-03-01' : undefined}
          value={asText(value)}
          onChange={({ target }) => onChange(target.value || undefined)}
        />
      );
  }
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
  field: Extract<Field, { is: 'rows' }>;
  rows: readonly Entry[];
  choices: Choices;
  onChange(update: Update<readonly Entry[]>): void;
}) {
  const first = Object.fromEntries(
    field.of.flatMap((one) => (one.is === 'choice' ? [[one.name, one.of[0]]] : [])),
  );
  const swap =
    (position: number): Update<readonly Entry[]> =>
    (before) =>
      before.with(position - 1, before[position]!).with(position, before[position - 1]!);
  return (
    <fieldset className="rows">
      <legend>{field.label}</legend>
      {rows.map((row, position) => (
        <div
          key={position}
          className="row-fields"
          role="group"
          aria-label={`${field.one} ${position + 1}`}
        >
          <EntryFields
            fields={field.of.filter((one) => isOf(row, one.name))}
            entry={row}
            choices={choices}
            onChange={(update) =>
              onChange((before) =>
                position < before.length
                  ? before.with(position, withoutEmpty(update(before[position]!)))
                  : before,
              )
            }
          />
          <div className="row-buttons">
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

/** Of what becomes of others, only what goes with the choice is shown. */
function isOf(row: Entry, name: string): boolean {
  if (row[name] !== undefined || !['say', 'show', 'to'].includes(name)) return true;
  return name === 'to' ? row['do'] === 'send' : row['do'] === 'refuse';
}

const rowsOf = (value: unknown): readonly Entry[] =>
  Array.isArray(value) ? (value as Entry[]) : [];

const withoutEmpty = (entry: Entry): Entry =>
  Object.fromEntries(Object.entries(entry).filter(([, value]) => value !== undefined));

function linesOf(value: unknown): string {
  if (!isRecord(value)) return '';
  return Object.entries(value)
    .map(([name, one]) => `${name}: ${Array.isArray(one) ? one.join(', ') : String(one)}`)
    .join('\n');
}

/** Each line is a name and a value; several with commas between are a list. */
function attributesFrom(text: string): Entry | undefined {
  const lines = text.split('\n').flatMap((line): [string, unknown][] => {
    const [name = '', ...rest] = line.split(':');
    const value = rest.join(':').trim();
    return name.trim() === '' || value === '' ? [] : [[name.trim(), attributeFrom(value)]];
  });
  return lines.length === 0 ? undefined : Object.fromEntries(lines);
}

function attributeFrom(text: string): unknown {
  if (text.includes(',')) return text.split(',').map((one) => one.trim());
  return /^-?\d+(\.\d+)?$/.test(text) ? Number(text) : text;
}
