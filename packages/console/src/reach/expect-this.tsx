import { useState } from 'react';
import { Button } from 'antd';
import { Link, useOutletContext } from 'react-router';
import type { VisitRequest } from '@kleidon/client';
import type { queries } from '@kleidon/core';
import { useAdding } from '../entries/use-adding.tsx';
import type { SiteFrame } from '../shell/shell.tsx';

/** Makes the visit one that must always end as it does now. */
export function ExpectThis({
  visit,
  request,
}: {
  visit: queries.ExplainedVisit;
  request: VisitRequest;
}) {
  const { site } = useOutletContext<SiteFrame>();
  const adding = useAdding();
  const [isAdded, setIsAdded] = useState(false);
  const { address, as, visitor, method, at } = request;
  const { title: _, ...declared } = visitor ?? {};
  const value = {
    address,
    ...(as === undefined ? {} : { as }),
    ...(visitor === undefined || visitor['guest'] === true ? {} : { visitor: declared }),
    outcome: visit.outcome,
    final: visit.final,
    ...(method === 'GET' ? {} : { method }),
    ...(at ? { at } : {}),
  };
  const add = async (): Promise<void> =>
    setIsAdded(await adding.addIfValid([{ do: 'put-item', section: 'visits', was: null, value }]));
  return (
    <p>
      <Button disabled={isAdded} onClick={() => void add()}>
        Expect this outcome
      </Button>{' '}
      <span role="status">
        {isAdded && (
          <>
            It is pending among the{' '}
            <Link to={`/sites/${site.id}/reach/expected`}>expected visits</Link>.
          </>
        )}
      </span>
      {adding.told}
    </p>
  );
}
