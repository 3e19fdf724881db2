import { useEffect, useId, useRef, useState, type ReactNode } from 'react';
import { Button, Input } from 'antd';
import { skipToken, useQuery } from '@tanstack/react-query';
import { useDebounce } from 'use-debounce';
import { useOutletContext, useSearchParams } from 'react-router';
import type { model } from '@kleidon/core';
import { client } from '../client.ts';
import { EffectView } from '../edit/effect-view.tsx';
import { PanelHead } from '../shell/panel-head.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import type { Choices } from './choices.ts';
import { EntryFields } from './entry-fields.tsx';
import { entryOf, isRecord, valueOf, type Entry } from './entry-value.ts';
import type { Section } from './sections.ts';
import { useAdding } from './use-adding.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import forms from '../style/forms.module.css';

interface Props {
  readonly section: Section;
  /** The name of the entry, or its place in a list; null for a new one. */
  readonly name: string | null;
  /** The entry as the site file has it. */
  readonly value: unknown;
  readonly choices: Choices;
  /** All entries of a list, for fixing another one besides. */
  readonly entries?: readonly unknown[];
  /** What is to be done about a new name, where renaming is not enough. */
  readonly renaming?: Renaming;
  /** What is told about the entry, above its form. */
  readonly above?: ReactNode;
  readonly children?: ReactNode;
  onClose(said: string): void;
}

/** How an entry gets another name. */
export interface Renaming {
  edits(from: string, to: string): readonly model.Edit[];
  readonly choices: ReactNode;
}

const PAUSE = 400;

/** The form of one entry, with what it would change in the grid beside it before it is kept. */
export function EntryPanel({
  section,
  name,
  value,
  choices,
  entries = [],
  renaming,
  above,
  children,
  onClose,
}: Props) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const [entry, setEntry] = useState<Entry>(() => entryOf(value, section.section));
  const [query] = useSearchParams();
  // A link may say what is to be declared.
  const [newName, setNewName] = useState(name ?? query.get('named') ?? '');
  const adding = useAdding();
  const [isTried, setIsTried] = useState(false);
  const unnamedId = useId();
  const form = useRef<HTMLFormElement>(null);
  const wanted = query.get('field');
  useEffect(() => {
    if (name === null) form.current?.querySelector<HTMLElement>('input, textarea')?.focus();
  }, [name]);
  useEffect(() => {
    if (wanted === null) return;
    const field = [...(form.current?.querySelectorAll<HTMLElement>('[data-field]') ?? [])].find(
      ({ dataset }) => dataset['field'] === wanted,
    );
    field?.querySelector<HTMLElement>('input, textarea, button, select')?.focus();
  }, [wanted]);
  const missing = missingIn(section, entry);
  const isUnnamed = section.is === 'map' && newName.trim() === '';
  const edits = editsFor(section, name, newName.trim(), value, entry, renaming);
  const [rested] = useDebounce(JSON.stringify(edits), PAUSE);
  // What lacks something is nothing to look at yet, and no mistake either.
  const isEmpty = name === null && Object.keys(entry).length === 0;
  const isWhole = missing.length === 0 && edits.length > 0 && !isEmpty;
  const effect = useQuery({
    queryKey: ['effect', site.id, pending.key, rested],
    queryFn:
      rested === '[]' || !isWhole
        ? skipToken
        : ({ signal }) =>
            client.effect(site.id, pending.state, JSON.parse(rested) as model.Edit[], signal),
  });
  const title = `${section.one.charAt(0).toUpperCase()}${section.one.slice(1)} ${name ?? ''}`;
  const what = name === null ? `New ${section.one}` : title;

  const close = (said: string) => (isAdded: boolean) => {
    if (isAdded) onClose(said);
  };

  /** Adds the change, unless it would make an error of the site file: then the form says which. */
  const submit = async (): Promise<void> => {
    setIsTried(true);
    if (isUnnamed || missing.length > 0) {
      // Once what is missing is marked, the first of it is where to go on.
      requestAnimationFrame(() =>
        form.current?.querySelector<HTMLElement>('[aria-invalid=true]')?.focus(),
      );
      return;
    }
    if (edits.length === 0) return;
    await adding.addIfValid(edits).then(close('The change is pending.'));
  };

  /** A finding whose fix sets one field of a list's entry: of this one in the form, of another as a change of its own. */
  const applyFix = (finding: model.Finding): (() => void) | null => {
    const [only, others] = finding.fix ?? [];
    const at = only?.op === 'replace' && others === undefined ? fieldAt(only.path) : null;
    if (at?.section !== section.section || only?.op !== 'replace') return null;
    const isThis = name === null ? at.position === entries.length : entries[at.position] === value;
    if (isThis) return () => setEntry({ ...entry, [at.field]: only.value });
    const other = entries[at.position];
    if (typeof other !== 'object' || other === null) return null;
    const changed = { ...other, [at.field]: only.value };
    const also = {
      do: 'put-item',
      section: section.section,
      was: other,
      value: changed,
    } as model.Edit;
    return () => void adding.add([...edits, also]).then(close('Both changes are pending.'));
  };

  return (
    <>
      <aside className={clsx(layout.panel, layout.wide)} aria-label={what}>
        <PanelHead
          title={what}
          close={edits.length > 0 ? 'Close without adding' : 'Close'}
          hasFocus={name !== null && wanted === null}
          onClose={() => onClose('')}
        />
        {above}
        <form
          ref={form}
          className={forms.entryForm}
          aria-label={`Fields of the ${section.one}`}
          noValidate
          onSubmit={(event) => {
            event.preventDefault();
            void submit();
          }}
        >
          {section.is === 'map' && (
            <label className={forms.stacked}>
              {section.section === 'pages' ? 'Address' : 'Name'}
              <Input
                className={layout.code}
                value={newName}
                status={isTried && isUnnamed ? 'error' : ''}
                aria-invalid={isTried && isUnnamed}
                aria-describedby={isTried && isUnnamed ? unnamedId : undefined}
                onChange={({ target }) => setNewName(target.value)}
              />
              {isTried && isUnnamed && (
                <span id={unnamedId} className={clsx(layout.refused, forms.below)}>
                  {section.section === 'pages' ? 'Address' : 'Name'} is missing.
                </span>
              )}
            </label>
          )}
          {name !== null && newName.trim() !== name && renaming?.choices}
          <EntryFields
            fields={section.fields}
            entry={entry}
            choices={choices}
            missing={isTried ? missing : []}
            onChange={setEntry}
          />
          {adding.told}
          <div className={forms.buttons}>
            <Button type="primary" htmlType="submit" disabled={name !== null && edits.length === 0}>
              Add to pending changes
            </Button>
            {name !== null && (
              <Button
                onClick={() =>
                  void adding
                    .add([removal(section, name, value)])
                    .then(close('The removal is pending.'))
                }
              >
                Remove {section.one}
              </Button>
            )}
          </div>
        </form>
        {children}
      </aside>
      {isWhole && (
        <aside className={layout.panel} aria-label="Effect on the grid" tabIndex={0}>
          <EffectView query={effect} applyFix={applyFix} />
        </aside>
      )}
    </>
  );
}

