import { clsx } from 'clsx';
import { useRef } from 'react';
import { Button, Table } from 'antd';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link, useOutletContext } from 'react-router';
import type { Lists } from '@kleidon/client';
import { client } from '../client.ts';
import { documentQuery } from '../changes/document-query.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { useAddressState } from '../use-address-state.ts';
import layout from '../style/layout.module.css';
import css from './redirects.module.css';

type Listed = Lists['lists'][number];

/** The lists of redirects beside the site file: CSV files of any length, put in and taken away as a whole. */
export function ListsPage() {
  const { site, pending, reload } = useOutletContext<SiteFrame>();
  const { query } = useAddressState();
  const input = useRef<HTMLInputElement>(null);
  const lists = useQuery({
    queryKey: ['lists', site.id, pending.key],
    queryFn: () => client.lists(site.id),
  });
  const document = useQuery(documentQuery(site.id, pending));
  const action = useMutation({
    mutationFn: (work: () => Promise<string>) => work(),
    onSuccess: async () => {
      await lists.refetch();
      reload();
    },
  });
  const act = (work: () => Promise<string>) => () => action.mutate(work);
  const error = lists.error ?? document.error;
  if (error) return <Failure error={error} retry={() => void lists.refetch()} site={site.id} />;
  if (!lists.data || !document.data) return <Waiting what="lists" />;
  const named = (document.data['redirect-lists'] ?? []) as readonly string[];

  const put = async (file: File): Promise<string> => {
    const { version } = await client.lists(site.id);
    const saved = await client.saveList(site.id, version, file.name, await file.text());
    const isNamed = named.includes(file.name);
    const waiting = isNamed
      ? null
      : await pending.add({
          do: 'put-item',
          section: 'redirect-lists',
          was: null,
          value: file.name,
        });
    const wrong = (waiting ?? saved).errors.filter((one) => one.file === file.name);
    const [first] = wrong;
    const wait = isNamed ? '' : '; naming it in the site file is a pending change';
    return first
      ? `${file.name} is there${wait}. It has ${wrong.length} error${wrong.length === 1 ? '' : 's'}; line ${first.line}: ${first.message} ${first.remedy}`
      : `${file.name} is there${wait}.`;
  };

  return (
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Lists of redirects</h1>
        <Button onClick={() => input.current?.click()}>Put in a list</Button>
        <input
          ref={input}
          type="file"
          accept=".csv,text/csv"
          aria-label="A CSV file of redirects"
          className={css.hiddenInput}
          onChange={({ target }) => {
            const [file] = target.files ?? [];
            target.value = '';
            if (file) action.mutate(() => put(file));
          }}
        />
        <span className={layout.quiet} role="status">
          {action.data ??
            'CSV files of redirects beside the site file, for thousands of them. One of the same name is replaced.'}
        </span>
      </div>
      {action.error && <Failure error={action.error} />}
      <TableFrame label="Lists of redirects">
        <Table<Listed>
          size="small"
          rowKey="name"
          dataSource={lists.data.lists}
          pagination={false}
          rowHoverable={false}
          rowClassName={({ name }) => clsx(name === query.get('name') && layout.here)}
          locale={{ emptyText: 'There is no list beside the site file.' }}
          columns={[
            {
              title: 'Name',
              key: 'name',
              render: (_, { name }) => (
                <Link to={`/sites/${site.id}/addresses/redirects?list=${encodeURIComponent(name)}`}>
                  {name}
                </Link>
              ),
            },
            {
              title: 'Characters',
              key: 'length',
              align: 'right',
              width: 120,
              render: (_, { length }) => length.toLocaleString(),
            },
            {
              title: 'Named in the site file',
              key: 'named',
              width: 190,
              render: (_, { name }) => (named.includes(name) ? 'yes' : 'no, so it is not read'),
            },
            {
              title: 'More',
              key: 'more',
              width: 330,
              render: (_, { name }) => (
                <span className={layout.buttons}>
                  <Button
                    size="small"
                    onClick={act(async () => {
                      download(name, await client.list(site.id, name));
                      return `${name} is downloaded.`;
                    })}
                  >
                    Download
                  </Button>
                  <Button
                    size="small"
                    disabled={named.includes(name)}
                    title={named.includes(name) ? 'The site file names it' : undefined}
                    onClick={act(async () => {
                      const { version } = await client.lists(site.id);
                      await client.removeList(site.id, version, name);
                      return `${name} is gone.`;
                    })}
                  >
                    Take away
                  </Button>
                  {named.includes(name) && (
                    <Button
                      size="small"
                      onClick={act(async () => {
                        await pending.add({
                          do: 'put-item',
                          section: 'redirect-lists',
                          was: name,
                          value: null,
                        });
                        return `That ${name} is not read any more is pending.`;
                      })}
                    >
                      Read it no more
                    </Button>
                  )}
                </span>
              ),
            },
          ]}
        />
      </TableFrame>
    </div>
  );
}

function download(name: string, text: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/csv' }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
