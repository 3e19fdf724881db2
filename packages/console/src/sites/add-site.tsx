import { useState } from 'react';
import { Button, Input } from 'antd';
import { useNavigate } from 'react-router';
import { client } from '../client.ts';
import { Failure } from '../shell/notices.tsx';
import { DeletedSites } from './deleted-sites.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';

const EXAMPLE = `kleidon: 1
site: { name: My site, address: https://www.example, sign-in: /sign-in }
roles: { member: People who joined }
pages:
  /: Home
  /sign-in: Sign in
  /members: Members' room
gates:
  members: { under: /members, admit: role member }
visitors:
  gale: { guest: yes }
  mia: { roles: [member] }
`;

/** Adds the first site from a site file that is typed or pasted. */
export function AddSite() {
  const [text, setText] = useState(EXAMPLE);
  const [error, setError] = useState<Error | null>(null);
  const navigate = useNavigate();
  const add = (): void => {
    client.addSite(text).then(
      ({ id }) => navigate(`/sites/${id}`),
      (reason: unknown) => setError(reason as Error),
    );
  };
  return (
    <main className={clsx(layout.page, layout.narrow)}>
      <h1>Add a site</h1>
      <p>
        There is no site yet. Paste a site file, or begin with this one; it can be changed later.
        From a terminal, <code>kleidon sites add FILE</code> does the same.
      </p>
      <Input.TextArea
        aria-label="Site file"
        className={clsx(layout.code)}
        value={text}
        onChange={({ target }) => setText(target.value)}
        autoSize={{ minRows: 16, maxRows: 30 }}
        spellCheck={false}
      />
      {error && <Failure error={error} />}
      <p>
        <Button type="primary" onClick={add}>
          Add the site
        </Button>
      </p>
      <DeletedSites />
    </main>
  );
}
