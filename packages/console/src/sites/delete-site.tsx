import { useState } from 'react';
import { Button, Input } from 'antd';
import { useNavigate, useOutletContext } from 'react-router';
import { client } from '../client.ts';
import { Failure } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { DeletedSites } from './deleted-sites.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import forms from '../style/forms.module.css';

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
    <div className={layout.page}>
      <div className={layout.filters}>
        <h1>Deletion</h1>
      </div>
      <div className={clsx(layout.beside, layout.settings)}>
        <form
          className={clsx(forms.entryForm, forms.settings)}
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
          <label className={forms.stacked}>
            <span>
              Type <code>{site.id}</code> to delete it
            </span>
            <Input
              className={layout.code}
              autoComplete="off"
              value={typed}
              onChange={({ target }) => setTyped(target.value)}
            />
          </label>
          {failure && <Failure error={failure} />}
          <div className={forms.buttons}>
            <Button danger htmlType="submit" disabled={!isRight}>
              Delete this site
            </Button>
          </div>
        </form>
        <aside className={clsx(layout.panel, layout.wide)}>
          <DeletedSites none="Sites that were deleted are listed here, to be restored." />
        </aside>
      </div>
    </div>
  );
}
