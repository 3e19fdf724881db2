import { Button, Table } from 'antd';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import type { GatewayInfo, SessionInfo } from '@kleidon/client';
import { client } from '../client.ts';
import { EVERY_TEN_SECONDS } from '../query-client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { TableFrame } from '../shell/table-frame.tsx';
import { Moment } from './moment.tsx';
import layout from '../style/layout.module.css';

/** Who is signed in at the gateway; each session can be ended. */
export function SessionsView({ gateway }: { gateway: GatewayInfo }) {
  const { site } = useOutletContext<SiteFrame>();
  const sessions = useQuery({
    queryKey: ['sessions', site.id],
    queryFn: () => client.sessions(site.id),
    refetchInterval: EVERY_TEN_SECONDS,
  });
  const action = useMutation({
    mutationFn: (work: () => Promise<string>) => work(),
    onSuccess: () => sessions.refetch(),
  });
  const act = (work: () => Promise<string>) => () => action.mutate(work);
  if (sessions.error && !sessions.data)
    return <Failure error={sessions.error} retry={() => void sessions.refetch()} />;
  if (!sessions.data) return <Waiting what="sessions" />;
  const { all, sessions: rows } = sessions.data;
  return (
    <>
      <div className={layout.filters}>
        <span className={layout.quiet} role="status">
          {action.data ?? (all === 1 ? '1 session.' : `${all} sessions.`)}
          {all > rows.length && ` The latest ${rows.length} are shown.`}
        </span>
      </div>
      {action.error && <Failure error={action.error} />}
      <TableFrame label="Sessions">
        <Table<SessionInfo>
          size="small"
          rowKey="session"
          dataSource={rows}
          sticky
          rowHoverable={false}
          pagination={rows.length > 100 ? { pageSize: 100, showSizeChanger: false } : false}
          locale={{
            emptyText:
              gateway.provider === null
                ? 'Nobody signs in at this gateway: its settings name no provider.'
                : 'Nobody is signed in.',
          }}
          columns={[
            { title: 'Visitor', key: 'title', width: 160, render: (_, { title }) => title },
            {
              title: 'Id',
              key: 'visitor',
              width: 160,
              render: (_, { visitor }) => <code>{visitor}</code>,
            },
            { title: 'With', key: 'summary', render: (_, { summary }) => summary },
            {
              title: 'Since',
              key: 'since',
              width: 150,
              render: (_, { since }) => <Moment at={since} />,
            },
            {
              title: 'Seen',
              key: 'seen',
              width: 150,
              render: (_, { seen }) => <Moment at={seen} />,
            },
            {
              title: 'Until',
              key: 'until',
              width: 150,
              render: (_, { until }) => <Moment at={until} />,
            },
            {
              title: 'More',
              key: 'more',
              width: 210,
              render: (_, { session, visitor, title }) => (
                <span className={layout.buttons}>
                  <Button
                    size="small"
                    aria-label={`End this session of ${title}`}
                    onClick={act(async () => {
                      await client.endSession(site.id, session);
                      return `The session of ${title} is ended.`;
                    })}
                  >
                    End
                  </Button>
                  <Button
                    size="small"
                    aria-label={`End all of ${title}`}
                    onClick={act(async () => {
                      const { ended } = await client.endSessionsOf(site.id, visitor);
                      return `${ended === 1 ? '1 session' : `${ended} sessions`} of ${title} ended.`;
                    })}
                  >
                    End all
                  </Button>
                </span>
              ),
            },
          ]}
        />
      </TableFrame>
    </>
  );
}
