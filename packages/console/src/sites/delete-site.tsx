import { useState } from 'react';
import { Button, Input } from 'antd';
import { useNavigate, useOutletContext } from 'react-router';
import { client } from '../client.ts';
import { Failure } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { DeletedSites } from './deleted-sites.tsx';

/** Deletes the site, whose name must be typed; and takes back those that were deleted. */
export function DeleteSite() {
  const { site } = useOutletContext<SiteFrame>();
  const [typed, setTyped] = useState('');
  const [failure, setFailure] = useState<Error | null>(null);
  const navigate = useNavigate();
  const isRight = typed.trim() === site.id;
  const remove = (): void => {
    client.deleteSite(site.id, typed.trim()).then(
      () => navigate('/'),
      (error: unknown) => setFailure(error as Error),
    );
  };
  return (
    <div className="page">
      <div className="filters">
        <h1>Deletion</h1>
      </div>
      <div className="beside settings">
        <form
          className="entry-form"
          aria-label="Delete the site"
          onSubmit={(event) => {
            event.preventDefault();
            if (isRight) remove();
          }}
        >
          <p>
            Its draft, its releases and all that was noted of it go. For 30 days it can be restored;
            a gateway before its website answers every request with 503 meanwhile.
          </p>
          <label className="stacked">
            <span>
              Type <code>{site.id}</code> to delete it
            </span>
            <Input
              className="code"
              autoComplete="off"
              value={typed}
              onChange={({ target }) => setTyped(target.value)}
            />
          </label>
          {failure && <Failure error={failure} />}
          <div className="buttons">
            <Button danger htmlType="submit" disabled={!isRight}>
              Delete this site
            </Button>
          </div>
        </form>
        <aside className="panel wide">
          <DeletedSites none="Sites that were deleted are listed here, to be restored." />
        </aside>
      </div>
    </div>
  );
}
