import { useState } from 'react';
import { Button, Input } from 'antd';
import { Link, useOutletContext } from 'react-router';
import { useAdding } from '../entries/use-adding.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import layout from '../style/layout.module.css';

/** Makes whoever was made up here a visitor of the site file, and so a column of the grid. */
export function KeepVisitor({
  value,
  known,
}: {
  value: Readonly<Record<string, unknown>>;
  known: readonly string[];
}) {
  const { site } = useOutletContext<SiteFrame>();
  const [name, setName] = useState('');
  const [kept, setKept] = useState('');
  const adding = useAdding();
  const wanted = name.trim();
  const isTaken = known.includes(wanted) && wanted !== kept;
  const keep = async (): Promise<void> => {
    if (
      await adding.addIfValid([{ do: 'put', section: 'visitors', name: wanted, was: null, value }])
    )
      setKept(wanted);
  };
  return (
    <>
      <label>
        Name, to keep them as a visitor
        <Input
          value={name}
          status={isTaken ? 'error' : ''}
          onChange={({ target }) => setName(target.value)}
        />
      </label>
      <Button disabled={wanted === '' || isTaken || wanted === kept} onClick={() => void keep()}>
        Add to pending changes
      </Button>
      <span role="status">
        {isTaken && <span className={layout.refused}>There is a visitor {wanted}.</span>}
        {kept !== '' && (
          <>
            {kept} is pending, and{' '}
            <Link to={`/sites/${site.id}/reach?${new URLSearchParams({ only: kept }).toString()}`}>
              a column of the grid
            </Link>
            .
          </>
        )}
      </span>
      {adding.told}
    </>
  );
}
