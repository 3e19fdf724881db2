import type { ReactNode } from 'react';
import { useState } from 'react';
import { Button, Input, Table } from 'antd';
import { useOutletContext } from 'react-router';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { useAddressState } from '../use-address-state.ts';
import { useLoad } from '../use-load.ts';
import { choicesOf, type Choices } from './choices.ts';
import { EntryPanel } from './entry-panel.tsx';
import { entryOf, inShort, isRecord, type Entry } from './entry-value.ts';
import { SectionTabs } from './section-tabs.tsx';
import type { siteFiles } from '@kleidon/core';
import type { Section } from './sections.ts';

interface Props {
  readonly title: string;
  readonly section: Section;
  /** The sections that share this page, and where each is. */
  readonly tabs?: readonly (readonly [address: string, title: string])[];
  /** More about the entry that is open. */
  readonly beneath?: (name: string, choices: Choices, value: unknown) => ReactNode;
}

interface Listed {
  readonly name: string;
  readonly value: unknown;
  readonly entry: Entry;
}

/** A list of the entries of a part of the site file, each with its form, and with pending changes already in it. */
export function EntriesPage({ title, section, tabs, beneath }: Props) {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const [said, setSaid] = useState('');
  const document = useLoad(pending.changes ? pending.key : null, () =>
    client.document(site.id, pending.state),
  );
  if (document.error) return <Failure error={document.error} retry={document.reload} />;
  if (!document.value) return <Waiting what={section.title.toLowerCase()} />;

  const choices = choicesOf(site.id, pending.state, document.value);
  const entries = entriesOf(document.value[section.section], section);
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
    change({ name: null, new: null });
  };

  return (
    <div className="page">
      <div className="filters" role="search" aria-label={`Search in ${title.toLowerCase()}`}>
        <h1>{title}</h1>
        {tabs && <SectionTabs label={title} tabs={tabs} />}
        <Input
          aria-label={`Search ${section.title.toLowerCase()}`}
          placeholder="Search"
          allowClear
          value={text}
          onChange={({ target }) => change({ text: target.value }, { replace: true })}
        />
        <Button onClick={() => change({ new: 'yes', name: null })}>New {section.one}</Button>
        <span className="quiet" role="status">
          {said || `${shown.length} of ${entries.length}. ${section.about}`}
        </span>
      </div>
      <div className="beside">
        <div className="table-frame">
          <Table<Listed>
            size="small"
            rowKey="name"
            dataSource={shown}
            pagination={shown.length > 200 ? { pageSize: 100, showSizeChanger: false } : false}
            sticky
            rowHoverable={false}
            rowClassName={({ name }) => (name === open?.name ? 'here' : '')}
            locale={{
              emptyText:
                entries.length === 0
                  ? `The site file has no ${section.title.toLowerCase()} yet.`
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
                    className="name"
                    aria-label={`Open ${section.one} ${name}`}
                    onClick={() => change({ name, new: null })}
                  >
                    {name}
                  </Button>
                ),
              },
              ...(isNew || open
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
        </div>
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
