import { Button, Radio, Select } from 'antd';
import { skipToken, useQuery } from '@tanstack/react-query';
import { useOutletContext } from 'react-router';
import type { Names, VisitRequest } from '@kleidon/client';
import { client } from '../client.ts';
import { namesQuery } from '../changes/names-query.ts';
import { Failure, Waiting } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import { StateChoice } from '../shell/state-choice.tsx';
import { MomentField } from '../shell/moment-field.tsx';
import { TypedInput } from '../shell/typed-input.tsx';
import { useAddressState } from '../use-address-state.ts';
import { ruleAddress } from '../visit/visit-panel.tsx';
import { VisitView } from '../visit/visit-view.tsx';
import { clsx } from 'clsx';
import layout from '../style/layout.module.css';
import { ExpectThis } from './expect-this.tsx';
import { KeepVisitor } from './keep-visitor.tsx';
import { madeUp, madeUpEntry } from './made-up.ts';
import { visitAddress } from '../visit/visit-address.ts';
import css from './try-page.module.css';

const SOMEONE = 'someone';

/** Any address, as any visitor of the site file or one made up on the spot, at any time. */
export function TryPage() {
  const { site, pending } = useOutletContext<SiteFrame>();
  const { query, change } = useAddressState();
  const state = query.get('state') ?? pending.state;
  const names = useQuery(namesQuery(site.id, pending, state));
  const request = names.data ? requestFrom(query, names.data, state) : null;
  const visit = useQuery({
    queryKey: ['visit', site.id, pending.key, request],
    queryFn: request ? ({ signal }) => client.visit(site.id, request, signal) : skipToken,
  });

  if (names.error)
    return <Failure error={names.error} retry={() => void names.refetch()} site={site.id} />;
  if (!names.data) return <Waiting what="the visitors" />;
  const { visitors, roles, groups, products } = names.data;
  const as = query.get('as') ?? visitors[0]?.name ?? SOMEONE;

  return (
    <div className={clsx(layout.page, css.tryPage)}>
      <form
        className={css.tryForm}
        aria-label="Who asks for what"
        onSubmit={(event) => event.preventDefault()}
      >
        <h1>Try an address</h1>
        <label>
          Address
          <TypedInput
            className={layout.code}
            autoFocus
            value={query.get('address') ?? '/'}
            onType={(address) => change({ address }, { replace: true })}
            spellCheck={false}
          />
        </label>
        <label>
          As
          <Select
            aria-label="As"
            showSearch={{ optionFilterProp: 'label' }}
            value={as}
            onChange={(next: string) => change({ as: next })}
            options={[
              ...visitors.map(({ name, title, summary }) => ({
                value: name,
                label: `${title} (${summary})`,
              })),
              { value: SOMEONE, label: 'Someone made up here' },
            ]}
          />
        </label>
        {as === SOMEONE && query.get('visitor') !== null && (
          <p>
            <code>{query.get('visitor')}</code>{' '}
            <Button size="small" onClick={() => change({ visitor: null })}>
              Make up someone else
            </Button>
          </p>
        )}
        {as === SOMEONE && query.get('visitor') === null && (
          <fieldset>
            <legend>Who they are</legend>
            <Radio.Group
              aria-label="Signed in or not"
              value={query.get('guest') === 'yes' ? 'guest' : 'signed-in'}
              onChange={({ target }) =>
                change({
                  guest: target.value === 'guest' ? 'yes' : null,
                  role: null,
                  group: null,
                  bought: null,
                })
              }
              options={[
                { value: 'signed-in', label: 'Signed in' },
                { value: 'guest', label: 'A guest' },
              ]}
            />
            {query.get('guest') !== 'yes' && (
              <>
                <Traits title="Roles" name="role" known={roles} />
                <Traits title="Groups" name="group" known={groups} />
                <Traits title="Bought, and in force" name="bought" known={products} />
              </>
            )}
            <KeepVisitor value={madeUpEntry(query)} known={visitors.map(({ name }) => name)} />
          </fieldset>
        )}
        <MomentField
          value={query.get('at') ?? ''}
          onChange={(next) => change({ at: next }, { replace: true })}
        />
        <label>
          Method
          <Select
            aria-label="Method"
            value={query.get('method') ?? 'GET'}
            onChange={(next: string) => change({ method: next === 'GET' ? null : next })}
            options={['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE'].map((value) => ({
              value,
              label: value,
            }))}
          />
        </label>
        <label>
          Of
          <StateChoice value={state} onChange={(next) => change({ state: next })} />
        </label>
      </form>
      <section className={css.tryResult} aria-label="What happens" aria-live="polite">
        {visit.error ? (
          <Failure error={visit.error} retry={() => void visit.refetch()} site={site.id} />
        ) : visit.data ? (
          <>
            <VisitView
              visit={visit.data}
              ruleAt={(line) => ruleAddress(site.id, state, line)}
              visitAs={(visitor) =>
                visitAddress(site.id, request!.address, { ...request, as: undefined, visitor })
              }
            />
            <ExpectThis key={JSON.stringify(request)} visit={visit.data} request={request!} />
          </>
        ) : (
          <Waiting what="the visit" />
        )}
      </section>
    </div>
  );
}

function Traits({
  title,
  name,
  known,
}: {
  title: string;
  name: string;
  known: Readonly<Record<string, string>>;
}) {
  const { query, change } = useAddressState();
  return (
    <label>
      {title}
      <Select
        aria-label={title}
        mode="multiple"
        value={query.getAll(name)}
        placeholder="None"
        onChange={(next: string[]) => change({ [name]: next })}
        options={Object.entries(known).map(([value, text]) => ({
          value,
          label: text ? `${value}: ${text}` : value,
        }))}
        optionLabelProp="value"
      />
    </label>
  );
}

function requestFrom(query: URLSearchParams, { visitors }: Names, state: string): VisitRequest {
  const as = query.get('as') ?? visitors[0]?.name ?? SOMEONE;
  const at = query.get('at');
  return {
    address: query.get('address') ?? '/',
    ...(as === SOMEONE ? { visitor: madeUp(query) } : { as }),
    method: query.get('method') ?? 'GET',
    state,
    ...(at ? { at } : {}),
  };
}
