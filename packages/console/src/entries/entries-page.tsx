import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { useState } from 'react';
import { Button, Table } from 'antd';
import { useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import { documentQuery } from '../changes/document-query.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { TypedInput } from '../shell/typed-input.tsx';
import { useAddressState } from '../use-address-state.ts';
import { choicesOf, type Choices } from './choices.ts';
import { EntryPanel } from './entry-panel.tsx';
import { entryOf, inShort, isRecord, type Entry } from './entry-value.ts';
import type { siteFiles } from '@kleidon/core';
import type { Section } from './sections.ts';
import layout from '../style/layout.module.css';

interface Props {
  readonly section: Section;
  /** What an entry does, told in the list in place of its fields. */
  readonly sentence?: ((name: string) => ReactNode) | undefined;
  /** More about the entry that is open. */
  readonly beneath?: (name: string, choices: Choices, value: unknown) => ReactNode;
}

interface Listed {
  readonly name: string;
  readonly value: unknown;
  readonly entry: Entry;
}

/** A list of the entries of a part of the site file, each with its form, and with pending changes already in it. */
export function EntriesPage({ section, sentence, beneath }: Props) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const [said, setSaid] = useState('');
  const document = useQuery(documentQuery(site.id, pending));
  if (document.error)
    return <Failure error={document.error} retry={() => void document.refetch()} site={site.id} />;
  if (!document.data) return <Waiting what={section.title.toLowerCase()} />;

  const choices = choicesOf(site.id, pending.state, document.data);
  const entries = entriesOf(document.data[section.section], section);
  const text = query.get('text') ?? '';
  const shown = entries.filter(({ name, value }) =>
    `${section.is === 'map' ? name : ''} ${inShort(value)}`
      .toLowerCase()
      .includes(text.toLowerCase()),
  );
  const isNew = query.get('new') === 'yes';
  const open = isNew ? null : entries.find(({ name }) => name === query.get('name'));
  const close = (news: string): void => {
    setSaid(news);
    change({ name: null, new: null, field: null });
  };

  return (
    <div className={layout.page}>
      <div
        className={layout.filters}
        role="search"
        aria-label={`Search in ${section.title.toLowerCase()}`}
      >
        <h1>{section.title}</h1>
        <TypedInput
          aria-label={`Search ${section.title.toLowerCase()}`}
          placeholder="Search"
          allowClear
          value={text}
          onType={(text) => change({ text }, { replace: true })}
        />
        <Button onClick={() => change({ new: 'yes', name: null })}>New {section.one}</Button>
        <span className={layout.quiet} role="status">
          {said || `${shown.length} of ${entries.length}. ${section.about}`}
        </span>
      </div>
      <div className={layout.beside}>
        <TableFrame label={section.title}>
          <Table<Listed>
            size="small"
            rowKey="name"
            dataSource={shown}
            pagination={shown.length > 200 ? { pageSize: 100, showSizeChanger: false } : false}
            sticky
            rowHoverable={false}
            rowClassName={({ name }) => clsx(name === open?.name && layout.here)}
            locale={{
              emptyText:
                entries.length === 0
                  ? `The site file has no ${section.one} yet.`
                  : `No ${section.one} fits this search.`,
            }}
            columns={[
              {
                title: section.is === 'map' ? 'Name' : 'No.',
                key: 'name',
                width: section.is === 'map' ? 150 : 50,
                render: (_, { name }) => (
                  <Button
                    type="link"
                    size="small"
                    className={clsx(layout.name)}
                    aria-label={`Open ${section.one} ${name}`}
                    onClick={() => change({ name, new: null, field: null })}
                  >
                    {name}
                  </Button>
                ),
              },
              ...(sentence
                ? [
                    {
                      title: 'What it does',
                      key: 'sentence',
                      render: (_: unknown, { name }: Listed) => sentence(name),
                    },
                  ]
                : []),
              ...(sentence
                ? []
                : isNew || open
                  ? (section.brief ?? section.columns.slice(0, 2))
                  : section.columns
              ).map((column) => {
                const field = section.fields.find((one) => one.name === column)!;
                return {
                  title: headOf(field),
                  key: column || 'value',
                  render: (_: unknown, { entry }: Listed) => (
                    <Shown field={field} value={entry[column]} />
                  ),
                };
              }),
            ]}
          />
        </TableFrame>
        {(isNew || open) && (
          <EntryPanel
            key={`${section.section} ${open?.name ?? ''} ${JSON.stringify(open?.value ?? null)}`}
            section={section}
            name={open?.name ?? null}
            value={open?.value ?? {}}
            choices={choices}
            onClose={close}
          >
            {open && beneath?.(open.name, choices, open.value)}
          </EntryPanel>
        )}
      </div>
    </div>
  );
}

/** The short head of a column: the label without what explains it. */
const headOf = ({ title }: siteFiles.FieldDeclaration): string =>
  title.replace(/[,(].*$/, '').trim();

const AS_CODE: readonly string[] = ['condition', 'address', 'scope', 'pattern', 'host'];

function Shown({ field, value }: { field: siteFiles.FieldDeclaration; value: unknown }) {
  const text = inShort(value);
  return AS_CODE.includes(field.kind) ? <code>{text}</code> : <>{text}</>;
}

function entriesOf(value: unknown, { is, section }: Section): Listed[] {
  const entries: [string, unknown][] =
    is === 'list'
      ? (Array.isArray(value) ? value : []).map((item, i) => [String(i + 1), item])
      : isRecord(value)
        ? Object.entries(value)
        : [];
  return entries.map(([name, one]) => ({ name, value: one, entry: entryOf(one, section) }));
}
