import { Button, Table } from 'antd';
import { useOutletContext } from 'react-router';
import type { GatewayInfo, SessionInfo } from '@kleidon/client';
import { client } from '../client.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { useAction } from '../use-action.ts';
import { useLoad } from '../use-load.ts';
import { Moment } from './moment.tsx';
import { usePolling } from './use-polling.ts';

/** Who is signed in at the gateway; each session can be ended. */
export function SessionsView({ gateway }: { gateway: GatewayInfo }) {
  const { site } = useOutletContext<SiteFrame>();
  const sessions = useLoad(site.id, () => client.sessions(site.id));
  usePolling(sessions.reload);
  const { said, failure, run } = useAction(sessions.reload);
  if (sessions.error && !sessions.value)
    return <Failure error={sessions.error} retry={sessions.reload} />;
  if (!sessions.value) return <Waiting what="sessions" />;
  const { all, sessions: rows } = sessions.value;
  return (
    <>
      <div className="filters">
        <span className="quiet" role="status">
          {said || (all === 1 ? '1 session.' : `${all} sessions.`)}
          {all > rows.length && ` The latest ${rows.length} are shown.`}
        </span>
      </div>
      {failure && <Failure error={failure} />}
      <div className="table-frame">
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
                <span className="buttons">
                  <Button
                    size="small"
                    aria-label={`End this session of ${title}`}
                    onClick={run(async () => {
                      await client.endSession(site.id, session);
                      return `The session of ${title} is ended.`;
                    })}
                  >
                    End
                  </Button>
                  <Button
                    size="small"
                    aria-label={`End all of ${title}`}
                    onClick={run(async () => {
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
      </div>
    </>
  );
}