/** Returns the value for the site file. A role, for example, is a text or null, and never a map. */
function valueFor(section: Section, entry: Entry): unknown {
  const text = entry[''];
  if (section.fields[0]?.name === '') return text === '' ? null : (text ?? null);
  return valueOf(withChoices(section, entry));
}

/** The fields that an entry must have, and has not. */
function missingIn(section: Section, entry: Entry): string[] {
  const has = valueFor(section, entry);
  const isThere = (name: string): boolean =>
    name === '' ? has !== null : isRecord(has) && has[name] !== undefined;
  return section.fields
    .filter(({ isRequired, name }) => isRequired && !isThere(name))
    .map(({ name }) => name);
}

/** The field of an entry of a list that a JSON Pointer (RFC 6901) leads to. */
function fieldAt(path: string): { section: string; position: number; field: string } | null {
  const [, section = '', position = '', field = '', ...deeper] = path.split('/');
  return deeper.length === 0 && /^\d+$/.test(position) && field !== ''
    ? { section, position: Number(position), field }
    : null;
}

function editsFor(
  section: Section,
  name: string | null,
  newName: string,
  before: unknown,
  entry: Entry,
  renaming: Renaming | undefined,
): readonly model.Edit[] {
  const value = valueFor(section, entry);
  const isSame =
    JSON.stringify(value) === JSON.stringify(valueFor(section, entryOf(before, section.section)));
  if (section.is === 'list') {
    const was = name === null ? null : before;
    if (name !== null && isSame) return [];
    return [{ do: 'put-item', section: section.section as model.ListSection, was, value }];
  }
  const named = section.section as Exclude<model.NamedSection, 'site' | 'pages'>;
  if (newName === '') return [];
  const isRenamed = name !== null && name !== newName;
  const renames: readonly model.Edit[] = isRenamed
    ? (renaming?.edits(name, newName) ?? [{ do: 'rename', section: named, name, to: newName }])
    : [];
  if (name !== null && isSame) return renames;
  const was = name === null ? null : (before ?? null);
  // The value first: renaming may change it.
  return [{ do: 'put', section: named, name: name ?? newName, was, value }, ...renames];
}

/** A new entry says what it must say, also where the form was left as it was. */
function withChoices({ section, fields }: Section, entry: Entry): Entry {
  if (section !== 'landings') return entry;
  const [after] = fields;
  return after?.kind === 'choice' ? { [after.name]: after.choices[0], ...entry } : entry;
}

const removal = ({ is, section }: Section, name: string, value: unknown): model.Edit =>
  is === 'list'
    ? { do: 'put-item', section: section as model.ListSection, was: value, value: null }
    : { do: 'remove', section: section as model.NamedSection, name, was: value ?? null };
